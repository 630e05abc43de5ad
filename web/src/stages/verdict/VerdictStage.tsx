import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { ToggleGroup } from "radix-ui";
import { useComparison, useSite } from "../../api/queries";
import type {
  ComparisonRowView,
  ComparisonView,
  Need,
  SpeedFigure,
  Versus,
  VersusVerdict,
} from "../../api/schema";
import { figureText, LedgerScale, LedgerTrack, scaleFor } from "../../drawings/Ledger";
import { TradeOff } from "../../drawings/TradeOff";
import { inUse, useChooseSetup, useChosenSetup, useSiteId } from "../../shell/useSiteContext";
import { buttonClass } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { counted, signed, significant } from "../../ui/format";
import { FIGURES } from "../../ui/words";
import { SetupOutlook } from "../SetupOutlook";
import { Section, StageHeader } from "../StageHeader";
import { Against } from "./Against";
import { Best, weighingOf } from "./Best";
import { Limits } from "./Limits";
import { NearBest } from "./NearBest";
import { PredictedAndMeasured } from "./PredictedAndMeasured";

const ORDER: readonly SpeedFigure[] = [
  "download",
  "upload",
  "idle_latency",
  "download_latency",
  "upload_latency",
];

/** Setups side by side against a baseline, for one figure at a time. */
export function VerdictStage() {
  const siteId = useSiteId();
  const search = useSearch({ from: "/sites/$siteId" });
  const navigate = useNavigate();
  const view = useSite(siteId).data;
  const comparison = useComparison(siteId, {
    baseline: search.baseline,
    setups: search.setups,
    weighing: weighingOf(search.weighing),
  });
  const chosen = useChosenSetup();
  const figure = ORDER.find((known) => known === search.figure) ?? "download";
  const data = comparison.data;
  const put = (change: Partial<typeof search>) =>
    void navigate({ to: ".", search: (before) => ({ ...before, ...change }), replace: true });

  if (comparison.isError && !comparison.data) return <p role="alert">{comparison.error.message}</p>;
  if (!data || !view) return <p role="status">Comparing the setups…</p>;
  if (data.rows.length < 2 && search.setups === undefined) {
    return (
      <StageHeader title={data.title} detail={data.detail}>
        <Link to="/sites/$siteId/log" params={{ siteId }} className={buttonClass("filled", "mt-5")}>
          Go to the log
        </Link>
      </StageHeader>
    );
  }

  const recorded = inUse(view)
    .flatMap((position) => position.setups)
    .filter((node) => node.tests + node.samples > 0);
  // What was chosen shows at once; the rows follow when the server has compared them.
  const shown = new Set(
    search.setups === undefined
      ? data.rows.map((row) => row.setup_id)
      : [...search.setups.split(","), data.baseline ?? ""],
  );
  const toggle = (id: string) => {
    const next = recorded
      .map((node) => node.setup.id)
      .filter((other) => (other === id ? !shown.has(id) : shown.has(other)));
    put({ setups: next.join(",") });
  };
  const picked = data.rows.find((row) => row.setup_id === chosen?.setup.setup.id && !row.is_baseline);
  const compared = picked ?? leader(data, figure);
  const limited = chosen?.setup.setup.id ?? data.best?.setup_id;

  return (
    <>
      <StageHeader title={data.best?.title ?? data.title} detail={data.best?.detail ?? data.detail}>
        <Link
          to="/sites/$siteId/as-built"
          params={{ siteId }}
          className={buttonClass("outlined", "mt-3 print:hidden")}
        >
          As-built sheet
        </Link>
      </StageHeader>
      {data.best && <Best best={data.best} rows={data.rows} onWeigh={(weighing) => put({ weighing })} />}
      <div className="mt-8 flex flex-wrap items-end justify-between gap-3">
        <ToggleGroup.Root
          type="single"
          value={figure}
          aria-label="Figure"
          onValueChange={(value) => value && put({ figure: value })}
          className="flex flex-wrap gap-1.5"
        >
          {ORDER.map((one) => (
            <ToggleGroup.Item
              key={one}
              value={one}
              aria-label={FIGURES[one].name}
              className="min-h-11 rounded-lg border border-rule px-2.5 data-[state=on]:border-ink data-[state=on]:bg-surface data-[state=on]:font-bold"
            >
              {FIGURES[one].short}
            </ToggleGroup.Item>
          ))}
        </ToggleGroup.Root>
        <div className="w-52">
          <ChoiceField
            label="Compared with"
            value={data.baseline ?? ""}
            choices={recorded.map((node) => [node.setup.id, node.label] as const)}
            onChange={(baseline) => put({ baseline })}
          />
        </div>
      </div>
      <Ledger data={data} figure={figure} chosen={compared?.setup_id} />
      {data.best && (
        <Weighed data={data} need={data.best.need} best={data.best.setup_id} chosen={compared?.setup_id} />
      )}
      <details className="mt-2">
        <summary className="font-semibold">Which setups are shown</summary>
        <ul className="mt-2 flex flex-wrap gap-x-6 gap-y-1">
          {recorded.map((node) => (
            <li key={node.setup.id}>
              <label className="flex min-h-9 items-center gap-2">
                <input
                  type="checkbox"
                  className="size-5 accent-(--action)"
                  checked={shown.has(node.setup.id)}
                  disabled={node.setup.id === data.baseline}
                  onChange={() => toggle(node.setup.id)}
                />
                {node.label}
              </label>
            </li>
          ))}
        </ul>
      </details>
      {compared && <Against row={compared} baseline={data.rows[0]} />}
      {limited && <Limits siteId={siteId} setupId={limited} />}
      <NearBest siteId={siteId} />
      {compared && <SetupOutlook siteId={siteId} setupId={compared.setup_id} label={compared.label} />}
      <PredictedAndMeasured siteId={siteId} zone={view.site.time_zone} />
    </>
  );
}

