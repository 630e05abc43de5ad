import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answered, api, newId } from "../../api/client";
import type { Choice, GeoSpan, SurveyView } from "../../api/schema";
import { Button } from "../../kit/Button";
import { ChoiceField } from "../../kit/Field";
import { whole } from "../../kit/format";
import { useNotice } from "../../kit/notices";
import { bandName, CLASSES } from "../../kit/words";
import type { RasterShown } from "./PlanView";

const LEGEND = ["ample", "solid", "usable", "thin", "starved"] as const;
const SIZES: Record<string, { words: string; half_m: number; points: number }> = {
  property: { words: "The property, 200 m across", half_m: 100, points: 100 },
  round: { words: "2 km across", half_m: 1000, points: 200 },
  wide: { words: "10 km across", half_m: 5000, points: 300 },
};

function spanOf(latitude: number, longitude: number, half_m: number): GeoSpan {
  const north = half_m / 111_320;
  const east = north / Math.cos((latitude * Math.PI) / 180);
  return {
    south_deg: latitude - north,
    north_deg: latitude + north,
    west_deg: longitude - east,
    east_deg: longitude + east,
  };
}

/** A map of predicted signal for the chosen mast and one of its bands, with progress and cancel. */
export function RasterBar({
  siteId,
  view,
  chosen,
  onShown,
}: {
  siteId: string;
  view: SurveyView;
  chosen: Choice | undefined;
  onShown: (raster: RasterShown | undefined) => void;
}) {
  const [size, setSize] = useState("round");
  const [cell, setCell] = useState(0);
  const [asked, setAsked] = useState<{ id: string; span: GeoSpan }>();
  const notice = useNotice();
  const state = useQuery({
    queryKey: ["raster", asked?.id],
    enabled: asked !== undefined,
    refetchInterval: (query) => (query.state.data?.finished || query.state.data?.failed ? false : 300),
    queryFn: () => answered(api.GET("/api/rasters/{id}", { params: { path: { id: asked?.id ?? "" } } })),
  }).data;
  const done = asked && state?.finished ? asked : undefined;
  useEffect(() => {
    onShown(done ? { url: `/api/rasters/${done.id}/picture.png`, span: done.span } : undefined);
  }, [done, onShown]);
  const mast = view.masts.find((one) => one.mast.id === chosen?.mast_id)?.mast;
  if (!mast || !chosen || !view.house || (mast.cells?.length ?? 0) === 0) return null;
  const cells = mast.cells ?? [];
  const running = asked !== undefined && state !== undefined && !state.finished && !state.failed;
  const begin = async () => {
    const way = SIZES[size] ?? { words: "", half_m: 1000, points: 200 };
    const house = view.house;
    if (!house) return;
    const span = spanOf(house.latitude_deg, house.longitude_deg, way.half_m);
    const id = newId();
    try {
      await answered(
        api.POST("/api/sites/{id}/survey/raster", {
          params: { path: { id: siteId } },
          body: {
            id,
            span,
            columns: way.points,
            rows: way.points,
            height_m: chosen.height_m,
            mast: mast.id,
            cell: Math.min(cell, cells.length - 1),
          },
        }),
      );
      setAsked({ id, span });
    } catch (error) {
      notice(error instanceof Error ? error.message : "It did not work.");
    }
  };
  return (
    <details className="mt-3">
      <summary className="min-h-11 py-2 font-semibold">Map of the signal of {mast.name}</summary>
      <div className="mt-2 flex flex-wrap items-end gap-4">
        <div className="w-44">
          <ChoiceField
            label="Band"
            value={String(Math.min(cell, cells.length - 1))}
            choices={cells.map((one, at): [string, string] => [
              String(at),
              bandName(one.technology, one.band),
            ])}
            onChange={(at) => setCell(Number(at))}
          />
        </div>
        <div className="w-64">
          <ChoiceField
            label="Area round the house"
            value={size}
            choices={Object.entries(SIZES).map(([key, one]): [string, string] => [key, one.words])}
            onChange={setSize}
          />
        </div>
        {running ? (
          <>
            <progress
              value={state.rows_done}
              max={state.rows}
              aria-label="Map in the making"
              className="h-11 w-48 accent-[var(--lamp)]"
            />
            <Button
              onClick={() =>
                void answered(api.DELETE("/api/rasters/{id}", { params: { path: { id: asked.id } } })).catch(
                  (error: Error) => notice(error.message),
                )
              }
            >
              Cancel
            </Button>
          </>
        ) : (
          <Button onClick={() => void begin()}>Make the map</Button>
        )}
        {done && (
          <Button look="plain" onClick={() => setAsked(undefined)}>
            Take it off
          </Button>
        )}
      </div>
      {state?.failed && <p className="mt-2">{state.failed}</p>}
      {done && state?.lowest_dbm != null && state.highest_dbm != null && (
        <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-1">
          {LEGEND.map((name) => (
            <span key={name} className="inline-flex items-center gap-1.5">
              <span
                className="inline-block size-4 border border-edge"
                style={{ background: `var(--${name})` }}
                aria-hidden="true"
              />
              {CLASSES[name]}
            </span>
          ))}
          <span className="text-muted">
            From {whole(state.lowest_dbm)} to {whole(state.highest_dbm)} dBm, antenna aimed at the mast
            everywhere.
          </span>
        </p>
      )}
    </details>
  );
}
