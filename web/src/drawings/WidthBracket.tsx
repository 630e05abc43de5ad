import { withUnit } from "../kit/format";

/** Widest carrier drawn at full length, MHz. */
const FULL_MHZ = 100;
const LENGTH = 150;

/** A carrier's bandwidth as a bracket to scale, never a filled bar, which would read as strength. */
export function WidthBracket({ mhz }: { mhz: number }) {
  const length = Math.max(6, (Math.min(mhz, FULL_MHZ) / FULL_MHZ) * LENGTH);
  return (
    <div className="flex items-center gap-2 text-sm text-muted">
      <svg width={length + 2} height="12" aria-hidden="true" className="shrink-0">
        <path
          d={`M1 1 V11 M1 6 H${length + 1} M${length + 1} 1 V11`}
          stroke="var(--structure)"
          strokeWidth="1.8"
          fill="none"
        />
      </svg>
      <span className="whitespace-nowrap">{withUnit(String(mhz), "MHz wide")}</span>
    </div>
  );
}
