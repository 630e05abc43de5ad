import type { SweepView } from "../../api/schema";
import { onCard } from "../../drawings/polar";
import { bearing, halves } from "../../ui/format";
import { Section } from "../StageHeader";
import { useScore } from "./queries";

const R = 120;

/** The truth of a rehearsal, shown once the antenna is set, with the score. */
export function Rehearsed({ siteId, view }: { siteId: string; view: SweepView }) {
  const set = view.sweep.set_deg != null;
  const score = useScore(siteId, view.sweep.id, set);
  if (!set)
    return (
      <p className="mt-4 border-l-4 border-structure pl-3">
        A rehearsal: where the masts stand is hidden. Turn the simulated antenna as the steps say; the truth
        and your score come when you have set it.
      </p>
    );
  if (score.isError) return <p className="mt-4">{score.error.message}</p>;
  if (!score.data) return null;
  const { score: result, words, truth } = score.data;
  const quantity = view.criterion === "signal" ? "rsrp_dbm" : "sinr_db";
  const top = Math.max(...truth.map((point) => point[quantity]));
  const at = (degrees: number, radius: number) =>
    onCard(degrees, radius)
      .map((one) => one.toFixed(1))
      .join(" ");
  const curve = truth.map((point) =>
    at(point.azimuth_deg, R * Math.max(0.05, 1 - (top - point[quantity]) / 30)),
  );
  return (
    <Section title="How it went">
      <div className="flex flex-wrap items-center gap-6">
        <svg
          viewBox="-150 -150 300 300"
          className="w-64"
          role="img"
          aria-label={`The truth: best at ${bearing(result.best_deg)}, set to ${bearing(result.set_deg)}`}
        >
          <circle r={R} fill="none" stroke="var(--rule)" />
          <path d={`M${curve.join("L")}Z`} fill="var(--lamp-wash)" stroke="var(--lamp)" strokeWidth="1.6" />
          <path d={`M0 0L${at(result.best_deg, R + 8)}`} stroke="var(--structure)" strokeWidth="3" />
          <path
            d={`M0 0L${at(result.set_deg, R + 8)}`}
            stroke="var(--ink)"
            strokeWidth="2.4"
            strokeDasharray="5 4"
          />
        </svg>
        <div className="max-w-sm">
          <p className="text-lg font-semibold">{words}</p>
          <dl className="mt-2 grid grid-cols-2 gap-x-4">
            <dt className="text-muted">Best, solid line</dt>
            <dd>{bearing(result.best_deg)}</dd>
            <dt className="text-muted">Set, dashed line</dt>
            <dd>{bearing(result.set_deg)}</dd>
            <dt className="text-muted">Lost</dt>
            <dd>{halves(result.db_lost)} dB</dd>
          </dl>
        </div>
      </div>
    </Section>
  );
}
