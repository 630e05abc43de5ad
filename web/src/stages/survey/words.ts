import type {
  Access,
  Clutter,
  Fit,
  MastField,
  Material,
  NextStep,
  ObstacleKind,
  Units,
} from "../../api/schema";
import { signed, withUnit } from "../../ui/format";

/** "370 m", "4.7 km"; "1210 ft", "2.9 mi". */
export function distance(metres: number, units: Units): string {
  if (units === "imperial")
    return metres < 300
      ? withUnit(signed(Math.round(metres / 3.048) * 10, 0), "ft")
      : withUnit(signed(metres / 1609.344, 1), "mi");
  return metres < 1000
    ? withUnit(signed(Math.round(metres / 10) * 10, 0), "m")
    : withUnit(signed(metres / 1000, metres < 20_000 ? 1 : 0), "km");
}

export const KINDS: Record<ObstacleKind, string> = {
  trees_in_leaf: "Trees in leaf, or needle trees",
  trees_bare: "Trees without leaves",
  building: "Building",
  house: "The house itself",
};

export const ACCESS: Record<Access, string> = {
  inside: "from inside",
  ground: "from the ground",
  ladder: "ladder",
  roof: "roof",
};

/** A match's word and shape; never colour alone. */
export const FITS: Record<Fit, { mark: string; colour: string }> = {
  confirmed: { mark: "●", colour: "text-solid" },
  possible: { mark: "◐", colour: "text-usable" },
  contradicted: { mark: "○", colour: "text-starved" },
};

export const NEXT: Record<NextStep, { text: string; href: string }> = {
  place_house: {
    text: "Give the site its coordinates in the settings: everything is computed from there.",
    href: "#plan",
  },
  add_masts: { text: "Enter or import the masts around you.", href: "#masts" },
  add_positions: { text: "Add the places where an antenna could stand, at Mount.", href: "#plan" },
  add_terrain: { text: "Add terrain, so that hills in the way are seen.", href: "#terrain" },
  draw_obstacles: { text: "Draw the trees and buildings near you: they often decide.", href: "#things" },
};

export const FIELDS: Record<MastField, string> = {
  name: "Name of the mast",
  operator: "Operator",
  latitude: "Latitude",
  longitude: "Longitude",
  height_m: "Height, m",
  height_ft: "Height, feet",
  technology: "Technology",
  band: "Band",
  channel: "Channel number",
  bandwidth_mhz: "Bandwidth, MHz",
  pci: "PCI",
  node: "Base station (eNB, gNB)",
  local_cell: "Local cell",
  cell_identity: "Cell identity (ECI, NCI)",
  bearing_deg: "Bearing, degrees",
  power_dbm: "Power, dBm",
  notes: "Notes",
  ignored: "Leave out",
};

/** What a roof or wall is of; none: the statistics over buildings. */
export const MATERIALS: readonly (readonly [Material | "", string])[] = [
  ["", "Not known: statistics over houses"],
  ["timber", "Timber"],
  ["brick", "Brick or clay tiles"],
  ["concrete", "Concrete"],
  ["plasterboard", "Plasterboard"],
  ["glass", "Plain glass"],
  ["coated_glass", "Glass with a metal coat"],
  ["foil", "Foil-backed insulation"],
  ["metal", "Sheet metal"],
];

export const CLUTTERS: readonly (readonly [Clutter | "", string])[] = [
  ["", "Nothing, or it is drawn"],
  ["water", "Water"],
  ["open", "Open country with hedges"],
  ["suburban", "Houses and gardens"],
  ["woodland", "Trees or a town"],
  ["dense_town", "A dense town"],
];
