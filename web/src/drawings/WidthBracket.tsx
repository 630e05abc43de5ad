import type { UsualWidths } from "../api/schema";
import { withUnit } from "../ui/format";

/** Widest carrier drawn at full length, MHz. */
const FULL_MHZ = 100;
const LENGTH = 150;

const lengthOf = (mhz: number) => Math.max(6, (Math.min(mhz, FULL_MHZ) / FULL_MHZ) * LENGTH);

/** "10 to 20 MHz wide, usually 20". */
export const widthWords = ({ low_mhz, likely_mhz, high_mhz }: UsualWidths) =>
  low_mhz === high_mhz
    ? withUnit(`usually ${likely_mhz}`, "MHz wide")
    : `${withUnit(`${low_mhz} to ${high_mhz}`, "MHz wide")}, usually ${likely_mhz}`;

/**
 * A carrier's bandwidth as a bracket to scale, never a filled bar, which would read as strength. Where the page shows none,
 * the widths that are usual on the band: dashed from the narrowest to the widest.
 */
export function WidthBracket(props: { mhz: number } | { assumed: UsualWidths }) {
  const assumed = "assumed" in props ? props.assumed : undefined;
  const from = lengthOf(assumed ? assumed.low_mhz : "mhz" in props ? props.mhz : 0);
  const to = assumed ? lengthOf(assumed.high_mhz) : from;
  return (
    <div className="flex items-center gap-2 text-sm text-muted">
      <svg width={to + 2} height="12" aria-hidden="true" className="shrink-0">
        <g stroke="var(--structure)" strokeWidth="1.8" fill="none">
          <path d={`M1 1 V11 M1 6 H${from + 1} M${from + 1} 1 V11`} />
          {to > from && <path d={`M${from + 1} 6 H${to + 1} M${to + 1} 1 V11`} strokeDasharray="3 3" />}
        </g>
      </svg>
      <span>
        {assumed
          ? `${widthWords(assumed)} (not on the page)`
          : withUnit(String("mhz" in props ? props.mhz : ""), "MHz wide")}
      </span>
    </div>
  );
}
