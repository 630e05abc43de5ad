import { bearing } from "../ui/format";
import { onCard } from "./polar";

export interface FanMast {
  id: string;
  name: string;
  bearing: number;
  /** "4.7 km", or nothing where it is not known. */
  distance?: string;
}

export interface FanSpot {
  id: string;
  name: string;
  facing: number;
  chosen: boolean;
}

const R = 92;

/** A point on a circle round the house: bearing clockwise from true north. */

/** The house from above, true north up: masts as rays, spots as wedges towards what they face. */
export function Fan({ masts, spots }: { masts: FanMast[]; spots: FanSpot[] }) {
  const words = [
    ...masts.map((mast) => `${mast.name || "The mast"} lies at ${bearing(mast.bearing)}.`),
    ...spots.map((spot) => `${spot.name} faces ${bearing(spot.facing)}.`),
  ].join(" ");
  return (
    <svg viewBox="-150 -126 300 252" className="w-full max-w-80" role="img" aria-label={words}>
      <circle r={R} fill="none" stroke="var(--rule)" strokeWidth="1.5" />
      <circle r={R / 2} fill="none" stroke="var(--rule)" strokeWidth="1" />
      {Array.from({ length: 36 }, (_, index) => index * 10).map((angle) => (
        <path
          key={angle}
          d={`M0 ${-R} V${-R - (angle % 90 === 0 ? 9 : 4)}`}
          transform={`rotate(${angle})`}
          stroke="var(--edge)"
          strokeWidth={angle % 90 === 0 ? 2 : 1}
        />
      ))}
      <text x="0" y={-R - 14} textAnchor="middle" fontSize="14" fontWeight="700" fill="var(--ink)">
        N
      </text>
      {spots.map((spot) => {
        const [lx, ly] = onCard(spot.facing - 22, 46);
        const [rx, ry] = onCard(spot.facing + 22, 46);
        return (
          <path
            key={spot.id}
            d={`M0 0 L${lx} ${ly} A46 46 0 0 1 ${rx} ${ry} Z`}
            fill={spot.chosen ? "var(--lamp-wash)" : "none"}
            stroke={spot.chosen ? "var(--lamp)" : "var(--edge)"}
            strokeWidth={spot.chosen ? 2 : 1.2}
            strokeDasharray={spot.chosen ? undefined : "4 3"}
          />
        );
      })}
      {masts.map((mast) => {
        const [x, y] = onCard(mast.bearing, R);
        const [tx, ty] = onCard(mast.bearing, R + 8);
        const east = mast.bearing % 360 < 180;
        return (
          <g key={mast.id}>
            <path d={`M0 0 L${x} ${y}`} stroke="var(--structure)" strokeWidth="2.4" />
            <circle cx={x} cy={y} r="5" fill="var(--structure)" />
            <text x={tx} y={ty + 10} fontSize="13" fill="var(--ink)" textAnchor={east ? "start" : "end"}>
              {mast.name || "mast"}
            </text>
            <text x={tx} y={ty + 24} fontSize="12" fill="var(--muted)" textAnchor={east ? "start" : "end"}>
              {[bearing(mast.bearing), mast.distance].filter(Boolean).join(", ")}
            </text>
          </g>
        );
      })}
      <path d="M-9 9 V-2 L0 -11 L9 -2 V9 Z" fill="var(--ink)" />
    </svg>
  );
}
