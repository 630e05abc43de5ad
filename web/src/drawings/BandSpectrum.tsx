import type { BandChoice, BandOffer } from "../api/schema";
import { frequency } from "../ui/format";

const WIDTH = 720;
const LEFT = 58;
const RAIL = 30;
/** Spectrum without a band between two of them that is shown, MHz; the rest is cut out. */
const MARGIN_MHZ = 14;
const JOIN_MHZ = 120;
const BREAK = 16;

interface Segment {
  low: number;
  high: number;
  x: number;
}

/** Pieces of spectrum that hold bands, all to one scale. */
function segments(offers: BandOffer[]): [Segment[], number] {
  const spans = offers
    .flatMap((one) => (one.place.downlink ? [one.place.downlink] : []))
    .map((span) => [span.low_mhz - MARGIN_MHZ, span.high_mhz + MARGIN_MHZ] as const)
    .sort((a, b) => a[0] - b[0]);
  const joined: { low: number; high: number }[] = [];
  for (const [low, high] of spans) {
    const last = joined.at(-1);
    if (last && low - last.high < JOIN_MHZ) last.high = Math.max(last.high, high);
    else joined.push({ low, high });
  }
  const total = joined.reduce((sum, one) => sum + one.high - one.low, 0);
  const scale = (WIDTH - LEFT - BREAK * Math.max(0, joined.length - 1)) / Math.max(total, 1);
  let x = LEFT;
  const placed = joined.map((one) => {
    const made = { ...one, x };
    x += (one.high - one.low) * scale + BREAK;
    return made;
  });
  return [placed, scale];
}

/** Each band gets the first line on which it overlaps none before it. */
function lanes(offers: BandOffer[]): BandOffer[][] {
  const rows: BandOffer[][] = [];
  const low = (one: BandOffer) => one.place.downlink?.low_mhz ?? 0;
  const high = (one: BandOffer) => one.place.downlink?.high_mhz ?? 0;
  for (const one of [...offers].sort((a, b) => low(a) - low(b))) {
    const free = rows.find((row) => row.every((other) => low(one) >= high(other) + 24));
    if (free) free.push(one);
    else rows.push([one]);
  }
  return rows;
}

const usable = (one: BandOffer) => one.gateway !== false && one.antenna !== false && one.feed_line !== false;

function allowed(choice: BandChoice, one: BandOffer): boolean {
  const { technology, band } = one.band;
  const lists = { lte: choice.lte ?? [], nr: choice.nr ?? [] };
  if (technology === "lte" && choice.access === "sa") return false;
  if (technology === "nr" && choice.access === "lte") return false;
  return lists[technology].length === 0 || lists[technology].includes(band);
}

function words(one: BandOffer, choice: BandChoice): string {
  const parts = [
    one.seen ? "in use here" : one.on_mast ? "on the mast" : "of the gateway only",
    usable(one) ? "" : "not usable with this kit",
    allowed(choice, one) ? "" : "locked out",
    one.shares_with.length > 0 ? `shares spectrum with ${one.shares_with.join(", ")}` : "",
    ...one.carriers.map((carrier) => `a carrier of ${carrier.bandwidth_mhz} MHz`),
  ];
  return `${one.name} at ${frequency(one.place.downlink?.low_mhz ?? 0)}: ${parts.filter(Boolean).join(", ")}`;
}

