import type { GatewayRecipe, LoginStep } from "../../../api/schema";

/** A gateway that answers anybody with the plain page. */
export const BARE_RECIPE: GatewayRecipe = {
  name: "",
  method: "get",
  body: "",
  headers: [],
  login: { kind: "none" },
  format: "json",
  map: null,
  checks: { must_hold: [], no_service: [], required: [], end_mark: "", login_signs: [] },
  modem_reads: [],
  lock: null,
};

/** A request that only asks. */
export const BARE_STEP: LoginStep = {
  method: "get",
  path: "/",
  compute: [],
  headers: [],
  send: "form",
  body: "",
  keep: [],
  must_hold: null,
};
