import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../../api/client";
import { catalogueChanged, useSite } from "../../../api/queries";
import type { CatalogueEntry, CatalogueFile, PartKind } from "../../../api/schema";
import { useSiteId } from "../../../shell/useSiteContext";
import { Button, buttonClass } from "../../../ui/Button";
import { signed } from "../../../ui/format";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { useAction } from "../../../ui/useAction";
import { Section, StageHeader } from "../../StageHeader";
import { useCatalogue } from "../queries";
import { PART_KINDS } from "../words";
import { PartForm } from "./PartForm";

const KINDS = Object.keys(PART_KINDS) as PartKind[];

/** All parts: what comes with the program, and the user's own models, prices and stock. */
export function CataloguePage() {
  const siteId = useSiteId();
  const currency = useSite(siteId).data?.settings.kit?.currency ?? "EUR";
  const catalogue = useCatalogue();
  const [open, setOpen] = useState<CatalogueEntry>();
  const actions = useCatalogueActions();
  if (catalogue.isError) {
    return (
      <p role="alert" className="font-semibold text-starved">
        {catalogue.error.message}
      </p>
    );
  }
  if (!catalogue.data) return null;
  const entries = catalogue.data;
  const own = entries.filter((entry) => entry.own).length;
  const copy = (entry: CatalogueEntry) =>
    setOpen({
      part: { ...entry.part, id: newId(), name: `${entry.part.name}, own` },
      own: true,
      built_in: false,
      lists: entry.lists,
    });
  return (
    <>
      <StageHeader
        title={
          own === 0
            ? "The catalogue as it came."
            : `The catalogue, ${own} part${own === 1 ? "" : "s"} of your own.`
        }
        detail="Invented models and public cable classes to plan with. Put in the models you can buy, with your prices and your stock: suggestions go by them."
      />
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <a href="/api/catalogue/export.json" download="catalogue.json" className={buttonClass("outlined")}>
          Export all
        </a>
        {own > 0 && (
          <a
            href="/api/catalogue/export.json?own=true"
            download="own-parts.json"
            className={buttonClass("outlined")}
          >
            Export your own
          </a>
        )}
        <ImportCatalogue />
        <Link to="/sites/$siteId/kit" params={{ siteId }} className="font-semibold text-action underline">
          Back to the kits
        </Link>
      </div>
      {KINDS.map((kind) => (
        <Kind
          key={kind}
          kind={kind}
          currency={currency}
          entries={entries.filter((entry) => entry.part.spec.kind === kind)}
          onOpen={setOpen}
          onCopy={copy}
          onAway={(entry, away) => (away ? actions.archive(entry) : actions.restore(entry))}
          onReset={actions.reset}
        />
      ))}
      {open && (
        <Sheet
          open
          onOpenChange={(stays) => !stays && setOpen(undefined)}
          title={open.part.name}
          description={PART_KINDS[open.part.spec.kind].one}
        >
          <PartForm key={open.part.id} entry={open} onDone={() => setOpen(undefined)} />
        </Sheet>
      )}
    </>
  );
}

