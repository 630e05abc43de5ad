import { useNavigate } from "@tanstack/react-router";
import { ToggleGroup } from "radix-ui";
import { useState } from "react";
import type { BandsView, PartOfDay, TestDot, TrialRow } from "../../api/schema";
import { type LedgerRow, LedgerScale, LedgerTrack, scaleFor } from "../../drawings/Ledger";
import { ChoiceField } from "../../ui/Field";
import { halves, significant, whole } from "../../ui/format";
import { bandName } from "../../ui/words";
import { KeepButton } from "./Kept";

type Figure = "down" | "up" | "latency";

const FIGURES: readonly (readonly [Figure, string, string])[] = [
  ["down", "Download", "Mbit/s"],
  ["up", "Upload", "Mbit/s"],
  ["latency", "Latency under load", "ms"],
];

const DOT: Record<Figure, (dot: TestDot) => number | null | undefined> = {
  down: (dot) => dot.down_mbps,
  up: (dot) => dot.up_mbps,
  latency: (dot) => dot.loaded_latency_ms,
};

function ledgerRow({ standing }: TrialRow, figure: Figure): LedgerRow {
  const summary = { down: standing.down, up: standing.up, latency: standing.loaded_latency }[figure];
  const interval = {
    down: standing.down_interval,
    up: standing.up_interval,
    latency: standing.latency_interval,
  }[figure];
  return {
    values: standing.tests.flatMap((dot, at) => {
      const value = DOT[figure](dot);
      return value == null ? [] : [{ test_id: `${dot.at}/${at}`, value }];
    }),
    summary: summary ?? null,
    geometric_mean: summary?.median ?? null,
    interval: interval ?? null,
  };
}

/** A part of the day as the address has it. */
const named = (part: PartOfDay | undefined) => (part ? `${part.from_hour}-${part.to_hour}` : "all");

/** Hours of the day at which a choice was tested. */
function hours(row: TrialRow): string {
  const all = [...new Set(row.standing.tests.map((dot) => Math.floor(dot.hour)))].sort((a, b) => a - b);
  return all.length > 0 ? `at ${all.join(", ")} h` : "";
}

/** Choices that were tried, a row each: carriers obtained, every test a dot, measured of the possible. */
export function TrialLedger({ siteId, view }: { siteId: string; view: BandsView }) {
  const [figure, setFigure] = useState<Figure>("down");
  const navigate = useNavigate();
  const rows = view.rows.map((row) => ({ row, track: ledgerRow(row, figure) }));
  const dots = rows.flatMap(({ track }) => track.values.map((value) => value.value));
  const scale = scaleFor(dots.length > 0 ? dots : [1]);
  const unit = FIGURES.find(([one]) => one === figure)?.[2] ?? "";
  const free =
    rows.find(({ row }) => row.standing.choice.access === "any")?.track.geometric_mean ?? undefined;
  const grid =
    "grid grid-cols-[minmax(9rem,14rem)_minmax(0,1fr)_minmax(7.5rem,10rem)] items-center gap-x-3 px-3 max-md:grid-cols-1";
  return (
    <div className="mt-5">
      <div className="flex flex-wrap items-end justify-between gap-3">
        <ToggleGroup.Root
          type="single"
          value={figure}
          aria-label="Figure"
          onValueChange={(value) => value && setFigure(value as Figure)}
          className="flex flex-wrap gap-1.5"
        >
          {FIGURES.map(([one, name]) => (
            <ToggleGroup.Item
              key={one}
              value={one}
              className="min-h-11 rounded-lg border border-rule px-2.5 data-[state=on]:border-ink data-[state=on]:bg-surface data-[state=on]:font-bold"
            >
              {name}
            </ToggleGroup.Item>
          ))}
        </ToggleGroup.Root>
        {view.parts.length > 1 && (
          <div className="w-48">
            <ChoiceField
              label="Tests made"
              value={named(view.parts.find((one) => one.part === view.part))}
              choices={[
                ...view.parts.map(
                  (one) => [named(one), `${one.from_hour} to ${one.to_hour} o'clock`] as const,
                ),
                ["all", "at any hour"] as const,
              ]}
              onChange={(part) =>
                void navigate({ to: ".", search: (before) => ({ ...before, part }), replace: true })
              }
            />
          </div>
        )}
      </div>
      <div className={`${grid} mt-3 max-md:hidden`}>
        <span className="text-sm text-muted">Choice, and the carriers obtained</span>
        <LedgerScale scale={scale} />
        <span className="text-sm text-muted">{unit}</span>
      </div>
      <ul aria-label="Choices tried">
        {rows.map(({ row, track }) => (
          <li
            key={row.name}
            className={`${grid} rounded-xl border py-2 ${row.best ? "border-rule bg-surface" : "border-transparent"}`}
          >
            <div className="leading-tight">
              <p className="font-bold">{row.name}</p>
              <ul className="text-sm text-muted">
                {row.standing.obtained.map((carrier) => (
                  <li key={`${carrier.technology}${carrier.band}${carrier.channel}`}>
                    {bandName(carrier.technology, carrier.band)}
                    {carrier.bandwidth_mhz != null && ` ${carrier.bandwidth_mhz} MHz`}:{" "}
                    {carrier.rsrp_dbm != null ? `${whole(carrier.rsrp_dbm)} dBm` : "–"},{" "}
                    {carrier.sinr_db != null ? `${halves(carrier.sinr_db)} dB` : "–"}
                  </li>
                ))}
              </ul>
            </div>
            <LedgerTrack
              row={track}
              scale={scale}
              unit={unit}
              baseline={free}
              strong={row.best}
              tick="median"
            />
            <div className="text-sm leading-snug">
              <p className="text-base font-bold">
                {track.summary
                  ? `${figure === "latency" ? whole(track.geometric_mean ?? 0) : significant(track.geometric_mean ?? 0)} ${unit}`
                  : "not measured"}
              </p>
              <p className="text-muted">
                {row.standing.down_share && (
                  <>{whole(Math.min(1, row.standing.down_share.likely) * 100)} % of the possible, </>
                )}
                {hours(row)}
              </p>
              {row.held && (
                <p className="font-semibold">
                  {row.standing.held_by === "crowded"
                    ? "Crowded at this hour"
                    : row.standing.held_by === "weak"
                      ? "Weak"
                      : "Weak and crowded"}
                </p>
              )}
              {row.dropped && <p className="text-muted">{row.dropped}</p>}
              {row.best && <KeepButton siteId={siteId} view={view} choice={row.standing.choice} />}
            </div>
          </li>
        ))}
      </ul>
    </div>
  );
}
