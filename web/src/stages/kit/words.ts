import type {
  AntennaKind,
  CableKind,
  GatewayPlace,
  Gender,
  Limit,
  Locking,
  PartKind,
  PassageWay,
  Polarisation,
  PortSwitch,
  PowerKind,
  Series,
  Severity,
  UseKind,
} from "./types";

/** Fixed words of the Kit stage; sentences about a kit are made by the core. */
export const PART_KINDS: Record<PartKind, { one: string; many: string }> = {
  antenna: { one: "Antenna", many: "Antennas" },
  jumper: { one: "Jumper or pigtail", many: "Jumpers and pigtails" },
  feed_line: { one: "Feed line", many: "Feed lines" },
  adapter: { one: "Adapter", many: "Adapters" },
  arrestor: { one: "Surge arrestor", many: "Surge arrestors" },
  gateway: { one: "Gateway", many: "Gateways" },
  ethernet: { one: "Ethernet cable", many: "Ethernet cables" },
  injector: { one: "Power injector", many: "Power injectors" },
  mount: { one: "Mount", many: "Mounts" },
};

export const SEVERITIES: Record<Severity, string> = {
  wrong: "must be fixed",
  costs: "costs something",
  mind: "to know",
};

export const GATEWAY_PLACES: Record<GatewayPlace, string> = {
  room: "A heated room",
  attic: "Attic, not heated",
  sealed_box: "Closed box outside",
  outside: "Outside",
};

export const PASSAGES: Record<PassageWay, string> = {
  none: "Not said, or nothing to pass",
  hole: "A drilled hole",
  window: "Through a closed window",
};

export const SERIES: Record<Series, string> = {
  n: "N",
  sma: "SMA",
  rp_sma: "RP-SMA",
  ts9: "TS9",
  crc9: "CRC9",
  u_fl: "u.FL",
};

export const GENDERS: Record<Gender, string> = { male: "male (plug)", female: "female (socket)" };

export const CABLES: Record<CableKind, string> = {
  rg174: "RG-174",
  rg58: "RG-58",
  rg8x: "RG-8X",
  rg213: "RG-213",
  class100: "100-class",
  class200: "200-class",
  class240: "240-class",
  class400: "400-class",
  class600: "600-class",
};

export const ANTENNA_KINDS: Record<AntennaKind, string> = {
  omni: "Omni",
  panel: "Panel",
  log_periodic: "Log-periodic",
  high_gain: "High-gain panel or dish",
};

export const POLARISATIONS: Record<Polarisation, string> = {
  slant: "Crossed, ±45°",
  cross: "Upright and lying",
  vertical: "All upright",
};

export const SWITCHES: Record<PortSwitch, string> = {
  none: "Nothing to switch",
  manual: "By a setting",
  automatic: "By itself",
  permanent: "Inner antennas cut off for good",
};

export const LOCKINGS: Record<Locking, string> = {
  none: "Nothing",
  bands: "Bands",
  bands_and_cells: "Bands and cells",
};

export const POWER_KINDS: Record<PowerKind, string> = { standard: "Standard (802.3)", passive: "Passive" };

export const LIMITS: Record<Limit, string> = {
  noise: "noise",
  interference: "other cells",
  both: "noise and other cells",
  fine: "nothing",
  unknown: "–",
};

export const USES: Record<UseKind, string> = {
  video_call: "Video calls at once",
  hd_stream: "HD streams",
  uhd_stream: "UHD streams",
  upload: "Uploads, backups",
  gaming: "Gaming",
  browsing: "Browsing, phones",
};
