import type { ListKind, PartKind } from "../../../api/schema";
import { MOUNTS } from "../../../ui/words";
import {
  ANTENNA_KINDS,
  CABLES,
  GENDERS,
  LOCKINGS,
  POLARISATIONS,
  POWER_KINDS,
  SERIES,
  SWITCHES,
} from "../words";

/** One field of a part's form: where its value stands in the spec, and how it is written. */
export type PartField = { path: string[]; label: string; hint?: string } & (
  | { type: "number"; unit?: string; optional?: boolean }
  | { type: "yes" }
  | { type: "choice"; choices: [string, string][] }
  | { type: "list"; rows?: number; list: ListKind }
);

const choices = (words: Record<string, string>): [string, string][] => Object.entries(words);

const number = (path: string, label: string, optional = false): PartField => ({
  path: path.split("."),
  label,
  type: "number",
  optional,
});
const yes = (path: string, label: string): PartField => ({ path: path.split("."), label, type: "yes" });
const choice = (path: string, label: string, words: Record<string, string>): PartField => ({
  path: path.split("."),
  label,
  type: "choice",
  choices: choices(words),
});
const ends = (path: string, label: string): PartField[] => [
  choice(`${path}.series`, label, SERIES),
  choice(`${path}.gender`, `${label}: kind`, GENDERS),
];

const antenna = (at: string): PartField[] => {
  const under = (name: string) => (at === "" ? name : `${at}.${name}`);
  return [
    choice(under("antenna_kind"), "Kind", ANTENNA_KINDS),
    number(under("elements"), "Elements, each with its lead"),
    choice(under("polarisation"), "Polarisation", POLARISATIONS),
    {
      path: under("gain").split("."),
      label: "Gain by frequency",
      hint: "MHz:dBi, rising, from the lowest to the highest: 698:5 1710:8 3800:8",
      type: "list",
      list: "gain",
    },
    number(under("beamwidth_azimuth_deg"), "Beamwidth in azimuth, °"),
    number(under("beamwidth_elevation_deg"), "Beamwidth in elevation, °"),
    number(under("front_to_back_db"), "Front-to-back ratio, dB"),
    number(under("cross_polar_discrimination_db"), "Cross-polar discrimination, dB", true),
    number(under("isolation_db"), "Isolation between elements, dB", true),
    number(under("weight_kg"), "Weight, kg"),
    number(under("area_m2"), "Area the wind meets, m²"),
    number(under("fixing.clamp_low_mm"), "Clamp: smallest pole, mm"),
    number(under("fixing.clamp_high_mm"), "Clamp: largest pole, mm"),
    yes(under("fixing.wall"), "Screws to a wall"),
    yes(under("fixing.glass"), "Hangs on glass"),
    yes(under("weatherproof"), "Made for the open"),
  ];
};

export const outdoorFields: PartField[] = [
  choice("power_over_ethernet.power_kind", "Power it takes", POWER_KINDS),
  number("power_over_ethernet.lowest_v", "Least voltage at the unit, V"),
  number("power_over_ethernet.highest_v", "Highest voltage it bears, V"),
  ...antenna("outdoor"),
];

export const FIELDS: Record<PartKind, PartField[]> = {
  gateway: [
    {
      path: ["bands"],
      label: "Bands and streams",
      hint: "B3:2 B20:2 n78:4, the number is what it receives at once",
      type: "list",
      rows: 2,
      list: "band_support",
    },
    {
      path: ["ports"],
      label: "Antenna ports, one a line",
      hint: "Name, connector, pair, “rx” if it only receives, bands if not all: 3 sma-f pair2 rx B3 n78",
      type: "list",
      rows: 4,
      list: "ports",
    },
    number("aggregated_carriers", "Carriers it aggregates"),
    yes("standalone", "5G on its own (SA)"),
    yes("non_standalone", "5G riding on LTE (NSA)"),
    yes("opened", "Case must be opened to reach the ports"),
    choice("switch", "Ports are switched", SWITCHES),
    choice("locking", "Can lock", LOCKINGS),
    {
      path: ["shows"],
      label: "Metrics its pages show",
      hint: "Of RSRP, RSRQ, SINR and RSSI",
      type: "list",
      list: "metrics",
    },
    yes("bridge_mode", "Bridge mode"),
    yes("port_forwarding", "Port forwarding"),
    number("lan_mbps", "LAN port, Mbit/s"),
    number("temperature_low_c", "Coldest it bears, °C"),
    number("temperature_high_c", "Hottest it bears, °C"),
    number("power_w", "Power, W"),
    number("noise_figure_db", "Noise figure, dB"),
    number("transmit_power_dbm", "Transmit power, dBm"),
  ],
  antenna: [
    ...antenna(""),
    ...ends("connector", "Connector of each lead"),
    number("tail_m", "Its own leads, m"),
    {
      path: ["tail_cable"],
      label: "Cable of its own leads",
      type: "choice",
      choices: [["", "None"], ...choices(CABLES)],
    },
  ],
  feed_line: [
    choice("cable", "Cable", CABLES),
    yes("twin", "Two cables in one jacket"),
    ...ends("antenna_end", "Antenna end"),
    ...ends("gateway_end", "Gateway end"),
    number("price_per_m", "Price by the metre"),
    yes("outdoors", "Made for the open"),
  ],
  jumper: [
    ...ends("antenna_end", "Antenna end"),
    ...ends("gateway_end", "Gateway end"),
    number("loss_db_2ghz", "Loss at 2 GHz, dB"),
    number("length_m", "Length, m"),
    yes("flat", "Passes a closed window"),
  ],
  adapter: [...ends("antenna_end", "Antenna end"), ...ends("gateway_end", "Gateway end")],
  arrestor: [
    ...ends("antenna_end", "Antenna end"),
    ...ends("gateway_end", "Gateway end"),
    number("loss_db_2ghz", "Loss at 2 GHz, dB"),
    number("lowest_mhz", "From, MHz"),
    number("highest_mhz", "To, MHz"),
  ],
  ethernet: [
    number("loop_ohm_100m", "Loop resistance of one pair, 100 m, Ω"),
    yes("outdoors", "Made for the open"),
    number("lan_mbps", "Rate, Mbit/s"),
    number("diameter_mm", "Thickness, mm"),
    number("price_per_m", "Price by the metre"),
  ],
  injector: [
    choice("power_kind", "Power", POWER_KINDS),
    number("voltage_v", "Voltage, V"),
    number("power_w", "Power, W"),
    yes("four_pairs", "Feeds over four pairs"),
    number("lan_mbps", "Rate, Mbit/s"),
  ],
  mount: [
    choice("mount", "Where it holds", MOUNTS),
    number("pole_mm", "Pole, mm; 0 for none"),
    number("free_length_m", "Free length, m"),
    number("carries_kg", "Carries, kg"),
    number("moment_nm", "Bending moment it is sold for, N m", true),
    number("holes", "Holes"),
    number("hours", "Hours to fix"),
  ],
};
