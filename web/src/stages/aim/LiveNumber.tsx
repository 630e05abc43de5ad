import { useEffect, useRef, useState } from "react";
import { useLink } from "../../api/queries";
import type { CellKey, LiveFigure } from "../../api/schema";
import { halves, whole } from "../../ui/format";
import { bandName } from "../../ui/words";
import { LiveSound } from "./LiveSound";

const TRENDS = { rising: "▲ rising", steady: "steady", falling: "▼ falling" } as const;
type Shown = "sinr" | "rsrp";
type Wanted = Shown | "both";
const NAMES: Record<Shown, string> = { sinr: "Signal-to-noise (SINR)", rsrp: "Signal (RSRP)" };

/** One number large enough for arm's length: smoothed, with the best so far and how far off it the hand is. */
export function LiveNumber({ siteId }: { siteId: string }) {
  const link = useLink(siteId).data;
  const [wanted, setWanted] = useState<Wanted>("sinr");
  const live = link?.live;
  const shown: Shown = wanted !== "rsrp" && live?.sinr ? "sinr" : "rsrp";
  const figure = live?.[shown];
  const away = link?.status.kind !== "live";
  const changed = useCellChange(live?.cell);
  useNewBest(figure?.best, shown);
  return (
    <section
      aria-label="Live number"
      className={`rounded-lg border p-4 ${changed ? "animate-pulse border-4 border-starved bg-lamp-wash" : "border-rule bg-surface"}`}
    >
      <div className="flex flex-wrap items-baseline justify-between gap-2">
        <p className="font-semibold">{NAMES[shown]}</p>
        <p className="text-muted">
          {live ? `${bandName(live.cell.technology, live.cell.band)}, PCI ${live.cell.pci ?? "?"}` : ""}
        </p>
      </div>
      {figure ? (
        <Figure figure={figure} shown={shown} />
      ) : (
        <p className="mt-2 text-2xl font-bold">Waiting for the gateway…</p>
      )}
      {wanted === "both" && shown === "sinr" && live?.rsrp && (
        <p className="mt-2 text-4xl font-bold tabular-nums">
          {whole(live.rsrp.value)} <span className="text-xl">dBm RSRP</span>
        </p>
      )}
      {changed && (
        <p role="status" className="mt-1 font-bold text-starved">
          Another cell answers now.
        </p>
      )}
      {away && figure && <p className="mt-1 font-semibold">This is the last that was heard.</p>}
      <div className="mt-3 grid grid-cols-3 gap-2">
        {(["sinr", "rsrp", "both"] as const).map((one) => (
          <button
            key={one}
            type="button"
            aria-pressed={wanted === one}
            onClick={() => setWanted(one)}
            className={`min-h-14 rounded-lg border px-2 font-semibold ${wanted === one ? "border-ink bg-lamp-wash" : "border-edge"}`}
          >
            {{ sinr: "SINR", rsrp: "Signal (RSRP)", both: "Both" }[one]}
          </button>
        ))}
      </div>
      <LiveSound figure={figure} shown={shown} changed={changed} />
    </section>
  );
}

/** A short buzz at a new best, also without sound. */
function useNewBest(best: number | undefined, shown: Shown): void {
  const before = useRef<{ shown: Shown; best: number }>(undefined);
  useEffect(() => {
    if (best === undefined) return;
    const last = before.current;
    if (last?.shown === shown && best > last.best + 0.05) navigator.vibrate?.(60);
    before.current = { shown, best };
  }, [best, shown]);
}

/** How long another cell is shown and sounds, ms. */
const FLASH_MS = 4000;

/** True for some seconds after another cell began to answer. */
function useCellChange(cell: CellKey | undefined): boolean {
  const [changed, setChanged] = useState(false);
  const name = cell && JSON.stringify(cell);
  const before = useRef<string>(undefined);
  useEffect(() => {
    if (name === undefined) return;
    const other = before.current !== undefined && before.current !== name;
    before.current = name;
    if (!other) return;
    setChanged(true);
    navigator.vibrate?.([200, 100, 200]);
    const timer = setTimeout(() => setChanged(false), FLASH_MS);
    return () => clearTimeout(timer);
  }, [name]);
  return changed;
}

function Figure({ figure, shown }: { figure: LiveFigure; shown: Shown }) {
  const off = figure.best - figure.value;
  return (
    <>
      <p className="mt-1 text-7xl leading-none font-bold tabular-nums" aria-live="off">
        {shown === "sinr" ? halves(figure.value) : whole(figure.value)}
        <span className="text-2xl">{shown === "sinr" ? " dB" : " dBm"}</span>
      </p>
      <p className="mt-2 text-lg">
        {off < 0.25 ? "at the best so far" : `${halves(off)} dB below the best`},{" "}
        <strong className="text-2xl">{TRENDS[figure.trend]}</strong>
      </p>
      <p className="text-sm text-muted">Wait 3 s after each turn.</p>
    </>
  );
}
