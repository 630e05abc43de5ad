import { useQuery } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { answered, api, newId } from "../../api/client";
import type { Choice, RasterQuantity, RasterRequest, SurveyView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { whole } from "../../ui/format";
import { useAction } from "../../ui/useAction";
import { bandName, CLASSES } from "../../ui/words";
import type { RasterShown } from "./PlanView";

const LEGEND = ["ample", "solid", "usable", "thin", "starved"] as const;
const SIZES: Record<string, { words: string; half_m: number; points: number }> = {
  property: { words: "The property, 200 m across", half_m: 100, points: 100 },
  round: { words: "2 km across", half_m: 1000, points: 200 },
  wide: { words: "10 km across", half_m: 5000, points: 300 },
};

const QUANTITIES: [RasterQuantity, string][] = [
  ["signal", "Signal (RSRP)"],
  ["clean_signal", "Signal-to-noise (SINR)"],
];

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
  const [quantity, setQuantity] = useState<RasterQuantity>("signal");
  const [asked, setAsked] = useState<string>();
  const make = useAction(undefined, async (body: RasterRequest) => {
    await answered(api.POST("/api/sites/{id}/survey/raster", { params: { path: { id: siteId } }, body }));
    setAsked(body.id);
  });
  const cancel = useAction(undefined, (id: string) =>
    answered(api.DELETE("/api/rasters/{id}", { params: { path: { id } } })),
  );
  const state = useQuery({
    queryKey: ["raster", asked],
    enabled: asked !== undefined,
    refetchInterval: (query) => (query.state.data?.finished || query.state.data?.failed ? false : 300),
    queryFn: () => answered(api.GET("/api/rasters/{id}", { params: { path: { id: asked ?? "" } } })),
  }).data;
  const done = asked && state?.finished ? state : undefined;
  useEffect(() => {
    onShown(done ? { url: `/api/rasters/${done.id}/picture.png`, span: done.span } : undefined);
  }, [done, onShown]);
  const mast = view.masts.find((one) => one.mast.id === chosen?.mast_id)?.mast;
  if (!mast || !chosen || !view.house || (mast.cells?.length ?? 0) === 0) return null;
  const cells = mast.cells ?? [];
  const running = asked !== undefined && state !== undefined && !state.finished && !state.failed;
  const begin = () => {
    const way = SIZES[size] ?? { words: "", half_m: 1000, points: 200 };
    const house = view.house;
    if (!house) return;
    const id = newId();
    make.run({
      id,
      middle: house,
      half_m: way.half_m,
      quantity,
      columns: way.points,
      rows: way.points,
      height_m: chosen.height_m,
      mast: mast.id,
      cell: Math.min(cell, cells.length - 1),
    });
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
        <div className="w-52">
          <ChoiceField label="What" value={quantity} choices={QUANTITIES} onChange={setQuantity} />
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
            <Button onClick={() => cancel.run(asked)}>Cancel</Button>
          </>
        ) : (
          <Button disabled={make.busy} onClick={begin}>
            Make the map
          </Button>
        )}
        {done && (
          <Button look="plain" onClick={() => setAsked(undefined)}>
            Take it off
          </Button>
        )}
      </div>
      {state?.failed && <p className="mt-2">{state.failed}</p>}
      {done?.lowest != null && done.highest != null && (
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
            From {whole(done.lowest)} to {whole(done.highest)} {done.quantity === "signal" ? "dBm" : "dB"},
            antenna aimed at the mast everywhere.
          </span>
        </p>
      )}
    </details>
  );
}
