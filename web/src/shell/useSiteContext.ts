import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useCallback, useEffect, useRef } from "react";
import { answered, api } from "../api/client";
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

/**
 * Stores sections of the settings that differ from what was seen. What was changed meanwhile on another screen is refused and
 * fetched anew; nothing is overwritten.
 */
export async function saveSettings(seen: SeenSettings, change: Partial<SiteSettings>): Promise<void> {
  const id = seen.site.id;
  const before = seen.settings as Record<string, unknown>;
  const sections = Object.fromEntries(
    Object.entries(change)
      .filter(([name, value]) => JSON.stringify(value) !== JSON.stringify(before[name]))
      .map(([name, value]) => [name, { seen: seen.settings_versions[name] ?? 0, value: value as never }]),
  );
  if (Object.keys(sections).length === 0) return;
  try {
    await answered(api.PATCH("/api/sites/{id}/settings", { params: { path: { id } }, body: { sections } }));
  } finally {
    await queryClient.invalidateQueries({ queryKey: keys.site(id) });
  }
}

/** A press that stores settings at once. */
export function useSaveSettings(seen: SeenSettings | undefined): (change: Partial<SiteSettings>) => void {
  return useAction(seen?.site.id, async (change: Partial<SiteSettings>) => {
    if (seen) await saveSettings(seen, change);
  }).run;
}

/**
 * The settings a form was begun with: as they are now until something is typed, then as they were then, through a reload too,
 * like the draft itself.
 */
export function useSeenSettings(view: SiteView, form: string, dirty: boolean): SeenSettings {
  const place = `seen:${form}:${view.site.id}`;
  const seen = useRef<SeenSettings>(view);
  useEffect(() => {
    try {
      if (!dirty) localStorage.removeItem(place);
      else if (localStorage.getItem(place) === null)
        localStorage.setItem(place, JSON.stringify({ ...seen.current, positions: undefined }));
    } catch {
      // Without storage it lives as long as the page.
    }
  }, [dirty, place]);
  if (!dirty) seen.current = view;
  return (dirty && stored(place)) || seen.current;
}

function stored(place: string): SeenSettings | undefined {
  try {
    const text = localStorage.getItem(place);
    return text === null ? undefined : (JSON.parse(text) as SeenSettings);
  } catch {
    return undefined;
  }
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
