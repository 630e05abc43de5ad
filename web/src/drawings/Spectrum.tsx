import { scaleLog } from "d3-scale";
import type { UsualWidths } from "../api/schema";
import { frequency } from "../ui/format";
import { widthWords } from "./WidthBracket";

export interface SpectrumCarrier {
  id: string;
  name: string;
  mhz: number;
  /** Known, MHz; or what is usual on the band; or nothing. */
  widths: number | UsualWidths | undefined;
  /** The one that holds the connection together. */
  anchor: boolean;
  chosen: boolean;
}

export interface SpectrumBand {
  name: string;
  low: number;
  high: number;
}

const WIDTH = 640;
const LEFT = 12;
const LOW_MHZ = 600;
const HIGH_MHZ = 4300;
const MARKS = [700, 1000, 1500, 2000, 3000, 4000];

/** Place on a logarithmic scale of frequency, on which low and mid bands both have room. */
const x = scaleLog([LOW_MHZ, HIGH_MHZ], [LEFT, WIDTH - LEFT]);

const said = (widths: SpectrumCarrier["widths"]) =>
  widths === undefined
    ? ""
    : typeof widths === "number"
      ? `${widths} MHz wide`
      : `${widthWords(widths)}, not on the page`;

const likely = (widths: SpectrumCarrier["widths"]) =>
  typeof widths === "number" ? widths : (widths?.likely_mhz ?? 0);

/** Where the carriers sit in the spectrum, which are bundled, and which anchors the rest. */
export function Spectrum({
  carriers,
  bands,
  onChoose,
}: {
  carriers: SpectrumCarrier[];
  bands: SpectrumBand[];
  onChoose: (id: string) => void;
}) {
  const shown = carriers.filter((carrier) => carrier.mhz >= LOW_MHZ && carrier.mhz <= HIGH_MHZ);
  const order = [...shown].sort((a, b) => a.mhz - b.mhz);
  const anchor = shown.find((carrier) => carrier.anchor);
  // Labels that would overlap go to a second line.
  const rows = new Map<string, number>();
  let last = [-1000, -1000];
  for (const carrier of order) {
    const row = x(carrier.mhz) - (last[0] ?? 0) > 74 ? 0 : 1;
    rows.set(carrier.id, row);
    last = row === 0 ? [x(carrier.mhz), last[1] ?? 0] : [last[0] ?? 0, x(carrier.mhz)];
  }
  const words = order
    .map((carrier) =>
      [`${carrier.name} at ${frequency(carrier.mhz)}`, said(carrier.widths)].filter(Boolean).join(", "),
    )
    .join("; ");
  return (
    <svg viewBox={`0 0 ${WIDTH} 150`} className="w-full" role="img" aria-label={`Carriers: ${words}.`}>
      {bands.map((band) => (
        <rect
          key={band.name}
          x={x(band.low)}
          y="74"
          width={Math.max(2, x(band.high) - x(band.low))}
          height="30"
          fill="var(--rule)"
          opacity="0.6"
        />
      ))}
      <path d={`M${LEFT} 104 H${WIDTH - LEFT}`} stroke="var(--edge)" strokeWidth="1.4" />
      {MARKS.map((mark) => (
        <g key={mark}>
          <path d={`M${x(mark)} 104 v6`} stroke="var(--edge)" />
          <text x={x(mark)} y="124" fontSize="12" textAnchor="middle" fill="var(--muted)">
            {frequency(mark)}
          </text>
        </g>
      ))}
      {anchor &&
        order
          .filter((carrier) => carrier.id !== anchor.id)
          .map((carrier) => {
            const [a, b] = [x(anchor.mhz), x(carrier.mhz)];
            return (
              <path
                key={carrier.id}
                d={`M${a} 72 Q${(a + b) / 2} ${20} ${b} 72`}
                fill="none"
                stroke="var(--edge)"
                strokeWidth="1.4"
                strokeDasharray="4 3"
              />
            );
          })}
      {order.map((carrier) => {
        const low = x(carrier.mhz - likely(carrier.widths) / 2);
        const high = Math.max(low + 4, x(carrier.mhz + likely(carrier.widths) / 2));
        const ink = carrier.chosen ? "var(--lamp)" : "var(--structure)";
        const y = rows.get(carrier.id) === 1 ? 34 : 58;
        return (
          // The same choice is made by the tabs below, which the keyboard reaches.
          // biome-ignore lint/a11y/noStaticElementInteractions: a larger target for the pointer only
          <g key={carrier.id} onClick={() => onChoose(carrier.id)} style={{ cursor: "pointer" }}>
            <path
              d={`M${low} 78 V100 M${low} 89 H${high} M${high} 78 V100`}
              stroke={ink}
              strokeWidth="2.6"
              strokeDasharray={typeof carrier.widths === "number" ? undefined : "3 3"}
              fill="none"
            />
            <text
              x={(low + high) / 2}
              y={y}
              fontSize="14"
              fontWeight="700"
              textAnchor="middle"
              fill="var(--ink)"
            >
              {carrier.name}
            </text>
            <path d={`M${(low + high) / 2} ${y + 4} V74`} stroke="var(--rule)" strokeWidth="1" />
            <rect x={low - 12} y="20" width={high - low + 24} height="84" fill="transparent" />
          </g>
        );
      })}
    </svg>
  );
}
