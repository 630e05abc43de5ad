import { ToggleGroup } from "radix-ui";
import type { BestView, ComparisonRowView, SetupStanding, Weighing } from "../../api/schema";
import { useChooseSetup } from "../../shell/useSiteContext";
import { withUnit } from "../../ui/format";
import { Section } from "../StageHeader";
import { ByPart } from "./ByPart";

const FIRST: Record<Weighing, string> = {
  alike: "All alike",
  download: "Download",
  upload: "Upload",
  latency: "Latency",
  steadiness: "Steady hours",
  ease: "Price and effort",
};
const WEIGHINGS = Object.keys(FIRST) as Weighing[];

/** What an address says, where it is one of the weighings. */
export const weighingOf = (text: string | undefined): Weighing | undefined =>
  WEIGHINGS.find((known) => known === text);

const percent = (chance: number) =>
  chance > 0.995 ? ">99" : chance < 0.005 ? "<1" : `${Math.round(chance * 100)}`;

/** Setups less likely to be the best than this are folded away; so are those beyond so many. */
const WORTH_SHOWING = 0.02;
const MOST_SHOWN = 4;

/** How likely each setup is to serve the household best, and whether it meets the need. */
export function Best({
  best,
  rows,
  onWeigh,
}: {
  best: BestView;
  rows: ComparisonRowView[];
  onWeigh: (weighing: Weighing) => void;
}) {
  const ranked = best.standings
    .map((standing, at) => ({
      standing,
      said: best.standings_said[at] ?? "",
      label: rows.find((row) => row.setup_id === standing.setup_id)?.label ?? "",
    }))
    .toSorted((a, b) => b.standing.chance_of_best - a.standing.chance_of_best);
  const winner = ranked.find((one) => one.standing.setup_id === best.setup_id);
  // At least two, so that there is something to compare; at most those that may well be it.
  const likely = ranked.filter((one) => one.standing.chance_of_best >= WORTH_SHOWING).length;
  const shown = Math.max(2, Math.min(MOST_SHOWN, likely));
  return (
    <Section
      title="Which serves you best"
      aside={
        <ToggleGroup.Root
          type="single"
          value={best.weighing}
          aria-label="What comes first once the need is met"
          onValueChange={(value) => value && onWeigh(value as Weighing)}
          className="flex flex-wrap gap-1"
        >
          {WEIGHINGS.map((one) => (
            <ToggleGroup.Item
              key={one}
              value={one}
              className="min-h-11 rounded-lg border border-rule px-2.5 text-sm data-[state=on]:border-ink data-[state=on]:bg-surface data-[state=on]:font-bold"
            >
              {FIRST[one]}
            </ToggleGroup.Item>
          ))}
        </ToggleGroup.Root>
      }
    >
      <ol aria-label="Chance of being the best" className="flex flex-col gap-1">
        {ranked.slice(0, shown).map((one) => (
          <Row key={one.standing.setup_id} {...one} />
        ))}
      </ol>
      {shown < ranked.length && (
        <details className="px-3">
          <summary className="text-sm font-semibold">{ranked.length - shown} more, all less likely</summary>
          <ol className="-mx-3 mt-1 flex flex-col gap-1">
            {ranked.slice(shown).map((one) => (
              <Row key={one.standing.setup_id} {...one} />
            ))}
          </ol>
        </details>
      )}
      <p className="mt-2 text-sm text-muted">
        Chance of being the best of those tested: the need is met first, at the slowest hours; then what you
        weigh above.
      </p>
      {winner && <ByPart label={winner.label} parts={winner.standing.by_part} need={best.need.down_mbps} />}
    </Section>
  );
}

/** One setup: whether it meets the need, and how likely it is the best. */
function Row({ standing, said, label }: { standing: SetupStanding; said: string; label: string }) {
  const choose = useChooseSetup();
  return (
    <li>
      <button
        type="button"
        onClick={() => choose(standing.setup_id)}
        className="prints grid w-full grid-cols-[minmax(0,1fr)_4rem] items-center gap-x-3 rounded-xl border border-transparent px-3 py-1.5 text-left leading-tight hover:border-rule sm:grid-cols-[minmax(0,20rem)_minmax(4rem,1fr)_4rem]"
      >
        <span>
          <span className="block font-bold">{label}</span>
          {said && <span className="block text-sm text-muted">{said}</span>}
        </span>
        <span aria-hidden="true" className="hidden h-3 rounded-full bg-rule sm:block">
          <span
            className="block h-3 rounded-full bg-lamp print:border print:border-ink"
            style={{ width: `${standing.chance_of_best * 100}%` }}
          />
        </span>
        <span className="text-right font-bold tabular-nums">
          {withUnit(percent(standing.chance_of_best), "%")}
        </span>
      </button>
    </li>
  );
}
