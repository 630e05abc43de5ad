import { scaleLinear } from "d3-scale";
import { type PointerEvent, useRef } from "react";
import type { Clearance, SliceObstacle, SlicePoint } from "../api/schema";

const WIDTH = 760;
const HEIGHT = 260;
const LEFT = 46;
const BOTTOM = 26;
const TOP = 14;
/** Coarsest step of the antenna under the hand, m a pixel. */
const FINEST_M = 0.1;

/** The ground from house to mast with trees, line and Fresnel zone. Heights are drawn steeper than they are. */
export function PathSlice({
  points: all,
  until,
  obstacles,
  clearance,
  heightText,
  distanceText,
  label,
  onRaise,
}: {
  points: SlicePoint[];
  /** Draws the first stretch only, m. */
  until?: number | undefined;
  obstacles: SliceObstacle[];
  clearance: Clearance | null | undefined;
  heightText: (metres: number) => string;
  distanceText: (metres: number) => string;
  label: string;
  /** The antenna was dragged to this height above ground, m. A slider beside the drawing does the same by keys. */
  onRaise?: ((metres: number) => void) | undefined;
}) {
  const grabbed = useRef<{ y: number; metres: number; perPixel: number }>(undefined);
  const beyond = until === undefined ? -1 : all.findIndex((one) => one.distance_m > until);
  const points = beyond > 1 ? all.slice(0, beyond + 1) : all;
  const whole = points.length === all.length;
  const length = points.at(-1)?.distance_m ?? 1;
  const highest = Math.max(
    ...points.map((one) => Math.max(one.line_m + one.fresnel_m, one.ground_m + (whole ? 0 : 16))),
  );
  const lowest = Math.min(...points.map((one) => one.ground_m));
  const span = Math.max(highest - lowest, 10) * 1.06;
  const x = scaleLinear([0, length], [LEFT, WIDTH - 8]);
  const y = scaleLinear([highest, highest - span], [TOP, HEIGHT - BOTTOM]);
  const path = (of: (one: SlicePoint) => number) =>
    points
      .map((one, at) => `${at === 0 ? "M" : "L"}${x(one.distance_m).toFixed(1)} ${y(of(one)).toFixed(1)}`)
      .join("");
  const groundAt = (metres: number) => {
    const after = points.findIndex((one) => one.distance_m >= metres);
    const [a, b] = [points[Math.max(0, after - 1)], points[Math.max(0, after)]];
    if (!a || !b || a === b) return a?.ground_m ?? lowest;
    return (
      a.ground_m + ((b.ground_m - a.ground_m) * (metres - a.distance_m)) / (b.distance_m - a.distance_m || 1)
    );
  };
  const zone = `${path((one) => one.line_m + one.fresnel_m)}${[...points]
    .reverse()
    .map((one) => `L${x(one.distance_m).toFixed(1)} ${y(one.line_m - one.fresnel_m).toFixed(1)}`)
    .join("")}Z`;
  const [first, last] = [points[0], points.at(-1)];
  const grab = (event: PointerEvent<SVGCircleElement>) => {
    if (!first) return;
    const box = event.currentTarget.ownerSVGElement?.getBoundingClientRect();
    const pixel = HEIGHT / (box?.height || HEIGHT);
    event.currentTarget.setPointerCapture(event.pointerId);
    // Over a long path a pixel is metres: the hand is then finer than the drawing.
    const perPixel = Math.min(span / (HEIGHT - TOP - BOTTOM), FINEST_M) * pixel;
    grabbed.current = { y: event.clientY, metres: first.line_m - first.ground_m, perPixel };
  };
  const drag = (event: PointerEvent<SVGCircleElement>) => {
    const from = grabbed.current;
    if (from && onRaise)
      onRaise(Math.round((from.metres + (from.y - event.clientY) * from.perPixel) * 10) / 10);
  };
  const ticks = y.ticks(4).filter((tick) => tick >= lowest);
  const away = x.ticks(6);
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="w-full min-w-[34rem]" role="img" aria-label={label}>
      {ticks.map((tick) => (
        <g key={tick}>
          <line x1={LEFT} x2={WIDTH - 8} y1={y(tick)} y2={y(tick)} stroke="var(--rule)" />
          <text x={LEFT - 6} y={y(tick) + 4} textAnchor="end" fontSize="12" fill="var(--muted)">
            {heightText(tick)}
          </text>
        </g>
      ))}
      {away.map((tick) => (
        <text
          key={tick}
          x={x(tick)}
          y={HEIGHT - 8}
          textAnchor={tick === 0 ? "start" : "middle"}
          fontSize="12"
          fill="var(--muted)"
        >
          {distanceText(tick)}
        </text>
      ))}
      <path d={zone} fill="var(--lamp)" fillOpacity="0.16" />
      <path
        d={`${path((one) => one.ground_m)}L${x(length)} ${HEIGHT - BOTTOM}L${LEFT} ${HEIGHT - BOTTOM}Z`}
        fill="var(--rule)"
        stroke="var(--ink)"
        strokeWidth="1.2"
      />
      {obstacles
        .filter((one) => one.from_m < length)
        .map((one) => {
          const [from, to] = [x(one.from_m), Math.max(x(one.to_m), x(one.from_m) + 3)];
          const ground = groundAt((one.from_m + one.to_m) / 2);
          const trees = one.kind.startsWith("trees");
          return (
            <rect
              key={`${one.name}${one.from_m}`}
              x={from}
              width={to - from}
              y={y(ground + one.height_m)}
              height={Math.max(2, y(ground) - y(ground + one.height_m))}
              fill={trees ? "var(--solid)" : "var(--ink)"}
              fillOpacity={trees ? 0.75 : 0.85}
            />
          );
        })}
      {first && last && (
        <>
          <line
            x1={x(0)}
            y1={y(first.line_m)}
            x2={x(length)}
            y2={y(last.line_m)}
            stroke="var(--lamp)"
            strokeWidth="2"
          />
          <line
            x1={x(0)}
            x2={x(0)}
            y1={y(first.ground_m)}
            y2={y(first.line_m)}
            stroke="var(--ink)"
            strokeWidth="3"
          />
          {whole && (
            <line
              x1={x(length)}
              x2={x(length)}
              y1={y(last.ground_m)}
              y2={y(last.line_m)}
              stroke="var(--ink)"
              strokeWidth="3"
            />
          )}
        </>
      )}
      {first && onRaise && (
        <g>
          <title>Drag the antenna up or down</title>
          <circle
            cx={x(0)}
            cy={y(first.line_m)}
            r="7"
            fill="var(--lamp)"
            stroke="var(--ink)"
            strokeWidth="2"
          />
          <circle
            data-testid="raise"
            cx={x(0)}
            cy={y(first.line_m)}
            r="24"
            fill="transparent"
            className="cursor-ns-resize touch-none"
            onPointerDown={grab}
            onPointerMove={drag}
            onPointerUp={() => {
              grabbed.current = undefined;
            }}
          />
        </g>
      )}
      {clearance && clearance.distance_m < length && (
        <g>
          <circle
            cx={x(clearance.distance_m)}
            cy={y(clearance.top_m)}
            r="6"
            fill="none"
            stroke={clearance.fresnel_share >= 0.6 ? "var(--ink)" : "var(--starved)"}
            strokeWidth="2.5"
          />
        </g>
      )}
    </svg>
  );
}
