import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { ApiError, answered, api, newId } from "../../../api/client";
import { useSite } from "../../../api/queries";
import type { CatalogueEntry, CatalogueFile, CatalogueReport, PartKind } from "../../../api/schema";
import { useSiteId } from "../../../shell/useSiteContext";
import { Button, buttonClass } from "../../../ui/Button";
import { signed } from "../../../ui/format";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { Section, StageHeader } from "../../StageHeader";
import { catalogueChanged, useCatalogue } from "../queries";
import { PART_KINDS } from "../words";
import { PartForm } from "./PartForm";

const KINDS = Object.keys(PART_KINDS) as PartKind[];

/** All parts: what comes with the program, and the user's own models, prices and stock. */
export function CataloguePage() {
  const siteId = useSiteId();
  const currency = useSite(siteId).data?.settings.kit?.currency ?? "EUR";
  const catalogue = useCatalogue();
  const [open, setOpen] = useState<CatalogueEntry>();
  const notice = useNotice();
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
  const failed = (error: unknown) => notice(error instanceof Error ? error.message : "It did not work.");
  const copy = (entry: CatalogueEntry) =>
    setOpen({
      part: { ...entry.part, id: newId(), name: `${entry.part.name}, own` },
      own: true,
      built_in: false,
    });
  const setAway = async (entry: CatalogueEntry, away: boolean) => {
    const path = { params: { path: { id: entry.part.id } } };
    await answered(
      away ? api.POST("/api/catalogue/{id}/archive", path) : api.POST("/api/catalogue/{id}/restore", path),
    );
    catalogueChanged();
    if (away)
      notice(
        `${entry.part.name} is archived. Kits that use it are unchanged.`,
        () => void setAway(entry, false).catch(failed),
      );
  };
  const reset = async (entry: CatalogueEntry) => {
    const before = entry.part;
    await answered(api.DELETE("/api/catalogue/{id}", { params: { path: { id: before.id } } }));
    catalogueChanged();
    notice(`${before.name} is as it came.`, () => {
      void answered(api.PUT("/api/catalogue/{id}", { params: { path: { id: before.id } }, body: before }))
        .then(catalogueChanged)
        .catch(failed);
    });
  };
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
          onAway={(entry, away) => void setAway(entry, away).catch(failed)}
          onReset={(entry) => void reset(entry).catch(failed)}
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

/** A catalogue file: what it would do is said first. */
function ImportCatalogue() {
  const [file, setFile] = useState<CatalogueFile>();
  const [report, setReport] = useState<CatalogueReport>();
  const [problem, setProblem] = useState<string>();
  const notice = useNotice();
  const send = async (content: CatalogueFile, preview: boolean) =>
    answered(api.POST("/api/catalogue/import", { params: { query: { preview } }, body: content }));
  const look = async (chosen: File) => {
    setReport(undefined);
    try {
      const content = JSON.parse(await chosen.text()) as CatalogueFile;
      setReport(await send(content, true));
      setFile(content);
      setProblem(undefined);
    } catch (error) {
      setProblem(
        error instanceof ApiError
          ? (error.problem.errors[0]?.detail ?? error.message)
          : "This is not a JSON file. A catalogue is what “Export” here gives.",
      );
    }
  };
  const take = async () => {
    if (!file) return;
    try {
      const done = await send(file, false);
      notice(`${done.new} new parts, ${done.changed} changed.`);
      setReport(undefined);
      setFile(undefined);
      catalogueChanged();
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It did not work.");
    }
  };
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
            if (chosen) void look(chosen);
            event.target.value = "";
          }}
        />
      </label>
      {report && (
        <p className="flex basis-full flex-wrap items-center gap-3">
          This file has {report.new} new parts, changes {report.changed} and repeats {report.same}.
          <Button look="filled" onClick={() => void take()}>
            Take it
          </Button>
          <Button onClick={() => setReport(undefined)}>Cancel</Button>
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
