import { scaleLog } from "d3-scale";
import { useId } from "react";
import { significant } from "../ui/format";
import { useSize } from "../ui/useSize";

/** One setup's averages. */
export interface TradeOffDot {
  id: string;
  label: string;
  down: number;
  up: number;
  /** Under load, ms. */
  latency?: number | undefined;
  /** Its name is written beside it. */
  named: boolean;
  chosen: boolean;
}

const HEIGHT = 280;
const EDGE = { left: 44, right: 16, top: 14, bottom: 36 };

/** Marks at 1, 2 and 5 of each power of ten. */
export function logMarks([from, to]: [number, number]): number[] {
  const marks: number[] = [];
  for (let ten = 10 ** Math.floor(Math.log10(from)); ten <= to; ten *= 10) {
    for (const one of [1, 2, 5]) if (ten * one >= from && ten * one <= to) marks.push(ten * one);
  }
  return marks;
}

/** Limits that hold all values and the need, with room on both sides. */
export function limitsOf(values: number[]): [number, number] {
  const held = values.filter((value) => value > 0);
  return held.length === 0 ? [1, 100] : [Math.min(...held) / 1.4, Math.max(...held) * 1.4];
}

/** Names under each other where they would lie on one another; `y` of each, in order. */
export function apart(wanted: number[], least: number): number[] {
  const order = wanted.map((y, at) => ({ y, at })).toSorted((a, b) => a.y - b.y);
  const placed: number[] = [];
  let last = Number.NEGATIVE_INFINITY;
  for (const { y, at } of order) {
    last = Math.max(y, last + least);
    placed[at] = last;
  }
  return placed;
}

/** Download against upload, both logarithmic: what meets the need lies in the field at the upper right. */
export function TradeOff({ dots, need }: { dots: TradeOffDot[]; need: { down: number; up: number } }) {
  const [ref, width] = useSize();
  const title = useId();
  const xs = limitsOf([...dots.map((dot) => dot.down), need.down]);
  const ys = limitsOf([...dots.map((dot) => dot.up), need.up]);
  const x = scaleLog(xs, [EDGE.left, width - EDGE.right]);
  const y = scaleLog(ys, [HEIGHT - EDGE.bottom, EDGE.top]);
  const named = dots.filter((dot) => dot.named);
  const lines = apart(
    named.map((dot) => y(dot.up)),
    17,
  );
  const words = dots.map((dot) => `${dot.label}: ${significant(dot.down)} down, ${significant(dot.up)} up`);
  return (
    <div ref={ref}>
      <svg width={width} height={HEIGHT} role="img" aria-labelledby={title} className="block">
        <title id={title}>{`Download and upload, Mbit/s. ${words.join("; ")}.`}</title>
        {need.down > 0 && need.up > 0 && (
          <rect
            x={x(need.down)}
            y={EDGE.top}
            width={width - EDGE.right - x(need.down)}
            height={y(need.up) - EDGE.top}
            fill="var(--surface)"
            stroke="var(--edge)"
            strokeDasharray="2 3"
          />
        )}
        {logMarks(xs).map((mark) => (
          <g key={mark}>
            <path d={`M${x(mark)} ${EDGE.top} V${HEIGHT - EDGE.bottom}`} stroke="var(--rule)" />
            <text
              x={x(mark)}
              y={HEIGHT - EDGE.bottom + 16}
              fontSize="13"
              textAnchor="middle"
              fill="var(--muted)"
            >
              {mark}
            </text>
          </g>
        ))}
        {logMarks(ys).map((mark) => (
          <g key={mark}>
            <path d={`M${EDGE.left} ${y(mark)} H${width - EDGE.right}`} stroke="var(--rule)" />
            <text x={EDGE.left - 6} y={y(mark) + 4} fontSize="13" textAnchor="end" fill="var(--muted)">
              {mark}
            </text>
          </g>
        ))}
        <text x={width - EDGE.right} y={HEIGHT - 4} fontSize="13" textAnchor="end" fill="var(--muted)">
          download, Mbit/s
        </text>
        <text x={EDGE.left + 4} y={EDGE.top + 10} fontSize="13" fill="var(--muted)">
          upload, Mbit/s
        </text>
        {dots.map((dot) => (
          <circle
            key={dot.id}
            cx={x(dot.down)}
            cy={y(dot.up)}
            r={dot.named ? 6 : 4.2}
            fill={dot.chosen ? "var(--lamp)" : "var(--muted)"}
            stroke="var(--ground)"
          />
        ))}
        {named.map((dot, at) => {
          const left = x(dot.down) > width / 2;
          return (
            <text
              key={dot.id}
              x={x(dot.down) + (left ? -10 : 10)}
              y={(lines[at] ?? y(dot.up)) + 4}
              fontSize="14"
              fontWeight={dot.chosen ? 700 : 400}
              textAnchor={left ? "end" : "start"}
              fill="var(--ink)"
              stroke="var(--ground)"
              strokeWidth="3"
              paintOrder="stroke"
            >
              {dot.label}
              {dot.latency !== undefined && `, ${Math.round(dot.latency)} ms`}
            </text>
          );
        })}
      </svg>
    </div>
  );
}
