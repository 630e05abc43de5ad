import { scaleLinear } from "d3-scale";
import { useId } from "react";
import type { FigureRow } from "../api/schema";
import { significant, whole } from "../ui/format";
import { useSize } from "../ui/useSize";

/** A scale from zero to a round number, with its marks. */
export interface Scale {
  max: number;
  marks: number[];
}

/** Round marks that hold every value. */
export function scaleFor(values: number[]): Scale {
  const scale = scaleLinear([0, Math.max(...values, 1)], [0, 1]).nice(5);
  return { max: scale.domain()[1] ?? 1, marks: scale.ticks(5) };
}

const PAD = 10;
const at = (value: number, scale: Scale, width: number) =>
  scaleLinear([0, scale.max], [PAD, width - PAD])(value);

/** The scale's numbers above the rows. */
export function LedgerScale({ scale }: { scale: Scale }) {
  const [ref, width] = useSize();
  const last = scale.marks.length - 1;
  return (
    <div ref={ref}>
      <svg width={width} height="22" className="block text-muted" aria-hidden="true">
        {scale.marks.map((mark, index) => (
          <text
            key={mark}
            x={at(mark, scale, width)}
            y="15"
            fontSize="13"
            fill="currentColor"
            textAnchor={index === last ? "end" : index === 0 ? "start" : "middle"}
          >
            {mark}
          </text>
        ))}
      </svg>
    </div>
  );
}

/** What a row of the ledger shows. */
export interface LedgerRow {
  values: { test_id: string; value: number }[];
  summary?: { n: number; min: number; max: number } | null;
  /** The figure shown: geometric mean over sittings. */
  geometric_mean?: number | null;
  interval?: { low: number; high: number } | null;
}

/** One setup's figure: every test a dot, its geometric mean a tick, the interval a bar, the baseline a hairline. */
export function LedgerTrack({
  row,
  scale,
  unit,
  baseline,
  strong = false,
  least = 64,
  tick = "average",
}: {
  row: LedgerRow;
  scale: Scale;
  unit: string;
  baseline?: number | undefined;
  strong?: boolean;
  least?: number;
  /** What the tick stands for, in words. */
  tick?: "average" | "median";
}) {
  const [ref, width, tall] = useSize();
  const height = Math.max(tall, least);
  const title = useId();
  const x = (value: number) => at(Math.min(value, scale.max), scale, width);
  const middle = height / 2;
  const ink = strong ? "var(--lamp)" : "var(--muted)";
  const summary = row.summary;
  const words = summary
    ? `${summary.n} tests, ${tick} ${significant(row.geometric_mean ?? 0)} ${unit}, from ${significant(summary.min)} to ${significant(summary.max)}`
    : "no tests";
  return (
    <div ref={ref} className="relative self-stretch" style={{ minHeight: least }}>
      <svg width={width} height={height} role="img" aria-labelledby={title} className="absolute inset-0">
        <title id={title}>{words}</title>
        {scale.marks.map((mark) => (
          <path
            key={mark}
            d={`M${at(mark, scale, width)} 0 V${height}`}
            stroke="var(--rule)"
            strokeWidth="1"
          />
        ))}
        {baseline !== undefined && (
          <path
            d={`M${x(baseline)} 0 V${height}`}
            stroke="var(--ink)"
            strokeWidth="1.4"
            strokeDasharray="2 3"
          />
        )}
        {row.interval && (
          <rect
            x={x(row.interval.low)}
            y={middle - 10}
            width={Math.max(3, x(row.interval.high) - x(row.interval.low))}
            height="20"
            rx="4"
            fill={strong ? "var(--lamp-wash)" : "var(--rule)"}
            stroke={strong ? "var(--lamp)" : "var(--edge)"}
            strokeWidth="1"
          />
        )}
        {row.values.map((value) => (
          <circle
            key={value.test_id}
            cx={x(value.value)}
            cy={middle}
            r="4.2"
            fill={ink}
            stroke="var(--ground)"
            strokeWidth="1"
          />
        ))}
        {row.geometric_mean != null && (
          <path
            d={`M${x(row.geometric_mean)} ${middle - 15} V${middle + 15}`}
            stroke={strong ? "var(--action)" : "var(--ink)"}
            strokeWidth="3"
          />
        )}
      </svg>
    </div>
  );
}

/** A figure's geometric mean as it is shown beside its row. */
export function figureText(row: FigureRow): string {
  if (row.geometric_mean == null) return "–";
  return row.figure === "download" || row.figure === "upload"
    ? significant(row.geometric_mean)
    : whole(row.geometric_mean);
}
