import type { ProtocolSettings, SiteView } from "../../../api/schema";

/** As the core has it where nothing was changed. */
const USUAL: ProtocolSettings = {
  setups: [],
  order: "there_and_back",
  repeats: { on: false, every_h: 5, tests: 2, monthly_mb: 20_000 },
};

/** How setups of a site are tested against each other. */
export const protocolOf = (view: SiteView): ProtocolSettings => ({ ...USUAL, ...view.settings.protocol });
