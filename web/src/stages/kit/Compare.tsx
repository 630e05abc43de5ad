import { useState } from "react";
import type { KitView } from "../../api/schema";
import { halves, range, rough, signed } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";

const MOST = 4;

/** A row of the comparison: a figure of each kit, whether more is better, and how it is written. */
interface Row {
  name: string;
  value: (view: KitView) => number | undefined;
  shown: (view: KitView) => string;
  better: "more" | "less";
  /** What two kits must differ by before the row decides anything, as a share of the larger. */
  decides?: number;
}

/** Up to four kits in one table; what decides is marked. */
export function Compare({ kits, currency }: { kits: KitView[]; currency: string }) {
  const [left, setLeft] = useState<string[]>([]);
  const shown = kits.filter((view) => !left.includes(view.kit.id)).slice(0, MOST);
  const toggle = (id: string) =>
    setLeft((now) => (now.includes(id) ? now.filter((one) => one !== id) : [...now, id]));
  const outlook = (view: KitView) => view.judged.assessment.outlook;
  const effort = (view: KitView) => view.judged.assessment.effort;
  const bands = [
    ...new Map(
      shown.flatMap((view) =>
        outlook(view).bands.map((band) => [`${band.band.technology}${band.band.band}`, band.band] as const),
      ),
    ).values(),
  ];
  const gain = (view: KitView, technology: string, band: number) =>
    outlook(view).bands.find(
      (one) => one.band.technology === technology && one.band.band === band && one.radio,
    )?.budget.net_gain_dbi ?? undefined;
  const rows: Row[] = [
    {
      name: `Price, ${currency}`,
      value: (view) => effort(view).price,
      shown: (view) => signed(effort(view).price, 0),
      better: "less",
    },
    {
      name: "Hours",
      value: (view) => effort(view).hours,
      shown: (view) => signed(effort(view).hours, 1),
      better: "less",
    },
    {
      name: "Holes",
      value: (view) => effort(view).holes,
      shown: (view) => `${effort(view).holes}${effort(view).reversible ? ", can be undone" : ""}`,
      better: "less",
    },
    ...bands.map(({ technology, band }): Row => {
      const of = (view: KitView) => gain(view, technology, band);
      return {
        name: `Net gain on ${bandName(technology, band)}, dBi`,
        value: of,
        shown: (view) => {
          const value = of(view);
          return value === undefined ? "not carried" : signed(value, 1);
        },
        better: "more",
      };
    }),
    {
      name: "Download, Mbit/s",
      value: (view) => outlook(view).down_mbps?.likely,
      shown: (view) => {
        const down = outlook(view).down_mbps;
        return down ? range(down, rough) : "–";
      },
      better: "more",
    },
    {
      name: "Upload, Mbit/s",
      value: (view) => outlook(view).up_mbps?.likely,
      shown: (view) => {
        const up = outlook(view).up_mbps;
        return up ? range(up, rough) : "–";
      },
      better: "more",
    },
    {
      name: "Fade margin, dB",
      value: (view) => outlook(view).margin?.margin_db ?? -1,
      shown: (view) => {
        const margin = outlook(view).margin;
        return margin ? halves(margin.margin_db) : "need is missed";
      },
      better: "more",
    },
    {
      name: "To fix first",
      value: (view) => view.judged.said.filter((one) => one.severity === "wrong").length,
      shown: (view) => String(view.judged.said.filter((one) => one.severity === "wrong").length),
      better: "less",
      decides: 0,
    },
    {
      name: "Drawbacks",
      value: (view) => view.judged.said.filter((one) => one.severity === "costs").length,
      shown: (view) => String(view.judged.said.filter((one) => one.severity === "costs").length),
      better: "less",
      decides: 0.5,
    },
  ];
  return (
    <Section title="Kits side by side">
      {kits.length > 2 && (
        <fieldset className="mb-2 flex flex-wrap gap-x-5">
          <legend className="text-sm text-muted">Up to four of them:</legend>
          {kits.map((view) => (
            <label key={view.kit.id} className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5 accent-action"
                checked={shown.includes(view)}
                disabled={!shown.includes(view) && shown.length >= MOST}
                onChange={() => toggle(view.kit.id)}
              />
              {view.kit.name}
            </label>
          ))}
        </fieldset>
      )}
      <TableBox label="Comparison of kits">
        <table className="w-full leading-snug">
          <thead>
            <tr className="border-b border-rule text-left [&>th]:px-2 [&>th]:py-1">
              <th>
                <span className="sr-only">Figure</span>
              </th>
              {shown.map((view) => (
                <th key={view.kit.id}>{view.kit.name}</th>
              ))}
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => {
              const best = decides(row, shown);
              return (
                <tr key={row.name} className="border-b border-rule align-top [&>*]:px-2 [&>*]:py-1.5">
                  <th className="text-left font-normal text-muted">{row.name}</th>
                  {shown.map((view) => (
                    <td key={view.kit.id} className={best === view ? "bg-lamp-wash font-bold" : ""}>
                      {row.shown(view)}
                      {best === view && <span className="sr-only"> (best, and it decides)</span>}
                    </td>
                  ))}
                </tr>
              );
            })}
          </tbody>
        </table>
      </TableBox>
      <p className="mt-2 text-sm text-muted">
        Marked where one kit is ahead of all others by a tenth or more: that is where the choice is made.
      </p>
    </Section>
  );
}

/** The one kit that is ahead of all others by enough, if there is one. */
function decides(row: Row, shown: KitView[]): KitView | undefined {
  const sign = row.better === "more" ? 1 : -1;
  const ranked = shown
    .map((view) => ({ view, value: row.value(view) }))
    .filter((one): one is { view: KitView; value: number } => one.value !== undefined)
    .sort((a, b) => sign * (b.value - a.value));
  const [first, second] = ranked;
  if (!first || !second || first.value === second.value) return undefined;
  const larger = Math.max(Math.abs(first.value), Math.abs(second.value));
  return Math.abs(first.value - second.value) >= (row.decides ?? 0.1) * larger ? first.view : undefined;
}
