import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys } from "../../api/queries";
import type { CatalogueEntry, KitSpec, PartKind } from "../../api/schema";

/** Kits of a site, judged. */
export const useKits = (siteId: string) =>
  useQuery({
    queryKey: keys.kits(siteId),
    queryFn: () => answered(api.GET("/api/sites/{id}/kits", { params: { path: { id: siteId } } })),
  });

/** All parts, archived ones too. */
export const useCatalogue = () =>
  useQuery({ queryKey: keys.catalogue, queryFn: () => answered(api.GET("/api/catalogue")) });

/** A kit as it stands in the form, judged at every change. */
export const useTried = (siteId: string, spec: KitSpec) =>
  useQuery({
    queryKey: keys.tried(siteId, spec),
    placeholderData: (before) => before,
    queryFn: () =>
      answered(api.POST("/api/sites/{id}/kits/try", { params: { path: { id: siteId } }, body: spec })),
  });

/** Parts of a kind that can be chosen; one that is chosen already stays in the list though it is archived. */
export function choicesOf(
  entries: CatalogueEntry[],
  kinds: PartKind[],
  chosen: string | null | undefined,
): CatalogueEntry[] {
  return entries.filter(
    ({ part }) => kinds.includes(part.spec.kind) && (!part.archived_at || part.id === chosen),
  );
}
