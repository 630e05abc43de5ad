import { answered, api } from "../../api/client";
import type { SweepView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { halves, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import { angle } from "./angle";

/** Points of a sweep, each with what it counts for. */
export function Points({ siteId, view }: { siteId: string; view: SweepView }) {
  const leaving = useAction(
    siteId,
    (stop: string, left_out: boolean) =>
      answered(
        api.PUT("/api/sites/{id}/sweeps/{sweep}/stops/{stop}", {
          params: { path: { id: siteId, sweep: view.sweep.id, stop } },
          body: { left_out },
        }),
      ),
    { queue: true },
  );
  const leave = leaving.run;
  if (view.stops.length === 0) return null;
  return (
    <Section title="Points">
      <TableBox label="Points of this sweep">
        <table className="w-full border-collapse text-left">
          <thead className="text-sm text-muted">
            <tr>
              <th className="py-1 pr-4 font-semibold">Angle</th>
              <th className="pr-4 font-semibold">Signal (RSRP), dBm</th>
              <th className="pr-4 font-semibold">SINR, dB</th>
              <th className="pr-4 font-semibold">Samples</th>
              <th className="font-semibold">In the fit</th>
            </tr>
          </thead>
          <tbody>
            {view.stops.map((stop) => (
              <tr key={stop.id} className="border-t border-rule">
                <td className="py-1 pr-4 font-semibold">{angle(stop.angle_deg, view.sweep.axis)}</td>
                <td className="pr-4">
                  {stop.rsrp_dbm != null
                    ? whole(stop.rsrp_dbm)
                    : stop.samples === 0
                      ? "not heard: measure it again"
                      : stop.left_out
                        ? "left out"
                        : "another cell"}
                </td>
                <td className="pr-4">{stop.sinr_db == null ? "" : halves(stop.sinr_db)}</td>
                <td className="pr-4">{stop.samples}</td>
                <td>
                  {stop.outlier && "hardly counts "}
                  <Button look="plain" onClick={() => leave(stop.id, !stop.left_out)}>
                    {stop.left_out ? "Take it in again" : "Leave it out"}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableBox>
    </Section>
  );
}
