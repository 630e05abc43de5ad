import { bearing } from "../ui/format";

interface Ray {
  id: string;
  azimuth: number;
  chosen: boolean;
}

const R = 96;

/** The position from above, true north up: where each setup's antenna points. */
export function AimRose({ rays }: { rays: Ray[] }) {
  const chosen = rays.find((ray) => ray.chosen);
  const words = chosen ? `The antenna points at ${bearing(chosen.azimuth)}.` : "No azimuth is set.";
  return (
    <svg viewBox="-130 -130 260 260" className="w-full max-w-72" role="img" aria-label={words}>
      <circle r={R} fill="none" stroke="var(--rule)" strokeWidth="1.5" />
      <circle r={R / 2} fill="none" stroke="var(--rule)" strokeWidth="1" />
      {Array.from({ length: 36 }, (_, index) => index * 10).map((angle) => (
        <path
          key={angle}
          d={`M0 ${-R} V${-R - (angle % 90 === 0 ? 10 : angle % 30 === 0 ? 7 : 4)}`}
          transform={`rotate(${angle})`}
          stroke="var(--edge)"
          strokeWidth={angle % 90 === 0 ? 2 : 1}
        />
      ))}
      {(["N", "E", "S", "W"] as const).map((letter, index) => (
        <text
          key={letter}
          x={Math.sin((index * Math.PI) / 2) * (R + 21)}
          y={-Math.cos((index * Math.PI) / 2) * (R + 21) + 5}
          textAnchor="middle"
          fontSize="15"
          fontWeight={letter === "N" ? 700 : 400}
          fill={letter === "N" ? "var(--ink)" : "var(--muted)"}
        >
          {letter}
        </text>
      ))}
      {rays
        .filter((ray) => !ray.chosen)
        .map((ray) => (
          <path
            key={ray.id}
            d={`M0 0 V${-R + 4}`}
            transform={`rotate(${ray.azimuth})`}
            stroke="var(--edge)"
            strokeWidth="1.5"
            strokeDasharray="5 4"
          />
        ))}
      {chosen && (
        <g transform={`rotate(${chosen.azimuth})`}>
          <path d={`M0 0 V${-R + 2}`} stroke="var(--lamp)" strokeWidth="4" />
          <path d={`M0 ${-R - 2} L-9 ${-R + 15} H9 Z`} fill="var(--lamp)" />
        </g>
      )}
      <path d="M-9 9 V-2 L0 -11 L9 -2 V9 Z" fill="var(--ink)" />
    </svg>
  );
}
