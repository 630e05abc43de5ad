import type { CarrierGroup, FieldMap, PageField } from "../../../api/schema";

/** What the next press in the live answer points at: a group's own place, or one field of it. */
export interface Target {
  kind: "carriers" | "neighbours";
  group: number;
  field?: PageField;
}

export const FIELDS: readonly (readonly [PageField, string])[] = [
  ["technology", "Technology (LTE or NR)"],
  ["rsrp_dbm", "Signal (RSRP), dBm"],
  ["sinr_db", "Signal-to-noise (SINR), dB"],
  ["rsrq_db", "RSRQ, dB"],
  ["rssi_dbm", "RSSI, dBm"],
  ["band", "Band"],
  ["channel", "Channel (EARFCN, NR-ARFCN)"],
  ["bandwidth_mhz", "Width, MHz"],
  ["pci", "PCI"],
  ["cell_identity", "Cell identity"],
  ["role", "Role (anchor, primary, secondary)"],
  ["rank", "Layers (rank)"],
  ["cqi", "CQI"],
  ["mcs", "MCS"],
  ["transmit_power_dbm", "Transmit power, dBm"],
  ["timing_advance", "Timing advance"],
];

/** One step of a JSON Pointer (RFC 6901 section 4). */
export const step = (name: string) => `/${name.replaceAll("~", "~0").replaceAll("/", "~1")}`;

/** The pointer from a group to something below it, a list's index left out; none where it stands elsewhere. */
export function below(group: string, pointer: string): string | undefined {
  if (!pointer.startsWith(`${group}/`)) return undefined;
  return pointer.slice(group.length).replace(/^\/\d+(?=\/)/, "");
}

/** The map with what was pressed put in; a sentence where that cannot be. */
export function pointAt(map: FieldMap, target: Target, pointer: string): FieldMap | string {
  const groups = [...(map[target.kind] ?? [])];
  const group = groups[target.group];
  if (!group) return "This part is not there any more.";
  let changed: CarrierGroup;
  if (target.field === undefined) changed = { ...group, at: pointer };
  else {
    const at = below(group.at, pointer);
    if (at === undefined) return `That stands outside ${group.at}. Point at this part's own place first.`;
    const rest = group.fields.filter((one) => one.field !== target.field);
    const before = group.fields.find((one) => one.field === target.field);
    changed = { ...group, fields: [...rest, { ...before, field: target.field, at, fixed: "" }] };
  }
  groups[target.group] = changed;
  return { ...map, [target.kind]: groups };
}
