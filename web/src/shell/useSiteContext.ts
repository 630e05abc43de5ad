import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useCallback, useMemo } from "react";
import { ApiError, answered, api } from "../api/client";
import { keys, queryClient, useSite } from "../api/queries";
import type { PositionNode, SetupNode, SiteSettings, SiteView } from "../api/schema";
import { useAction } from "../ui/useAction";

/** The site that is open. */
export function useSiteId(): string {
  return useParams({ from: "/sites/$siteId" }).siteId;
}

export interface Chosen {
  position: PositionNode;
  setup: SetupNode;
}

/** Positions and setups in use. */
export function inUse(view: SiteView | undefined): PositionNode[] {
  return (view?.positions ?? [])
    .filter((node) => !node.position.archived_at)
    .map((node) => ({ ...node, setups: node.setups.filter((setup) => !setup.setup.archived_at) }));
}

function find(positions: PositionNode[], id: string | null | undefined): Chosen | undefined {
  for (const position of positions) {
    const setup = position.setups.find((node) => node.setup.id === id);
    if (setup) return { position, setup };
  }
  return undefined;
}

/** The setup being worked on: the address says which, else the one worked on last, else the first. */
export function useChosenSetup(): Chosen | undefined {
  const view = useSite(useSiteId()).data;
  const { setup } = useSearch({ from: "/sites/$siteId" });
  const positions = inUse(view);
  const first = positions.find((position) => position.setups.length > 0);
  return (
    find(positions, setup) ??
    find(positions, view?.settings.active_setup_id) ??
    (first?.setups[0] && { position: first, setup: first.setups[0] })
  );
}

/** Settings as they were seen, with the version of each section. */
export type SeenSettings = Pick<SiteView, "settings" | "settings_versions"> & { site: { id: string } };

/** What a form of a site's settings is begun with: no more of the view than it changes. */
export function useStoredSettings(view: SiteView): SeenSite {
  const { site, settings, settings_versions } = view;
  return useMemo(() => ({ site, settings, settings_versions }), [site, settings, settings_versions]);
}
export type SeenSite = Pick<SiteView, "site" | "settings" | "settings_versions">;

/**
 * Stores sections of the settings that differ from what was seen, and answers all as they are then. What was changed
 * meanwhile on another screen is refused with the newer values; nothing is overwritten.
 */
export async function saveSettings<S extends SeenSettings>(
  seen: S,
  change: Partial<SiteSettings>,
): Promise<S> {
  const id = seen.site.id;
  const before = seen.settings as Record<string, unknown>;
  const sections = Object.fromEntries(
    Object.entries(change)
      .filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(before[name]))
      .map(([name, value]) => [name, { seen: seen.settings_versions[name] ?? 0, value: value as never }]),
  );
  if (Object.keys(sections).length === 0) return seen;
  try {
    const stored = await answered(
      api.PATCH("/api/sites/{id}/settings", { params: { path: { id } }, body: { sections } }),
    );
    return { ...seen, settings: stored.settings, settings_versions: stored.versions };
  } catch (error) {
    throw error instanceof ApiError && error.problem.newer ? withNewer(error, seen) : error;
  } finally {
    await queryClient.invalidateQueries({ queryKey: keys.site(id) });
  }
}

/** The refusal, with all settings as they are now. */
function withNewer(error: ApiError, seen: SeenSettings): ApiError {
  const sections = error.problem.newer as Record<string, { version: number; value: unknown }>;
  const of = <T>(pick: (section: { version: number; value: unknown }) => T) =>
    Object.fromEntries(Object.entries(sections).map(([name, section]) => [name, pick(section)]));
  const settings = { ...seen.settings, ...of(({ value }) => value) };
  const settings_versions = { ...seen.settings_versions, ...of(({ version }) => version) };
  return new ApiError({ ...error.problem, newer: { ...seen, settings, settings_versions } as never });
}

/** A press that stores settings at once. */
export function useSaveSettings(seen: SeenSettings | undefined): (change: Partial<SiteSettings>) => void {
  return useAction(seen?.site.id, async (change: Partial<SiteSettings>) => {
    if (seen) await saveSettings(seen, change);
  }).run;
}

/** Chooses the setup to work on: in the address at once, at the server so that it is found again. */
export function useChooseSetup(): (setupId: string) => void {
  const siteId = useSiteId();
  const view = useSite(siteId).data;
  const navigate = useNavigate();
  return useCallback(
    (setupId: string) => {
      void navigate({ to: ".", search: (before) => ({ ...before, setup: setupId, carrier: undefined }) });
      if (view && view.settings.active_setup_id !== setupId) {
        saveSettings(view, { active_setup_id: setupId }).catch(() => {
          // The address holds the choice; the event stream says that the server is gone.
        });
      }
    },
    [navigate, view],
  );
}
