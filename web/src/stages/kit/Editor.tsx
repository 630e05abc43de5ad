import { useState } from "react";
import { ApiError, answered, api } from "../../api/client";
import { keys, queryClient, refresh } from "../../api/queries";
import type {
  CatalogueEntry,
  JudgedKit,
  KitBody,
  KitSpec,
  KitsView,
  KitView,
  SiteView,
} from "../../api/schema";
import { Button } from "../../ui/Button";
import { TextArea, TextField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { Section } from "../StageHeader";
import { ChainEditor } from "./ChainEditor";
import { Cost } from "./Cost";
import { bodyOf } from "./draft";
import { KitOutlook } from "./KitOutlook";
import { Placing } from "./Placing";
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
  const [draft, change, clear, dirty] = useDraft(`kit:${view.kit.id}`, bodyOf(view.kit));
  const [problem, setProblem] = useState<ApiError>();
  const notice = useNotice();
  const siteId = site.site.id;
  const tried = useTried(siteId, draft.spec);
  const judged: JudgedKit = tried.data ?? view.judged;
  const set = (part: Partial<KitSpec>) => change((now) => ({ ...now, spec: { ...now.spec, ...part } }));
  const save = async () => {
    try {
      await answered(
        api.PUT("/api/kits/{id}", {
          params: { path: { id: view.kit.id } },
          body: { ...draft, notes: draft.notes ?? "" },
        }),
      );
      // The form goes back to what is stored: that has to be here before the draft goes.
      await queryClient.refetchQueries({ queryKey: keys.kits(siteId) });
      clear();
      setProblem(undefined);
      refresh(siteId);
      notice("The kit is saved.");
    } catch (error) {
      if (error instanceof ApiError) setProblem(error);
    }
  };
  const asking = tried.error instanceof ApiError ? tried.error : undefined;
  const field = (pointer: string) =>
    problem?.field(`/spec${pointer}`) ?? asking?.field(`/spec${pointer}`) ?? problem?.field(pointer);
  const editing = { site, kits, catalogue, spec: draft.spec, judged, set, field };
  return (
    <>
      {dirty ? (
        <div className="sticky -top-6 z-10 -mx-6 flex flex-wrap items-center gap-x-4 gap-y-2 border-b border-rule bg-ground px-6 py-2">
          <p className="min-w-0 flex-1 font-semibold" aria-live="polite">
            {judged.title}
          </p>
          <Button look="filled" onClick={() => void save()}>
            Save the kit
          </Button>
          <Button onClick={clear}>Back to what was saved</Button>
        </div>
      ) : (
        <p className="mt-3 text-muted">Every change is judged at once, and kept when you save it.</p>
      )}
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-starved">
          {problem.problem.errors[0]?.detail ?? problem.message}
        </p>
      )}
      <ChainEditor editing={editing} />
      <Placing editing={editing} />
      <Section title="What it does here">
        <KitOutlook judged={judged} baseSpot={kits.base_spot ?? undefined} />
      </Section>
      <Said judged={judged} />
      <Ports editing={editing} kit={view.kit} saved={!dirty} />
      <Cost judged={judged} currency={kits.settings.currency ?? "EUR"} />
      <Section title="Name, dates and notes">
        <div className="grid items-start gap-4 sm:grid-cols-3">
          <TextField
            label="Name"
            value={draft.name}
            onChange={(name) => change((now) => ({ ...now, name }))}
            error={problem?.field("/name")}
          />
          <TextField
            label="Bought on"
            type="date"
            value={draft.bought_on ?? ""}
            onChange={(day) => change((now) => ({ ...now, bought_on: day === "" ? null : day }))}
          />
          <TextField
            label="Can be given back until"
            type="date"
            hint={returnHint(view.return_in_days)}
            value={draft.return_by ?? ""}
            onChange={(day) => change((now) => ({ ...now, return_by: day === "" ? null : day }))}
          />
        </div>
        <div className="mt-4">
          <TextArea
            label="Notes"
            value={draft.notes ?? ""}
            onChange={(notes) => change((now) => ({ ...now, notes }))}
            error={problem?.field("/notes")}
          />
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
