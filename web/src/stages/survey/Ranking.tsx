import { useState } from "react";
import type { Choice, SurveyView, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { bearing, difference, halves, length, range, rough, signed, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";
import { ACCESS } from "./words";

/** Rows shown before more are asked for. */
const SHOWN = 6;

/** Each position with each mast, at the height that serves it best, the best first. */
function bestHeights(choices: Choice[]): { choice: Choice; index: number }[] {
  const seen = new Set<string>();
  return choices
    .map((choice, index) => ({ choice, index }))
    .filter(({ choice }) => {
      const key = `${choice.position_id}~${choice.mast_id}`;
      if (seen.has(key)) return false;
      seen.add(key);
      return true;
    });
}

export function Ranking({
  view,
  chosen,
  onChoose,
  units,
}: {
  view: SurveyView;
  chosen: Choice | undefined;
  onChoose: (choice: Choice) => void;
  units: Units;
}) {
  const [all, setAll] = useState(false);
  const rows = bestHeights(view.ranking.choices);
  const shown = all ? rows : rows.slice(0, SHOWN);
  return (
    <Section
      title="Positions and masts, the best first"
      aside={
        rows.length > SHOWN && (
          <Button look="plain" onClick={() => setAll(!all)}>
            {all ? "Show the best only" : `Show all ${rows.length}`}
          </Button>
        )
      }
    >
      <TableBox label="Ranking">
        <table className="w-full border-collapse text-left">
          <thead className="text-sm text-muted">
            <tr>
              <th className="py-1 pr-4 font-semibold">Position to mast</th>
              <th className="pr-4 font-semibold">Height</th>
              <th className="pr-4 font-semibold">Aim, tilt</th>
              <th className="pr-4 font-semibold">Signal (RSRP), SINR</th>
              <th className="pr-4 font-semibold">Expected, Mbit/s</th>
              <th className="font-semibold">Cable, reached</th>
            </tr>
          </thead>
          <tbody>
            {shown.map(({ choice, index }) => {
              const on = choice.position_id === chosen?.position_id && choice.mast_id === chosen?.mast_id;
              const band = choice.bands[0];
              return (
                <tr
                  key={`${choice.position_id}~${choice.mast_id}`}
                  className={`border-t border-rule align-top ${on ? "bg-lamp-wash" : ""}`}
                >
                  <td className="min-w-40 py-2 pr-4 pl-1">
                    <button
                      type="button"
                      aria-pressed={on}
                      onClick={() => onChoose(choice)}
                      className="prints min-h-11 text-left font-semibold text-action underline decoration-transparent underline-offset-4 hover:decoration-current"
                    >
                      {choice.position} to {choice.mast}
                    </button>
                    {index === 0 && <span className="ml-2 text-sm">best</span>}
                    {index === view.ranking.runner_up && <span className="ml-2 text-sm">runner-up</span>}
                  </td>
                  <td className="py-2 pr-4 whitespace-nowrap">{length(choice.height_m, units)}</td>
                  <td className="py-2 pr-4 whitespace-nowrap">
                    {bearing(choice.bearing_deg)}
                    {choice.elevation_deg != null && `, ${difference(choice.elevation_deg, 0)}°`}
                  </td>
                  <td className="py-2 pr-4 whitespace-nowrap">
                    {band
                      ? `${bandName(band.band.technology, band.band.band)}: ${whole(band.rsrp_dbm.likely)} dBm`
                      : "nothing"}
                    {band && (
                      <span className="block text-sm text-muted">{halves(band.sinr_db.likely)} dB clean</span>
                    )}
                  </td>
                  <td className="py-2 pr-4 whitespace-nowrap">
                    {range(choice.down_mbps, rough)} down
                    <span className="block text-sm text-muted">{range(choice.up_mbps, rough)} up</span>
                  </td>
                  <td className="py-2 whitespace-nowrap">
                    {units === "imperial"
                      ? length(choice.cable_m, units)
                      : `${signed(choice.cable_m, 0)}\u202fm`}
                    <span className="block text-sm text-muted">{ACCESS[choice.access]}</span>
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      </TableBox>
      <p className="mt-2 max-w-3xl text-sm text-muted">
        Computed for {view.antenna}. Speeds are what to expect here: what the radio allows, less what others
        use, as far as it was measured. The place that serves your household best goes first: both ways count,
        and the lower end of a range as much as its upper end. Places that are alike are ordered by how easily
        they are reached.
      </p>
    </Section>
  );
}
