import type { ConstellationAnswer } from "../api/schema";

type Point = ConstellationAnswer["symbols"][number];

const SIZE = 180;
const SPAN = 1.55;
const at = (value: number) => SIZE / 2 + (value / SPAN) * (SIZE / 2);

/** Received symbols around the points that can be sent; mistaken ones are crosses. */
export function Constellation({
  levels,
  symbols,
  words,
}: {
  levels: number[];
  symbols: Point[];
  words: string;
}) {
  const inside = symbols.filter((point) => Math.abs(point.i) < SPAN && Math.abs(point.q) < SPAN);
  return (
    <svg viewBox={`0 0 ${SIZE} ${SIZE}`} className="w-full max-w-56" role="img" aria-label={words}>
      <rect width={SIZE} height={SIZE} fill="var(--surface)" stroke="var(--rule)" />
      <path d={`M${SIZE / 2} 0 V${SIZE} M0 ${SIZE / 2} H${SIZE}`} stroke="var(--rule)" strokeWidth="1" />
      {levels.flatMap((i) =>
        levels.map((q) => <circle key={`${i} ${q}`} cx={at(i)} cy={at(-q)} r="1.5" fill="var(--edge)" />),
      )}
      {inside.map((point) => {
        const [x, y] = [at(point.i), at(-point.q)];
        const key = `${point.i} ${point.q}`;
        return point.mistaken ? (
          <path
            key={key}
            d={`M${x - 2} ${y - 2} l4 4 m0 -4 l-4 4`}
            stroke="var(--starved)"
            strokeWidth="1.2"
          />
        ) : (
          <circle key={key} cx={x} cy={y} r="1.6" fill="var(--solid)" />
        );
      })}
    </svg>
  );
}
