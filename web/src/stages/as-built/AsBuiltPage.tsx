import { Link, useNavigate, useParams, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { AsBuiltDetails, AsBuiltView, SheetsView } from "../../api/schema";
import { Button, buttonClass } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { moment } from "../../ui/format";
import { useAction } from "../../ui/useAction";
import { AsBuiltSheet } from "./AsBuiltSheet";
import { DetailsForm } from "./DetailsForm";
import { fileOf, PRIVATE, type Private, sharedOf, useAsBuilt, useSheets } from "./queries";

/** What was built, on one page to print, and as a file from which it can be built again. */
export function AsBuiltPage() {
  const { siteId } = useParams({ from: "/sites/$siteId/as-built" });
  const search = useSearch({ from: "/sites/$siteId/as-built" });
  const navigate = useNavigate();
  const site = useSite(siteId).data;
  const sheets = useSheets(siteId);
  const shared = sharedOf(search.share);
  const newest = sheets.data?.sheets.find((one) => !one.archived_at)?.id;
  const shown = search.sheet === "new" ? undefined : (search.sheet ?? newest);
  const found = useAsBuilt(siteId, shown, shared);
  const zone = site?.site.time_zone ?? "UTC";
  const put = (change: Partial<typeof search>) =>
    void navigate({ to: ".", search: (before) => ({ ...before, ...change }), replace: true });
  const failed = sheets.error ?? found.error;

  return (
    <main className="mx-auto max-w-4xl px-4 py-6 sm:px-6 print:max-w-none print:p-0 print:text-[10.5pt]">
      <p className="flex flex-wrap items-center gap-x-4 gap-y-2 print:hidden">
        <Link to="/sites/$siteId/verdict" params={{ siteId }} className="font-semibold text-action underline">
          Back to the verdict
        </Link>
        {shown && found.data && (
          <>
            <Button look="filled" onClick={() => window.print()}>
              Print
            </Button>
            <Button onClick={() => put({ sheet: "new" })}>Draw up a new sheet</Button>
          </>
        )}
      </p>
      {failed && (
        <p role="alert" className="mt-4 font-semibold text-starved">
          {failed.message}
        </p>
      )}
      {sheets.data && !shown && (
        <NewSheet
          siteId={siteId}
          view={sheets.data}
          onMade={(sheet) => put({ sheet })}
          onCancel={newest ? () => put({ sheet: undefined }) : undefined}
        />
      )}
      {shown && found.data && (
        <>
          <Sharing
            view={found.data}
            shared={shared}
            onChange={(next) => put({ share: next.join(",") || undefined })}
          />
          <Details siteId={siteId} view={found.data} />
          <AsBuiltSheet view={found.data} zone={zone} shared={shared} />
          <Others siteId={siteId} sheets={sheets.data} shown={shown} zone={zone} />
        </>
      )}
    </main>
  );
}

function NewSheet({
  siteId,
  view,
  onMade,
  onCancel,
}: {
  siteId: string;
  view: SheetsView;
  onMade: (sheet: string) => void;
  onCancel: (() => void) | undefined;
}) {
  const [setup, setSetup] = useState(view.proposed ?? view.choices[0]?.setup_id);
  if (setup === undefined)
    return (
      <>
        <h1 className="mt-4 text-2xl font-bold">There is no setup to draw up yet.</h1>
        <Link to="/sites/$siteId/log" params={{ siteId }} className={buttonClass("filled", "mt-4")}>
          Go to the log
        </Link>
      </>
    );
  const save = async (details: AsBuiltDetails) => {
    const body = { id: newId(), setup_id: setup, details };
    const made = await answered(
      api.POST("/api/sites/{id}/as-built", { params: { path: { id: siteId } }, body }),
    );
    refresh(siteId);
    onMade(made.id);
  };
  return (
    <>
      <h1 className="mt-4 text-2xl leading-tight font-bold">Draw up the as-built sheet</h1>
      <p className="mt-1 max-w-prose">
        A stranger can build it again from this sheet. Aim, kit, lock and expected readings are taken from the
        record. Write below what only you know; every field may stay empty.
      </p>
      <div className="mt-4 max-w-md">
        <ChoiceField
          label="What was built"
          value={setup}
          choices={view.choices.map((one) => [one.setup_id, one.label] as const)}
          onChange={setSetup}
        />
      </div>
      <DetailsForm
        draft={`as-built:${siteId}`}
        details={view.details}
        submit="Draw up the sheet"
        save={save}
        onCancel={onCancel}
      />
    </>
  );
}

/** What is private, and whether it is on the page and in the file. */
function Sharing({
  view,
  shared,
  onChange,
}: {
  view: AsBuiltView;
  shared: Private[];
  onChange: (next: Private[]) => void;
}) {
  const toggle = (name: Private) =>
    onChange(
      PRIVATE.map(([one]) => one).filter((one) =>
        one === name ? !shared.includes(one) : shared.includes(one),
      ),
    );
  return (
    <fieldset className="mt-4 rounded-xl border border-rule p-4 print:hidden">
      <legend className="px-1 font-bold">Private: left out unless you tick it</legend>
      <ul className="flex flex-wrap gap-x-6">
        {PRIVATE.map(([name, label]) => (
          <li key={name}>
            <label className="flex min-h-11 items-center gap-2">
              <input
                type="checkbox"
                className="size-5 shrink-0 accent-(--action)"
                checked={shared.includes(name)}
                onChange={() => toggle(name)}
              />
              {label}
            </label>
          </li>
        ))}
      </ul>
      <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
        <a className={buttonClass("outlined")} href={fileOf(view.sheet.id, shared)} download>
          Download data file
        </a>
        <span className="text-sm text-muted">
          Holds what this page shows. Import it into another Open Beacon to build from it.
        </span>
      </p>
    </fieldset>
  );
}

function Details({ siteId, view }: { siteId: string; view: AsBuiltView }) {
  const [open, setOpen] = useState(false);
  const id = view.sheet.id;
  const save = async (details: AsBuiltDetails, seen: AsBuiltDetails | undefined) => {
    await answered(api.PUT("/api/as-built/{id}", { params: { path: { id } }, body: { ...details, seen } }));
    refresh(siteId);
    setOpen(false);
  };
  if (!open)
    return (
      <p className="mt-3 flex flex-wrap items-center gap-x-4 gap-y-2 print:hidden">
        <Button onClick={() => setOpen(true)}>Edit what you wrote</Button>
        {view.not_written.length > 0 && (
          <span className="text-muted">Still missing: {view.not_written.join(", ")}.</span>
        )}
      </p>
    );
  return (
    <div className="print:hidden">
      <DetailsForm
        draft={`as-built-details:${id}`}
        details={view.details}
        submit="Save"
        save={save}
        onCancel={() => setOpen(false)}
      />
    </div>
  );
}

/** Earlier sheets, and putting this one away. */
function Others({
  siteId,
  sheets,
  shown,
  zone,
}: {
  siteId: string;
  sheets: SheetsView | undefined;
  shown: string;
  zone: string;
}) {
  const own = sheets?.sheets.find((one) => one.id === shown);
  const others = sheets?.sheets.filter((one) => one.id !== shown) ?? [];
  const put = useAction(siteId, async (archive: boolean) => {
    const path = { params: { path: { id: shown } } };
    await answered(
      archive ? api.POST("/api/as-built/{id}/archive", path) : api.POST("/api/as-built/{id}/restore", path),
    );
  });
  return (
    <section className="mt-8 border-t border-rule pt-4 print:hidden" aria-label="Other sheets">
      {others.length > 0 && (
        <>
          <h2 className="text-lg font-bold">Other sheets</h2>
          <ul className="mt-1">
            {others.map((one) => (
              <li key={one.id}>
                <Link
                  to="/sites/$siteId/as-built"
                  params={{ siteId }}
                  search={(before) => ({ ...before, sheet: one.id })}
                  className="inline-flex min-h-11 items-center font-semibold text-action underline"
                >
                  {one.label}, {moment(one.drawn_up_at, zone)}
                </Link>
                {one.archived_at && " (archived)"}
              </li>
            ))}
          </ul>
        </>
      )}
      {own && (
        <Button onClick={() => put.run(!own.archived_at)}>
          {own.archived_at ? "Restore this sheet" : "Archive this sheet"}
        </Button>
      )}
    </section>
  );
}