const versusOf = (row: ComparisonRowView, figure: SpeedFigure) =>
  row.figures.find((one) => one.figure === figure)?.versus ?? undefined;

function leader(data: ComparisonView, figure: SpeedFigure): ComparisonRowView | undefined {
  return data.rows
    .filter((row) => !row.is_baseline)
    .toSorted((a, b) => (versusOf(b, figure)?.ratio ?? 0) - (versusOf(a, figure)?.ratio ?? 0))[0];
}

/** Download, upload and latency under load of every setup at once. */
function Weighed({
  data,
  need,
  best,
  chosen,
}: {
  data: ComparisonView;
  need: Need;
  best: string;
  chosen: string | undefined;
}) {
  const mean = (row: ComparisonRowView, figure: SpeedFigure) =>
    row.figures.find((one) => one.figure === figure)?.geometric_mean ?? undefined;
  const dots = data.rows.flatMap((row) => {
    const [down, up] = [mean(row, "download"), mean(row, "upload")];
    if (down === undefined || up === undefined) return [];
    return {
      id: row.setup_id,
      label: row.label,
      down,
      up,
      latency: mean(row, "download_latency"),
      named: row.is_baseline || row.setup_id === best || row.setup_id === chosen,
      chosen: row.setup_id === chosen,
    };
  });
  if (dots.length < 2) return null;
  return (
    <Section title="Download, upload and latency together">
      <TradeOff dots={dots} need={{ down: need.down_mbps, up: need.up_mbps }} />
      <p className="mt-1 text-sm text-muted">
        Averages of each setup. What lies in the framed field meets your need on average; the milliseconds are
        the latency while downloading.
      </p>
    </Section>
  );
}

const VERDICTS: Record<VersusVerdict, string> = {
  clear_gain: "clear gain",
  likely_gain: "likely gain",
  cannot_tell: "cannot tell yet",
  likely_loss: "likely loss",
  clear_loss: "clear loss",
  same: "no practical difference",
  too_few: "cannot tell yet",
};

