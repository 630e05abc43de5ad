import { scaleLinear, scaleTime } from "d3-scale";
import type { TimeMark, TimePoint } from "../api/schema";
import { moment } from "../ui/format";

const HEIGHT = 260;
const LEFT = 52;
const RIGHT = 14;
const TOP = 30;
const BOTTOM = 30;
const HOUR_MS = 3_600_000;
/** Evenings are shaded where they are wide enough to be seen. */
const MOST_SHADED_DAYS = 40;

/** Hour of the day in a zone, with its minutes as a part of it. */
export function hourOf(at: number, zone: string): number {
  const parts = new Intl.DateTimeFormat("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
    hourCycle: "h23",
    timeZone: zone,
  }).formatToParts(at);
  const part = (type: string) => Number(parts.find((one) => one.type === type)?.value ?? 0);
  return part("hour") + part("minute") / 60;
}

/** Evenings between two moments, each from its first hour to the end of its last. */
export function evenings(
  from: number,
  to: number,
  zone: string,
  [first, last]: readonly [number, number],
): { from: number; to: number }[] {
  if (to - from > MOST_SHADED_DAYS * 24 * HOUR_MS) return [];
  const found: { from: number; to: number }[] = [];
  // Quarters of an hour, so that no zone is missed and a change of clocks is followed.
  const step = HOUR_MS / 4;
  for (let at = Math.floor(from / step) * step; at <= to; at += step) {
    const hour = hourOf(at, zone);
    if (hour < first || hour >= last + 1) continue;
    const open = found.at(-1);
    if (open && at <= open.to) open.to = at + step;
    else found.push({ from: at, to: at + step });
  }
  return found.map((one) => ({ from: Math.max(one.from, from), to: Math.min(one.to, to) }));
}

/** Values over time: those of the setup that is shown filled, others as rings; what happened as lines, evenings shaded. */
export function TimeCourse({
  points,
  events,
  setupId,
  zone,
  evening,
  label,
  unit,
  width,
  fromZero,
}: {
  points: readonly TimePoint[];
  events: readonly TimeMark[];
  setupId: string;
  zone: string;
  evening: readonly [number, number];
  label: string;
  unit: string;
  width: number;
  /** Rates and times begin at zero; levels do not. */
  fromZero: boolean;
}) {
  const times = points.map((point) => Date.parse(point.at));
  const values = points.map((point) => point.value);
  const pad = Math.max(HOUR_MS, (Math.max(...times) - Math.min(...times)) * 0.03);
  const from = Math.min(...times) - pad;
  const to = Math.max(...times) + pad;
  const x = scaleTime([from, to], [LEFT, width - RIGHT]);
  const low = fromZero ? 0 : Math.min(...values) - 2;
  const y = scaleLinear([low, Math.max(...values) + (fromZero ? 0 : 2)], [HEIGHT - BOTTOM, TOP]).nice(4);
  const day = new Intl.DateTimeFormat("en-GB", { day: "numeric", month: "short", timeZone: zone });
  const ticks = x.ticks(Math.max(2, Math.floor(width / 110)));
  const shown = events.filter((event) => Date.parse(event.at) >= from && Date.parse(event.at) <= to);
  return (
    <svg width={width} height={HEIGHT} className="block" role="img" aria-label={label}>
      {evenings(from, to, zone, evening).map((one) => (
        <rect
          key={one.from}
          x={x(one.from)}
          y={TOP}
          width={Math.max(1, x(one.to) - x(one.from))}
          height={HEIGHT - BOTTOM - TOP}
          fill="var(--lamp-wash)"
        />
      ))}
      {y.ticks(4).map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={width - RIGHT} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
          <text x={LEFT - 8} y={y(tick) + 4} textAnchor="end" fontSize="13" fill="var(--muted)">
            {String(tick).replace("-", "−")}
          </text>
        </g>
      ))}
      <text x={LEFT - 8} y={14} textAnchor="end" fontSize="13" fill="var(--muted)">
        {unit}
      </text>
      {ticks
        .filter((tick) => x(tick) < width - 36)
        .map((tick) => (
          <text
            key={tick.getTime()}
            x={x(tick)}
            y={HEIGHT - 8}
            textAnchor="middle"
            fontSize="13"
            fill="var(--muted)"
          >
            {day.format(tick)}
          </text>
        ))}
      {shown.map((event) => (
        <line
          key={`${event.at} ${event.text}`}
          x1={x(Date.parse(event.at))}
          x2={x(Date.parse(event.at))}
          y1={TOP - 6}
          y2={HEIGHT - BOTTOM}
          stroke="var(--lamp)"
          strokeWidth={2}
        >
          <title>{`${moment(event.at, zone)}: ${event.text}`}</title>
        </line>
      ))}
      {points.map((point) => {
        const own = point.setup_id === setupId;
        return (
          <circle
            key={`${point.run_id} ${point.at} ${point.value}`}
            cx={x(Date.parse(point.at))}
            cy={y(point.value)}
            r={own ? 4.5 : 3.5}
            fill={own ? "var(--structure)" : "none"}
            stroke={own ? "var(--structure)" : "var(--muted)"}
            strokeWidth={1.5}
          />
        );
      })}
    </svg>
  );
}
