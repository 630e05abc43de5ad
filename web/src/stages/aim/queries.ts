import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys, lastLook } from "../../api/queries";
import type { SweepLine, SweepView } from "../../api/schema";

/** Sweeps of a site, the newest first. */
export const useSweeps = (siteId: string) =>
  useQuery({
    queryKey: keys.sweeps(siteId),
    ...lastLook<SweepLine[]>(keys.sweeps(siteId)),
    queryFn: () => answered(api.GET("/api/sites/{id}/sweeps", { params: { path: { id: siteId } } })),
  });

/** A sweep with its fit and the next step. */
export const useSweep = (siteId: string, sweep: string | undefined) =>
  useQuery({
    queryKey: keys.sweep(siteId, sweep ?? ""),
    ...lastLook<SweepView>(keys.sweep(siteId, sweep ?? "")),
    enabled: sweep !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.GET("/api/sites/{id}/sweeps/{sweep}", {
          params: { path: { id: siteId, sweep: sweep ?? "" } },
        }),
      ),
  });

/** The score of a rehearsed sweep whose antenna is set. */
export const useScore = (siteId: string, sweep: string, enabled: boolean) =>
  useQuery({
    queryKey: ["score", siteId, sweep],
    enabled,
    queryFn: () =>
      answered(api.GET("/api/sites/{id}/sweeps/{sweep}/score", { params: { path: { id: siteId, sweep } } })),
  });
