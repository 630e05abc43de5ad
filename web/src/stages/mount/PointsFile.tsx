import { useState } from "react";
import { answered, api } from "../../api/client";
import type { Mount, PointHere, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { FileField } from "../../ui/FileField";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { MOUNTS } from "../../ui/words";
import { distance } from "../survey/words";
import { addPosition } from "./adding";

const mounts = Object.entries(MOUNTS) as [Mount, string][];

/** Positions taken with a receiver or set on a map: each point of a file can become one. */
export function PointsFile({ siteId, units }: { siteId: string; units: Units }) {
  const look = useAction(
    undefined,
    async (file: File) =>
      answered(
        api.POST("/api/sites/{id}/points", {
          params: { path: { id: siteId } },
          body: { file_name: file.name, text: await file.text() },
        }),
      ),
    { beside: true },
  );
  return (
    <details className="mt-6">
      <summary className="font-semibold">Positions from a file (GPX, KML, GeoJSON)</summary>
      <div className="mt-3 flex flex-col gap-4">
        <FileField
          label="File of points"
          accept=".gpx,.kml,.geojson,.json,.csv,.xml"
          onChoose={(file) => look.run(file)}
        />
        {look.problem && (
          <p role="alert" className="font-semibold text-starved">
            {look.problem}
          </p>
        )}
        {look.answer && (
          <ul
            aria-label="Points of the file"
            className="flex flex-col divide-y divide-rule border-y border-rule"
          >
            {look.answer.map((one, at) => (
              <Point
                // biome-ignore lint/suspicious/noArrayIndexKey: points of a file have no other identity
                key={at}
                siteId={siteId}
                units={units}
                of={one}
                name={one.point.name || `Point ${at + 1}`}
              />
            ))}
          </ul>
        )}
      </div>
    </details>
  );
}

function Point({ siteId, units, of, name }: { siteId: string; units: Units; of: PointHere; name: string }) {
  const [mount, setMount] = useState<Mount>("wall");
  const [added, setAdded] = useState(false);
  const notice = useNotice();
  const add = useAction(
    siteId,
    async () => {
      await addPosition(siteId, {
        name,
        mount,
        notes: of.point.notes,
        place: of.point.place,
        spot: { floor: "", room: "", facing_deg: null, window: "" },
        height_above_ground_m: null,
      });
      setAdded(true);
      notice(`${name} is added.`);
    },
    { beside: true },
  );
  const where =
    of.distance_m == null || of.bearing_deg == null
      ? ""
      : `${distance(of.distance_m, units)} from the house at ${Math.round(of.bearing_deg) % 360}°\u202fT`;
  return (
    <li className="flex flex-wrap items-end gap-3 py-3">
      <div className="min-w-40 flex-1">
        <p className="font-semibold">{name}</p>
        <p className="text-sm text-muted">{[where, of.point.notes].filter(Boolean).join("; ")}</p>
        {add.problem && (
          <p role="alert" className="text-sm font-semibold text-starved">
            {add.problem}
          </p>
        )}
      </div>
      <ChoiceField label={`Mount of ${name}`} value={mount} choices={mounts} onChange={setMount} />
      <Button disabled={added} onClick={() => add.run()}>
        {added ? "Added" : "Add it"}
      </Button>
    </li>
  );
}