/** The word, and where it is one of doubt what the doubt is. */
const verdictOf = (versus: Versus): string =>
  versus.verdict === "too_few"
    ? Math.min(versus.sittings, versus.baseline_sittings) === 1
      ? "cannot tell: one hour only"
      : "cannot tell: too few hours"
    : VERDICTS[versus.verdict];

function Ledger({
  data,
  figure,
  chosen,
}: {
  data: ComparisonView;
  figure: SpeedFigure;
  chosen: string | undefined;
}) {
  const { unit } = FIGURES[figure];
  const of = (row: ComparisonRowView) => row.figures.find((one) => one.figure === figure);
  const values = data.rows.flatMap((row) => {
    const one = of(row);
    return one ? [...one.values.map((value) => value.value), one.interval?.high ?? 0] : [];
  });
  // A very wide interval of a thin row must not press all others to the left.
  const dots = data.rows.flatMap((row) => of(row)?.values.map((value) => value.value) ?? []);
  const scale = scaleFor([Math.min(Math.max(...values, 1), Math.max(...dots, 1) * 1.25)]);
  const baseline = data.rows[0] ? (of(data.rows[0])?.geometric_mean ?? undefined) : undefined;
  // On a phone the track has a line of its own under name and word.
  const grid =
    "grid grid-cols-[minmax(0,1fr)_minmax(7rem,9.5rem)] sm:grid-cols-[minmax(8rem,12.5rem)_minmax(0,1fr)_minmax(7rem,9.5rem)] items-center gap-x-3 px-3";
  return (
    <div className="mt-4">
      <div className={grid}>
        <span className="hidden sm:block" />
        <LedgerScale scale={scale} />
        <span className="text-sm text-muted">{unit}</span>
      </div>
      <ul aria-label="Ledger">
        {data.rows.map((row) => (
          <LedgerLine
            key={row.setup_id}
            row={row}
            figure={figure}
            grid={grid}
            track={
              of(row) && (
                <LedgerTrack
                  row={of(row) as NonNullable<ReturnType<typeof of>>}
                  scale={scale}
                  unit={unit}
                  baseline={baseline}
                  strong={row.setup_id === chosen}
                />
              )
            }
            chosen={row.setup_id === chosen}
          />
        ))}
      </ul>
    </div>
  );
}

function LedgerLine({
  row,
  figure,
  grid,
  track,
  chosen,
}: {
  row: ComparisonRowView;
  figure: SpeedFigure;
  grid: string;
  track: React.ReactNode;
  chosen: boolean;
}) {
  const choose = useChooseSetup();
  const one = row.figures.find((candidate) => candidate.figure === figure);
  const versus = one?.versus;
  const { name, unit } = FIGURES[figure];
  const word = name.toLowerCase().split(" while")[0];
  const told = versus?.told_ratio ?? 0;
  const ratio = versus ? `${signed(told, told < 9.95 ? 1 : 0)} × ${word}` : "not measured";
  return (
    <li>
      <button
        type="button"
        onClick={() => choose(row.setup_id)}
        aria-current={chosen}
        className={`prints ${grid} w-full rounded-xl border border-transparent text-left hover:border-rule aria-[current=true]:border-rule aria-[current=true]:bg-surface`}
      >
        <span className="block py-2 leading-tight">
          <span className="block font-bold">{row.label}</span>
          <span className="block text-sm text-muted">
            {one?.summary ? `${figureText(one)} ${unit}, ` : ""}
            {counted(one?.summary?.n ?? 0, "test")}
            {(one?.sittings ?? 0) > 0 && ` in ${counted(one?.sittings ?? 0, "sitting")}`}
          </span>
        </span>
        <span className="order-last col-span-2 sm:order-none sm:col-span-1">{track}</span>
        <span className="block leading-tight">
          <span className="block font-bold">{row.is_baseline ? "baseline" : ratio}</span>
          {versus && (
            <span className="block text-sm text-muted">
              {verdictOf(versus)},{" "}
              <span className="whitespace-nowrap">
                {significant(versus.model.interval.low)} to {significant(versus.model.interval.high)}
              </span>
            </span>
          )}
        </span>
      </button>
    </li>
  );
}
