import type { AimFit, StopLine, SweepMast } from "../api/schema";
import { bearing } from "../ui/format";
import { onCard } from "./polar";

const R = 150;
/** From the centre to the rim, dB below the peak. */
const DEEP = 24;

const join = (points: [number, number][]) =>
  points.map(([x, y], index) => `${index === 0 ? "M" : "L"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

/** The antenna from above, true north up: measured points and the fitted beam, masts, and who disturbs. */
export function SweepRose({
  stops,
  fit,
  masts,
  now,
}: {
  stops: StopLine[];
  fit: AimFit | null | undefined;
  masts: SweepMast[];
  /** Where the antenna is, or is asked to be. */
  now: number | undefined;
}) {
  const heard = stops.flatMap((stop) => (stop.rsrp_dbm == null ? [] : [{ ...stop, dbm: stop.rsrp_dbm }]));
  const top = Math.max(fit?.peak_rsrp_dbm ?? -200, ...heard.map((stop) => stop.dbm), -140);
  const radius = (dbm: number) => Math.max(0.08, 1 - (top - dbm) / DEEP) * R;
  const curve = fit?.curve.map((one) => onCard(one.angle_deg, radius(one.rsrp_dbm))) ?? [];
  const arc = (angle: number, left: number, right: number, r: number) => {
    const steps = Math.max(2, Math.ceil((left + right) / 3));
    return join(
      Array.from({ length: steps + 1 }, (_, index) =>
        onCard(angle - left + ((left + right) * index) / steps, r),
      ),
    );
  };
  const words = fit
    ? `Strongest at ${bearing(fit.strongest.angle_deg)}${fit.cleanest ? `, cleanest at ${bearing(fit.cleanest.angle_deg)}` : ""}. ${heard.length} points.`
    : `${heard.length} points so far.`;
  return (
    <svg viewBox="-240 -190 480 380" className="w-full max-w-xl" role="img" aria-label={words}>
      {[1, 2 / 3, 1 / 3].map((share) => (
        <circle key={share} r={R * share} fill="none" stroke="var(--rule)" strokeWidth="1.2" />
      ))}
      {Array.from({ length: 36 }, (_, index) => index * 10).map((angle) => (
        <path
          key={angle}
          d={`M0 ${-R} V${-R - (angle % 90 === 0 ? 9 : 5)}`}
          transform={`rotate(${angle})`}
          stroke="var(--edge)"
          strokeWidth={angle % 90 === 0 ? 2 : 1}
        />
      ))}
      {(["N", "E", "S", "W"] as const).map((letter, index) => {
        const [x, y] = onCard(index * 90, R + 20);
        return (
          <text key={letter} x={x} y={y + 5} textAnchor="middle" fontSize="18" fill="var(--muted)">
            {letter}
          </text>
        );
      })}
      {masts.map((mast) => {
        const suspect = fit?.suspects.some((one) => one.mast?.name === mast.name) ?? false;
        const [x, y] = onCard(mast.bearing_deg, R);
        const [tx, ty] = onCard(mast.bearing_deg, R + 14);
        const east = mast.bearing_deg % 360 < 180;
        return (
          <g key={mast.name}>
            <path
              d={`M0 0 L${x} ${y}`}
              stroke={suspect ? "var(--starved)" : "var(--structure)"}
              strokeWidth={suspect ? 2 : 1.2}
              strokeDasharray={suspect ? "3 5" : "8 5"}
              opacity={suspect ? 1 : 0.6}
            />
            <text
              x={tx}
              y={ty + (ty > 0 ? 12 : -2)}
              fontSize="17"
              textAnchor={east ? "start" : "end"}
              fill={suspect ? "var(--starved)" : "var(--ink)"}
            >
              {mast.name}
            </text>
          </g>
        );
      })}
      {curve.length > 0 && (
        <path
          d={`${join(curve)}Z`}
          fill="var(--lamp-wash)"
          fillOpacity="0.75"
          stroke="var(--lamp)"
          strokeWidth="1.6"
        />
      )}
      {fit && (
        <>
          <path
            d={arc(fit.strongest.angle_deg, fit.strongest.left_deg, fit.strongest.right_deg, R + 3)}
            fill="none"
            stroke="var(--structure)"
            strokeWidth="6"
          />
          {fit.cleanest && (
            <path
              d={arc(fit.cleanest.angle_deg, fit.cleanest.left_deg, fit.cleanest.right_deg, R - 7)}
              fill="none"
              stroke="var(--lamp)"
              strokeWidth="6"
            />
          )}
        </>
      )}
      {now !== undefined && (
        <path d={`M0 0 V${-R}`} transform={`rotate(${now})`} stroke="var(--ink)" strokeWidth="2.4" />
      )}
      {heard.map((stop) => {
        const [x, y] = onCard(stop.angle_deg, radius(stop.dbm));
        return (
          <circle
            key={stop.id}
            cx={x}
            cy={y}
            r="5.5"
            fill={stop.outlier ? "var(--surface)" : "var(--action)"}
            stroke={stop.outlier ? "var(--action)" : "var(--surface)"}
            strokeWidth="1.6"
          />
        );
      })}
      <path d="M-9 9 V-2 L0 -11 L9 -2 V9 Z" fill="var(--ink)" />
    </svg>
  );
}
