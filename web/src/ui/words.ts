import type {
  Activity,
  AntennaSwitch,
  Attach,
  Building,
  CarrierRole,
  Class,
  Confidence,
  ConnectionMode,
  DayPart,
  EventKind,
  Instrument,
  Metric,
  Modulation,
  Mount,
  OutdoorKind,
  SpeedFigure,
  Stage,
} from "../api/schema";

/** The words of fixed choices. Sentences about measurements are made by the core, not here. */
export const MOUNTS: Record<Mount, string> = {
  indoor: "Indoors, on a sill or table",
  window: "Window glass",
  attic: "Attic",
  wall: "Outside wall",
  gable: "Gable or old dish bracket",
  roof_mast: "Roof mast",
  chimney: "Chimney strap",
  pole: "Pole in the open",
  other: "Other",
};

export const ANTENNAS: Record<AntennaSwitch, string> = {
  internal: "Stock antennas (internal)",
  external: "External antenna",
};

export const ROLES: Record<CarrierRole, string> = {
  anchor: "anchor",
  primary: "",
  secondary: "added carrier",
  unknown: "",
};

export const ACTIVITIES: Record<Activity, string> = {
  idle: "idle",
  trickle: "trickle",
  loaded: "loaded",
  unknown: "not said",
};

export const ATTACHES: Record<Attach, string> = {
  not_recorded: "Not recorded",
  kept_attached: "Kept attached",
  restarted_to_rescan: "Restarted to rescan",
};

export const CLASSES: Record<Class, string> = {
  starved: "starved",
  thin: "thin",
  usable: "usable",
  solid: "solid",
  ample: "ample",
};

export const METRICS: Record<Metric, { plain: string; term: string; unit: string }> = {
  rsrp: { plain: "power", term: "RSRP", unit: "dBm" },
  rsrq: { plain: "quality", term: "RSRQ", unit: "dB" },
  sinr: { plain: "noise ratio", term: "SINR", unit: "dB" },
  rssi: { plain: "total", term: "RSSI", unit: "dBm" },
};

export const FIGURES: Record<SpeedFigure, { name: string; short: string; unit: string }> = {
  download: { name: "Download", short: "Download", unit: "Mbit/s" },
  upload: { name: "Upload", short: "Upload", unit: "Mbit/s" },
  idle_latency: { name: "Idle latency", short: "Latency", unit: "ms" },
  download_latency: { name: "Latency while downloading", short: "Latency ↓", unit: "ms" },
  upload_latency: { name: "Latency while uploading", short: "Latency ↑", unit: "ms" },
};

export const INSTRUMENTS: Record<Instrument, string> = {
  gateway: "The gateway itself",
  phone: "A phone, as a scout",
  modem: "A second modem or its network scan",
};

export const MODES: Record<ConnectionMode, string> = {
  lte: "LTE only",
  nsa: "5G riding on LTE (NSA)",
  sa: "5G on its own (SA)",
  no_service: "No service",
  unknown: "Not said",
};

export const MODULATIONS: Record<Modulation, string> = {
  qpsk: "QPSK",
  qam16: "16QAM",
  qam64: "64QAM",
  qam256: "256QAM",
};

export const EVENT_KINDS: Record<EventKind, string> = {
  weather: "Weather",
  network: "Mast or network",
  gateway: "Gateway",
  plan: "Plan or account",
  house: "House or antenna",
  other: "Something else",
};

export const DAY_PARTS: Record<DayPart, string> = {
  morning: "Morning, 6 to 11 h",
  midday: "Midday, 12 to 17 h",
  evening: "Evening, 18 to 22 h",
  night: "Night, 23 to 5 h",
};

export const OUTDOOR_KINDS: Record<OutdoorKind, string> = {
  omni: "Omni, hears all round",
  panel: "Wide panel or log-periodic",
  high_gain: "High-gain panel or dish",
};

export const BUILDINGS: Record<Building | "", string> = {
  "": "Not sure, either is possible",
  traditional: "Timber, brick or stone, plain glass",
  thermally_efficient: "Coated glass, foil or metal",
};

export const CONFIDENCES: Record<Confidence, string> = {
  high: "sure",
  medium: "probable",
  low: "check it",
};

export const STAGES: Record<
  Stage,
  { name: string; path: "baseline" | "kit" | "survey" | "mount" | "aim" | "bands" | "log" | "verdict" }
> = {
  baseline: { name: "Baseline", path: "baseline" },
  kit: { name: "Kit", path: "kit" },
  survey: { name: "Survey", path: "survey" },
  mount: { name: "Mount", path: "mount" },
  aim: { name: "Aim", path: "aim" },
  bands: { name: "Bands", path: "bands" },
  log: { name: "Log", path: "log" },
  verdict: { name: "Verdict", path: "verdict" },
};

/** "B3", "n78", or the technology alone. */
export function bandName(technology: "lte" | "nr", band: number | null | undefined): string {
  if (band == null) return technology === "lte" ? "LTE" : "NR";
  return `${technology === "lte" ? "B" : "n"}${band}`;
}
