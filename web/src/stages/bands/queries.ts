import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys } from "../../api/queries";
import type { BandChoice, SiteView, TrialSettings } from "../../api/schema";

/** Everything on bands at a site. */
export const useBands = (siteId: string, part?: string) =>
  useQuery({
    queryKey: [...keys.bands(siteId), part ?? ""],
    queryFn: () =>
      answered(
        api.GET("/api/sites/{id}/bands", {
          params: { path: { id: siteId }, query: part === undefined ? {} : { part } },
        }),
      ),
    placeholderData: (before) => before,
  });

/** What trying some choices takes. */
export const usePlan = (siteId: string, choices: BandChoice[], enabled: boolean) =>
  useQuery({
    queryKey: [...keys.bands(siteId), "plan", choices],
    enabled,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/sites/{id}/bands/plan", { params: { path: { id: siteId } }, body: { choices } }),
      ),
  });

/** How trials are planned at a site; as the server has it where nothing was said. */
export const trialSettings = (site: SiteView): TrialSettings =>
  site.settings.trials ?? {
    goal: "household",
    difference: 0.2,
    data_cap_mb: null,
    combinations: [],
    kept: {},
    undo_read_at: null,
  };
