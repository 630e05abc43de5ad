import { useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useCallback } from "react";
import { answered, api } from "../api/client";
import { keys, queryClient, useSite } from "../api/queries";
import type { PositionNode, SetupNode, SiteSettings, SiteView } from "../api/schema";

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

/** Stores changed settings. */
export async function saveSettings(view: SiteView, change: Partial<SiteSettings>): Promise<void> {
  const id = view.site.id;
  const body = { ...view.settings, ...change };
  await answered(api.PUT("/api/sites/{id}/settings", { params: { path: { id } }, body }));
  await queryClient.invalidateQueries({ queryKey: keys.site(id) });
}

/** Chooses the setup to work on: in the address at once, at the server so that it is found again. */
export function useChooseSetup(): (setupId: string) => void {
  const siteId = useSiteId();
  const view = useSite(siteId).data;
  const navigate = useNavigate();
  return useCallback(
    (setupId: string) => {
      void navigate({ to: ".", search: (before) => ({ ...before, setup: setupId }) });
      if (view && view.settings.active_setup_id !== setupId) {
        saveSettings(view, { active_setup_id: setupId }).catch(() => {
          // The address holds the choice; the event stream says that the server is gone.
        });
      }
    },
    [navigate, view],
  );
}
