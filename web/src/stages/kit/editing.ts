import type { CatalogueEntry, JudgedKit, KitSpec, KitsView, SiteView } from "../../api/schema";

/** What every part of the form needs. */
export interface Editing {
  site: SiteView;
  kits: KitsView;
  catalogue: CatalogueEntry[];
  spec: KitSpec;
  judged: JudgedKit;
  set: (part: Partial<KitSpec>) => void;
  field: (pointer: string) => string | undefined;
}
