import type {
  BandName,
  BandSupport,
  ExpectedCarrier,
  GainPoint,
  GatewayPort,
  Metric,
  Technology,
} from "../../api/schema";
import { bandName } from "../../ui/words";

/** Short spellings of lists, so that a catalogue can be filled in without a form in a form. */

const BAND = /^([bn])(\d{1,3})$/i;

function readBand(word: string): BandName | undefined {
  const found = BAND.exec(word);
  if (!found) return undefined;
  const technology: Technology = found[1]?.toLowerCase() === "b" ? "lte" : "nr";
  return { technology, band: Number(found[2]) };
}

const words = (text: string) => text.split(/[,;\s]+/).filter(Boolean);

/** "B20 10, n78 80". */
export const expectedText = (list: ExpectedCarrier[]): string =>
  list.map((one) => `${bandName(one.technology, one.band)} ${one.bandwidth_mhz}`).join(", ");

/** The list, or what would work. */
export function readExpected(text: string): ExpectedCarrier[] | string {
  const list: ExpectedCarrier[] = [];
  for (const piece of text.split(/[,;\n]+/).filter((part) => part.trim() !== "")) {
    const [word, width] = words(piece);
    const band = readBand(word ?? "");
    const bandwidth_mhz = Number(width);
    if (!band || !(bandwidth_mhz > 0))
      return `“${piece.trim()}”: a band and its width in MHz, for instance B20 10.`;
    list.push({ ...band, bandwidth_mhz });
  }
  return list;
}

/** "B3+B20, B3+n78". */
export const combinationsText = (list: BandName[][]): string =>
  list.map((one) => one.map((band) => bandName(band.technology, band.band)).join("+")).join(", ");

export function readCombinations(text: string): BandName[][] | string {
  const list: BandName[][] = [];
  for (const piece of words(text)) {
    const bands = piece.split("+").map(readBand);
    if (bands.length < 2 || bands.some((band) => band === undefined))
      return `“${piece}”: bands joined by +, for instance B3+B20 or B3+n78.`;
    list.push(bands.filter((band) => band !== undefined));
  }
  return list;
}

/** "B3:2 n78:4". */
export const supportText = (list: BandSupport[]): string =>
  list.map((one) => `${bandName(one.technology, one.band)}:${one.layers}`).join(" ");

export function readSupport(text: string): BandSupport[] | string {
  const list: BandSupport[] = [];
  for (const word of words(text)) {
    const [name = "", layers = "2"] = word.split(":");
    const band = readBand(name);
    if (!band || !/^[1-4]$/.test(layers))
      return `“${word}”: a band and its streams, for instance B3:2 or n78:4.`;
    list.push({ ...band, layers: Number(layers) });
  }
  return list;
}

/** "698:5 1710:8". */
export const gainText = (list: GainPoint[]): string =>
  list.map((point) => `${point.frequency_mhz}:${point.gain_dbi}`).join(" ");

export function readGain(text: string): GainPoint[] | string {
  const list: GainPoint[] = [];
  for (const word of words(text)) {
    const [mhz, dbi] = word.replace("−", "-").split(":").map(Number);
    if (mhz === undefined || dbi === undefined || !(mhz > 0) || !Number.isFinite(dbi))
      return `“${word}”: a frequency in MHz and a gain in dBi, for instance 1710:8.`;
    list.push({ frequency_mhz: mhz, gain_dbi: dbi });
  }
  return list;
}

const SERIES = { n: "n", sma: "sma", rpsma: "rp_sma", ts9: "ts9", crc9: "crc9", ufl: "u_fl" } as const;

/** One port a line: "1 sma-f pair1", then "rx" where it only receives, then its bands if not all. */
export const portsText = (list: GatewayPort[]): string =>
  list
    .map((port) =>
      [
        port.name,
        `${port.connector.series.replace("_", "")}-${port.connector.gender === "female" ? "f" : "m"}`,
        `pair${port.pair}`,
        port.direction === "receive" ? "rx" : "",
        ...(port.bands ?? []).map((band) => bandName(band.technology, band.band)),
      ]
        .filter(Boolean)
        .join(" "),
    )
    .join("\n");

export function readPorts(text: string): GatewayPort[] | string {
  const list: GatewayPort[] = [];
  for (const line of text.split("\n").filter((one) => one.trim() !== "")) {
    const [name, connector = "", pair = "", ...rest] = words(line);
    const found = /^([a-z0-9]+)-([fm])$/i.exec(connector);
    const series = SERIES[(found?.[1] ?? "").toLowerCase() as keyof typeof SERIES];
    const number = /^pair([1-4])$/i.exec(pair)?.[1];
    const bands = rest.filter((word) => word !== "rx").map(readBand);
    if (!name || !series || !number || bands.some((band) => band === undefined))
      return `“${line.trim()}”: name, connector, pair, “rx” if it only receives, bands if not all; for instance 3 sma-f pair2 rx B3 n78.`;
    list.push({
      name,
      connector: { series, gender: found?.[2]?.toLowerCase() === "m" ? "male" : "female" },
      pair: Number(number),
      direction: rest.includes("rx") ? "receive" : "both",
      bands: bands.filter((band) => band !== undefined),
    });
  }
  return list;
}

const METRICS: Metric[] = ["rsrp", "rsrq", "sinr", "rssi"];

/** "RSRP RSRQ SINR". */
export const metricsText = (list: Metric[]): string => list.map((metric) => metric.toUpperCase()).join(" ");

export function readMetrics(text: string): Metric[] | string {
  const list = words(text).map((word) => word.toLowerCase());
  const wrong = list.find((word) => !(METRICS as string[]).includes(word));
  if (wrong !== undefined) return `“${wrong}”: of RSRP, RSRQ, SINR and RSSI, for instance RSRP SINR.`;
  return METRICS.filter((metric) => list.includes(metric));
}