function Kind({
  kind,
  currency,
  entries,
  onOpen,
  onCopy,
  onAway,
  onReset,
}: {
  kind: PartKind;
  currency: string;
  entries: CatalogueEntry[];
  onOpen: (entry: CatalogueEntry) => void;
  onCopy: (entry: CatalogueEntry) => void;
  onAway: (entry: CatalogueEntry, away: boolean) => void;
  onReset: (entry: CatalogueEntry) => void;
}) {
  const [archived, setArchived] = useState(false);
  const away = entries.filter((entry) => entry.part.archived_at);
  const shown = archived ? entries : entries.filter((entry) => !entry.part.archived_at);
  return (
    <Section
      title={PART_KINDS[kind].many}
      aside={
        away.length > 0 && (
          <Button look="plain" aria-expanded={archived} onClick={() => setArchived(!archived)}>
            {archived ? "Hide archived" : `${away.length} archived`}
          </Button>
        )
      }
    >
      <ul>
        {shown.map((entry) => (
          <li
            key={entry.part.id}
            className="flex flex-wrap items-center gap-x-4 border-b border-rule py-1 last:border-b-0"
          >
            <span className={`min-w-60 flex-1 ${entry.part.archived_at ? "text-muted line-through" : ""}`}>
              {entry.part.name}
              {entry.own && (
                <span className="text-sm text-muted"> {entry.built_in ? "(changed)" : "(own)"}</span>
              )}
            </span>
            <span className="w-28 text-right">
              {entry.part.price == null ? "no price" : signed(entry.part.price, 2)}{" "}
              <span className="text-sm text-muted">{entry.part.price != null && currency}</span>
            </span>
            <span className="flex gap-3">
              <Button look="plain" aria-label={`Change ${entry.part.name}`} onClick={() => onOpen(entry)}>
                Change
              </Button>
              <Button look="plain" aria-label={`Copy ${entry.part.name}`} onClick={() => onCopy(entry)}>
                Copy
              </Button>
              {entry.own && entry.built_in && (
                <Button look="plain" aria-label={`Reset ${entry.part.name}`} onClick={() => onReset(entry)}>
                  Reset
                </Button>
              )}
              {entry.part.archived_at ? (
                <Button
                  look="plain"
                  aria-label={`Bring back ${entry.part.name}`}
                  onClick={() => onAway(entry, false)}
                >
                  Bring back
                </Button>
              ) : (
                <Button
                  look="plain"
                  aria-label={`Archive ${entry.part.name}`}
                  onClick={() => onAway(entry, true)}
                >
                  Archive
                </Button>
              )}
            </span>
          </li>
        ))}
      </ul>
    </Section>
  );
}

function useCatalogueActions() {
  const notice = useNotice();
  const path = (entry: CatalogueEntry) => ({ params: { path: { id: entry.part.id } } });
  const done = <T,>(answer: T) => {
    catalogueChanged();
    return answer;
  };
  const restore = useAction(undefined, (entry: CatalogueEntry) =>
    answered(api.POST("/api/catalogue/{id}/restore", path(entry))).then(done),
  );
  const archive = useAction(undefined, async (entry: CatalogueEntry) => {
    await answered(api.POST("/api/catalogue/{id}/archive", path(entry))).then(done);
    notice(`${entry.part.name} is archived. Kits that use it are unchanged.`, () => restore.run(entry));
  });
  const putBack = useAction(undefined, (entry: CatalogueEntry) =>
    answered(api.PUT("/api/catalogue/{id}", { ...path(entry), body: entry.part })).then(done),
  );
  const reset = useAction(undefined, async (entry: CatalogueEntry) => {
    await answered(api.DELETE("/api/catalogue/{id}", path(entry))).then(done);
    notice(`${entry.part.name} is as it came.`, () => putBack.run(entry));
  });
  return { restore: restore.run, archive: archive.run, reset: reset.run };
}

/** A catalogue file: what it would do is said first. */
function ImportCatalogue() {
  const notice = useNotice();
  const send = async (content: CatalogueFile, preview: boolean) =>
    answered(api.POST("/api/catalogue/import", { params: { query: { preview } }, body: content }));
  const look = useAction(
    undefined,
    async (chosen: File) => {
      take.reset();
      const content = readJson(await chosen.text());
      return { content, report: await send(content, true) };
    },
    { beside: true },
  );
  const take = useAction(
    undefined,
    async (content: CatalogueFile) => {
      const done = await send(content, false);
      notice(`${done.new} new parts, ${done.changed} changed.`);
      look.reset();
      catalogueChanged();
    },
    { beside: true },
  );
  const found = look.answer;
  const problem = look.problem ?? take.problem;
  return (
    <>
      <label
        className={buttonClass("outlined", "cursor-pointer focus-within:outline-3 focus-within:outline-lamp")}
      >
        Import
        <input
          type="file"
          accept=".json,application/json"
          className="sr-only"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) look.run(chosen);
            event.target.value = "";
          }}
        />
      </label>
      {found && (
        <p className="flex basis-full flex-wrap items-center gap-3">
          This file has {found.report.new} new parts, changes {found.report.changed} and repeats{" "}
          {found.report.same}.
          <Button look="filled" onClick={() => take.run(found.content)}>
            Take it
          </Button>
          <Button onClick={look.reset}>Cancel</Button>
        </p>
      )}
      {problem && (
        <p role="alert" className="basis-full font-semibold text-starved">
          {problem}
        </p>
      )}
    </>
  );
}

function readJson(text: string): CatalogueFile {
  try {
    return JSON.parse(text) as CatalogueFile;
  } catch {
    throw new Error("This is not a JSON file. A catalogue is what “Export” here gives.");
  }
}
