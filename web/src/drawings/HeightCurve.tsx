import { scaleLinear } from "d3-scale";
import type { HeightPoint } from "../api/schema";

const WIDTH = 360;
const HEIGHT = 240;
const LEFT = 44;
const RIGHT = 10;
const TOP = 12;
const BOTTOM = 34;

/** Signal power against height above ground: the band of doubt, the likely line, and the height that is tried. */
export function HeightCurve({
  points,
  height,
  heightText,
}: {
  points: HeightPoint[];
  height: number;
  heightText: (metres: number) => string;
}) {
  const low = Math.min(...points.map((one) => one.rsrp_dbm.low)) - 2;
  const high = Math.max(...points.map((one) => one.rsrp_dbm.high)) + 2;
  const top = points.at(-1)?.height_m ?? 1;
  const x = scaleLinear([low, high], [LEFT, WIDTH - RIGHT]);
  const y = scaleLinear([0, top], [HEIGHT - BOTTOM, TOP]);
  const line = (of: (one: HeightPoint) => number, from: HeightPoint[]) =>
    from.map((one) => `${x(of(one)).toFixed(1)} ${y(one.height_m).toFixed(1)}`).join("L");
  const band = `M${line((one) => one.rsrp_dbm.low, points)}L${line((one) => one.rsrp_dbm.high, [...points].reverse())}Z`;
  return (
    <svg
      viewBox={`0 0 ${WIDTH} ${HEIGHT}`}
      className="w-full max-w-md"
      role="img"
      aria-label="Signal power (RSRP) by height above ground"
    >
      {x.ticks(4).map((tick) => (
        <g key={tick}>
          <line x1={x(tick)} x2={x(tick)} y1={TOP} y2={HEIGHT - BOTTOM} stroke="var(--rule)" />
          <text x={x(tick)} y={HEIGHT - BOTTOM + 15} textAnchor="middle" fontSize="12" fill="var(--muted)">
            {String(Math.round(tick)).replace("-", "−")}
          </text>
        </g>
      ))}
      <text x={(LEFT + WIDTH) / 2} y={HEIGHT - 4} textAnchor="middle" fontSize="12" fill="var(--muted)">
        Signal power (RSRP), dBm
      </text>
      {y.ticks(4).map((tick) => (
        <text key={tick} x={LEFT - 6} y={y(tick) + 4} textAnchor="end" fontSize="12" fill="var(--muted)">
          {heightText(tick)}
        </text>
      ))}
      <path d={band} fill="var(--structure)" fillOpacity="0.16" />
      <path
        d={`M${line((one) => one.rsrp_dbm.likely, points)}`}
        fill="none"
        stroke="var(--structure)"
        strokeWidth="2.5"
      />
      <line
        x1={LEFT}
        x2={WIDTH - RIGHT}
        y1={y(height)}
        y2={y(height)}
        stroke="var(--lamp)"
        strokeWidth="2"
        strokeDasharray="6 4"
      />
    </svg>
  );
}
