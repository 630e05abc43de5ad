import type { Kit, KitBody, KitSpec } from "../../api/schema";

export const emptySpec: KitSpec = {
  gateway: null,
  antenna: null,
  antenna_count: 1,
  crossed_deg: null,
  leads: 0,
  chain: [],
  ethernet: null,
  ethernet_m: null,
  injector: null,
  ethernet_arrestor: null,
  mount: null,
  position_id: null,
  height_above_ground_m: null,
  gateway_place: "room",
  passage: { way: "none" },
  ports: [],
};

export const emptyKit: KitBody = { name: "New kit", spec: emptySpec, notes: "" };

export function bodyOf(kit: Kit): KitBody {
  const { name, spec, bought_on, return_by, notes } = kit;
  return { name, spec: { ...emptySpec, ...spec }, bought_on, return_by, notes };
}
