const WIDTH = 144;
const HEIGHT = 18;
const STEP = WIDTH / 24;

/** The 24 hours of a day: full where something was measured, outlined by a line where networks are the busiest. */
export function HourStrip({
  hours,
  evening,
}: {
  hours: readonly number[];
  /** First and last hour of the evening. */
  evening: readonly [number, number];
}) {
  const label = hours.length > 0 ? `Tested at ${hours.join(", ")} h` : "Not tested";
  const [first, last] = evening;
  return (
    <svg viewBox={`0 0 ${WIDTH} ${HEIGHT}`} className="h-4.5 w-36" role="img" aria-label={label}>
      {Array.from({ length: 24 }, (_, hour) => hour).map((hour) => (
        <rect
          key={hour}
          x={hour * STEP + 0.5}
          y={2}
          width={STEP - 1}
          height={11}
          rx={1}
          fill={hours.includes(hour) ? "var(--structure)" : "var(--rule)"}
        />
      ))}
      <line
        x1={first * STEP}
        x2={(last + 1) * STEP}
        y1={HEIGHT - 1.5}
        y2={HEIGHT - 1.5}
        stroke="var(--lamp)"
        strokeWidth={2}
      />
    </svg>
  );
}
