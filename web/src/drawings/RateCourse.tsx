import { scaleLinear } from "d3-scale";
import type { Course } from "../api/schema";
import { rough } from "../ui/format";

const WIDTH = 350;
const HEIGHT = 160;
const LEFT = 44;
const RIGHT = 12;
const TOP = 10;
const BOTTOM = 34;

/** One direction of a speed test from its first byte on; what is left out of the figure is drawn thin. */
export function RateCourse({ course, way, label }: { course: Course; way: "down" | "up"; label: string }) {
  const rates = (way === "down" ? course.down_mbps : course.up_mbps) ?? [];
  const from = (way === "down" ? course.down_from : course.up_from) ?? 0;
  if (rates.length < 2) return null;
  const step = course.step_ms / 1000;
  const x = scaleLinear([0, rates.length * step], [LEFT, WIDTH - RIGHT]);
  const y = scaleLinear([0, Math.max(...rates, 1) * 1.05], [HEIGHT - BOTTOM, TOP]);
  const line = (part: number[], at: number) =>
    `M${part.map((rate, index) => `${x((at + index + 0.5) * step).toFixed(1)} ${y(rate).toFixed(1)}`).join("L")}`;
  const last = Math.min(from + 1, rates.length);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full max-w-md" role="img" aria-label={label}>
      {y.ticks(3).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={WIDTH - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" fontSize="12" fill="var(--muted)">
            {rough(tick)}
          </text>
        </g>
      ))}
      {x.ticks(5).map((tick) => (
        <text
          key={tick}
          x={x(tick)}
          y={HEIGHT - BOTTOM + 15}
          textAnchor="middle"
          fontSize="12"
          fill="var(--muted)"
        >
          {tick}
        </text>
      ))}
      <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 4} textAnchor="middle" fontSize="12" fill="var(--muted)">
        {way === "down" ? "Download" : "Upload"}, Mbit/s, by seconds
      </text>
      <path
        d={line(rates.slice(0, last), 0)}
        fill="none"
        stroke="var(--muted)"
        strokeWidth="1.5"
        strokeDasharray="3 3"
      />
      {from < rates.length && (
        <path d={line(rates.slice(from), from)} fill="none" stroke="var(--structure)" strokeWidth="2.5" />
      )}
    </svg>
  );
}
