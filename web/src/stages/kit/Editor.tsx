import { ApiError, answered, api } from "../../api/client";
import { refresh } from "../../api/queries";
import type {
  CatalogueEntry,
  JudgedKit,
  Kit,
  KitBody,
  KitSpec,
  KitsView,
  KitView,
  SiteView,
} from "../../api/schema";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { AreaInput, FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { useNotice } from "../../ui/notices";
import { Section } from "../StageHeader";
import { ChainEditor } from "./ChainEditor";
import { Cost } from "./Cost";
import { bodyOf } from "./draft";
import { KitOutlook } from "./KitOutlook";
import { Mounting } from "./Mounting";
import { Ports } from "./Ports";
import { useTried } from "./queries";
import { Said } from "./Said";

/** One kit: its parts, what it does here, what is wrong with it, what it costs. Judged at every change. */
export function Editor({
  site,
  view,
  kits,
  catalogue,
  onDuplicate,
  onArchive,
}: {
  site: SiteView;
  view: KitView;
  kits: KitsView;
  catalogue: CatalogueEntry[];
  onDuplicate: (body: KitBody) => void;
  onArchive: () => void;
}) {
  const notice = useNotice();
  const siteId = site.site.id;
  const save = async (draft: KitBody, seen: Kit | undefined) => {
    const body = { ...draft, notes: draft.notes ?? "", seen };
    const saved = await answered(api.PUT("/api/kits/{id}", { params: { path: { id: view.kit.id } }, body }));
    refresh(siteId);
    notice("The kit is saved.");
    return saved;
  };
  const form = useDraftForm<KitBody, Kit>({
    draft: `kit:${view.kit.id}`,
    initial: bodyOf(view.kit),
    save,
    stored: view.kit,
    draftOf: bodyOf,
  });
  const { values: draft, dirty } = form;
  const tried = useTried(siteId, draft.spec);
  const judged: JudgedKit = tried.data ?? view.judged;
  const set = (part: Partial<KitSpec>) => form.set((now) => ({ spec: { ...now.spec, ...part } }));
  const asking = tried.error instanceof ApiError ? tried.error : undefined;
  const field = (pointer: string) =>
    form.refused?.field(`/spec${pointer}`) ??
    asking?.field(`/spec${pointer}`) ??
    form.refused?.field(pointer);
  const editing = { site, kits, catalogue, spec: draft.spec, judged, set, field };
  return (
    <>
      {dirty ? (
        <div className="sticky -top-6 z-10 -mx-6 flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-ground px-6 py-2">
          <p className="min-w-0 flex-1 font-semibold" aria-live="polite">
            {judged.title}
          </p>
          <Button look="filled" onClick={() => form.submit()}>
            Save the kit
          </Button>
          <Button onClick={form.discard}>Back to what was saved</Button>
        </div>
      ) : (
        <p className="mt-3 text-muted">Every change is judged at once, and kept when you save it.</p>
      )}
      <FormProblem of={form} />
      <ChainEditor editing={editing} />
      <Mounting editing={editing} />
      <Section title="What it does here">
        <KitOutlook judged={judged} baseSpot={kits.base_spot ?? undefined} />
      </Section>
      <Said judged={judged} />
      <Ports editing={editing} kit={view.kit} saved={!dirty} />
      <Cost judged={judged} currency={kits.settings.currency ?? "EUR"} />
      <Section title="Name, dates and notes">
        <div className="grid items-start gap-4 sm:grid-cols-3">
          <TextInput of={form} name="name" at="/name" label="Name" />
          <TextField
            label="Bought on"
            type="date"
            value={draft.bought_on ?? ""}
            onChange={(day) => form.set({ bought_on: day === "" ? null : day })}
          />
          <TextField
            label="Can be given back until"
            type="date"
            hint={returnHint(view.return_in_days)}
            value={draft.return_by ?? ""}
            onChange={(day) => form.set({ return_by: day === "" ? null : day })}
          />
        </div>
        <div className="mt-4">
          <AreaInput of={form} name="notes" at="/notes" label="Notes" />
        </div>
        <div className="mt-3 flex flex-wrap gap-5">
          <Button look="plain" onClick={() => onDuplicate(draft)}>
            Duplicate this kit
          </Button>
          <Button look="plain" onClick={onArchive}>
            Archive this kit
          </Button>
        </div>
      </Section>
    </>
  );
}

function returnHint(days: number | null | undefined): string {
  if (days == null) return "Tests are planned to end before.";
  if (days < 0) return `That was ${-days === 1 ? "yesterday" : `${-days} days ago`}.`;
  if (days === 0) return "That is today.";
  return days === 1 ? "That is tomorrow." : `${days} days from now: end the tests before.`;
}
