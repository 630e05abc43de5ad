import { answered, api } from "../../api/client";
import type { SweepView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { halves, whole } from "../../ui/format";
import { type Column, SortableTable } from "../../ui/SortableTable";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import { angle } from "./angle";

type Stop = SweepView["stops"][number];

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
  const columns: Column<Stop>[] = [
    {
      name: "Angle",
      sort: (stop) => stop.angle_deg,
      cell: (stop) => <strong>{angle(stop.angle_deg, view.sweep.axis)}</strong>,
    },
    { name: "Signal (RSRP), dBm", sort: (stop) => stop.rsrp_dbm, cell: heard },
    {
      name: "SINR, dB",
      sort: (stop) => stop.sinr_db,
      cell: (stop) => (stop.sinr_db == null ? "" : halves(stop.sinr_db)),
    },
    { name: "Samples", sort: (stop) => stop.samples, cell: (stop) => stop.samples },
    {
      name: "In the fit",
      cell: (stop) => (
        <>
          {stop.outlier && "hardly counts "}
          <Button look="plain" onClick={() => leave(stop.id, !stop.left_out)}>
            {stop.left_out ? "Take it in again" : "Leave it out"}
          </Button>
        </>
      ),
    },
  ];
  return (
    <Section title="Points">
      <SortableTable
        label="Points of this sweep"
        rows={view.stops}
        rowKey={(stop) => stop.id}
        columns={columns}
      />
    </Section>
  );
}

function heard(stop: Stop): string {
  if (stop.rsrp_dbm != null) return whole(stop.rsrp_dbm);
  if (stop.samples === 0) return "not heard: measure it again";
  return stop.left_out ? "left out" : "another cell";
}