/** Bands to scale: what is heard, what the mast has, what the kit supports, what is locked out; each carrier's width. */
export function BandSpectrum({ offers, locked }: { offers: BandOffer[]; locked: BandChoice }) {
  const shown = offers.filter(
    (one) => one.place.downlink && (one.seen || one.on_mast || one.carriers.length > 0),
  );
  if (shown.length === 0) return null;
  const [pieces, scale] = segments(shown);
  const x = (mhz: number) => {
    const piece = pieces.find((one) => mhz <= one.high) ?? pieces[pieces.length - 1];
    return piece ? piece.x + (mhz - piece.low) * scale : LEFT;
  };
  const lte = lanes(shown.filter((one) => one.band.technology === "lte"));
  const nr = lanes(shown.filter((one) => one.band.technology === "nr"));
  const axis = 14 + lte.length * RAIL;
  const height = axis + 34 + nr.length * RAIL;
  const row = (one: BandOffer, at: number, up: boolean) => {
    const span = one.place.downlink;
    if (!span) return null;
    const y = up ? axis - (at + 1) * RAIL + 4 : axis + 30 + at * RAIL;
    const [low, high] = [x(span.low_mhz), Math.max(x(span.low_mhz) + 4, x(span.high_mhz))];
    const fine = usable(one);
    const open = allowed(locked, one);
    // Beside a narrow band, at the beginning of a wide one, where no carrier lies under it.
    const inside = high - low > 120;
    const label = inside ? low + 7 : high + 5;
    return (
      <g key={one.name} opacity={open ? 1 : 0.55}>
        <rect
          x={low}
          y={y}
          width={high - low}
          height="20"
          rx="2"
          fill={!fine ? "url(#not-usable)" : one.seen ? "var(--lamp-wash)" : "var(--surface)"}
          stroke={one.seen ? "var(--lamp)" : "var(--edge)"}
          strokeWidth={one.seen ? 1.8 : 1.2}
          strokeDasharray={one.seen ? undefined : "4 3"}
        />
        {one.carriers.map((carrier) => {
          const from = x(carrier.frequency_mhz - carrier.bandwidth_mhz / 2);
          const to = Math.max(from + 3, x(carrier.frequency_mhz + carrier.bandwidth_mhz / 2));
          return (
            <path
              key={`${carrier.carrier.channel}`}
              d={`M${from} ${y + 4} V${y + 16} M${from} ${y + 10} H${to} M${to} ${y + 4} V${y + 16}`}
              stroke={carrier.heard_as === "in_use" ? "var(--action)" : "var(--structure)"}
              strokeWidth="2.4"
              fill="none"
            />
          );
        })}
        <text
          x={label}
          y={y + 15}
          fontSize="13.5"
          fontWeight="700"
          textAnchor="start"
          fill="var(--ink)"
          stroke="var(--ground)"
          strokeWidth="3.5"
          paintOrder="stroke"
        >
          {one.name}
        </text>
        {!open && <path d={`M${low - 3} ${y + 10} H${high + 3}`} stroke="var(--starved)" strokeWidth="2.5" />}
      </g>
    );
  };
  return (
    <figure>
      <svg
        viewBox={`0 0 ${WIDTH} ${height}`}
        className="w-full"
        role="img"
        aria-label={`Bands. ${shown.map((one) => words(one, locked)).join("; ")}.`}
      >
        <defs>
          <pattern
            id="not-usable"
            width="7"
            height="7"
            patternUnits="userSpaceOnUse"
            patternTransform="rotate(45)"
          >
            <rect width="7" height="7" fill="var(--ground)" />
            <path d="M0 0 V7" stroke="var(--edge)" strokeWidth="1.6" />
          </pattern>
        </defs>
        <text x="4" y={axis - 8} fontSize="13.5" fontWeight="700" fill="var(--muted)">
          LTE
        </text>
        <text x="4" y={axis + 45} fontSize="13.5" fontWeight="700" fill="var(--muted)">
          NR
        </text>
        {pieces.map((one, at) => {
          const end = one.x + (one.high - one.low) * scale;
          return (
            <g key={one.low}>
              <path d={`M${one.x} ${axis} H${end}`} stroke="var(--edge)" strokeWidth="1.4" />
              {at > 0 && (
                <path
                  d={`M${one.x - BREAK + 3} ${axis + 5} l4 -10 M${one.x - BREAK + 9} ${axis + 5} l4 -10`}
                  stroke="var(--edge)"
                  strokeWidth="1.4"
                />
              )}
              <text
                x={(one.x + end) / 2}
                y={axis + 18}
                fontSize="12.5"
                textAnchor="middle"
                fill="var(--muted)"
              >
                {end - one.x > 110
                  ? `${Math.round(one.low + MARGIN_MHZ)} to ${Math.round(one.high - MARGIN_MHZ)} MHz`
                  : `${Math.round((one.low + one.high) / 2)}`}
              </text>
            </g>
          );
        })}
        {lte.map((lane, at) => lane.map((one) => row(one, at, true)))}
        {nr.map((lane, at) => lane.map((one) => row(one, at, false)))}
      </svg>
      <figcaption className="mt-1 flex flex-wrap gap-x-5 gap-y-1 text-sm text-muted">
        <Key look="seen">in use here or in a trial</Key>
        <Key look="mast">listed at the mast</Key>
        <Key look="not">not with this kit</Key>
        <Key look="carrier">a carrier, as wide as it is</Key>
        {!(locked.access === "any" || locked.access === undefined) ||
        (locked.lte?.length ?? 0) + (locked.nr?.length ?? 0) > 0 ? (
          <Key look="out">locked out</Key>
        ) : null}
      </figcaption>
    </figure>
  );
}

function Key({ look, children }: { look: "seen" | "mast" | "not" | "carrier" | "out"; children: string }) {
  return (
    <span className="inline-flex items-center gap-1.5">
      <svg viewBox="0 0 24 14" className="h-3.5 w-6" aria-hidden="true">
        {look === "carrier" ? (
          <path d="M3 2 V12 M3 7 H21 M21 2 V12" stroke="var(--structure)" strokeWidth="2.4" />
        ) : look === "out" ? (
          <path d="M1 7 H23" stroke="var(--starved)" strokeWidth="2.5" />
        ) : (
          <rect
            x="1"
            y="1"
            width="22"
            height="12"
            rx="2"
            fill={
              look === "not" ? "url(#not-usable)" : look === "seen" ? "var(--lamp-wash)" : "var(--surface)"
            }
            stroke={look === "seen" ? "var(--lamp)" : "var(--edge)"}
            strokeWidth="1.6"
            strokeDasharray={look === "seen" ? undefined : "4 3"}
          />
        )}
      </svg>
      {children}
    </span>
  );
}
