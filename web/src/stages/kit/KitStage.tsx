import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { KitBody, KitsView, KitView } from "../../api/schema";
import { useSiteId } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { signed, withUnit } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { Section, StageHeader } from "../StageHeader";
import { Compare } from "./Compare";
import { emptyKit } from "./draft";
import { Editor } from "./Editor";
import { Household } from "./Household";
import { useCatalogue, useKits } from "./queries";
import { Suggest } from "./Suggest";

/** Gateway, antenna, feed line and mount that work together at this site. */
export function KitStage() {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const kits = useKits(siteId);
  const catalogue = useCatalogue();
  const { kit: wanted } = useSearch({ from: "/sites/$siteId" });
  const [archive, setArchive] = useState(false);
  const actions = useKitActions(siteId);
  if (kits.isError || catalogue.isError) {
    return (
      <p role="alert" className="font-semibold text-starved">
        {(kits.error ?? catalogue.error)?.message}
      </p>
    );
  }
  if (!site || !kits.data || !catalogue.data) return null;
  const view = kits.data;
  const inUse = view.kits.filter((one) => !one.kit.archived_at);
  const away = view.kits.filter((one) => one.kit.archived_at);
  const chosen = inUse.find((one) => one.kit.id === wanted) ?? inUse[0];
  return (
    <>
      <StageHeader
        title={
          chosen
            ? `${chosen.kit.name}. ${chosen.judged.title}`
            : "Put a kit together, or let one be suggested."
        }
        detail={chosen ? toFix(chosen) : firstWords(view)}
      />
      <div className="mt-4 flex flex-wrap items-center gap-3">
        <a href="#suggest" className={buttonClass(inUse.length === 0 ? "filled" : "outlined")}>
          Suggest a kit
        </a>
        <Button onClick={() => void actions.add("New kit", emptyKit)}>Compose a new one</Button>
        {chosen && (
          <Link
            to="/sites/$siteId/job-card/$kitId"
            params={{ siteId, kitId: chosen.kit.id }}
            className={buttonClass("outlined")}
          >
            Job card
          </Link>
        )}
        <Link
          to="/sites/$siteId/catalogue"
          params={{ siteId }}
          className="font-semibold text-action underline underline-offset-4"
        >
          Catalogue and prices
        </Link>
      </div>
      {inUse.length > 0 && (
        <KitTabs kits={inUse} chosen={chosen?.kit.id} currency={view.settings.currency ?? "EUR"} />
      )}
      {chosen && (
        <Editor
          key={chosen.kit.id}
          site={site}
          view={chosen}
          kits={view}
          catalogue={catalogue.data}
          onDuplicate={(body) => void actions.add(`${body.name}, copy`, body)}
          onArchive={() => void actions.archive(chosen)}
        />
      )}
      {inUse.length > 1 && <Compare kits={inUse} currency={view.settings.currency ?? "EUR"} />}
      <Suggest site={site} kits={view} onKeep={(name, body) => void actions.add(name, body)} />
      <Household site={site} kits={view} />
      {away.length > 0 && (
        <Section title="Archived kits">
          <Button look="plain" onClick={() => setArchive(!archive)} aria-expanded={archive}>
            {archive ? "Hide them" : `Show ${away.length}`}
          </Button>
          {archive && (
            <ul className="mt-2 flex flex-col gap-1">
              {away.map((one) => (
                <li key={one.kit.id} className="flex items-baseline gap-4">
                  {one.kit.name}
                  <Button look="plain" onClick={() => actions.bringBack(one.kit.id)}>
                    Bring it back
                  </Button>
                </li>
              ))}
            </ul>
          )}
        </Section>
      )}
    </>
  );
}

function toFix({ judged }: KitView): string | undefined {
  const wrong = judged.said.filter((one) => one.severity === "wrong").length;
  if (wrong === 0) return undefined;
  return wrong === 1
    ? "One thing must be fixed before it works."
    : `${wrong} things must be fixed before it works.`;
}

function firstWords(view: KitsView): string {
  return view.bands.length > 0
    ? `The Baseline hears ${view.bands.map((band) => band.name).join(", ")} here; a kit is judged by what it does to them.`
    : "Read the gateway at the Baseline first, or say below which bands are on offer and how far the mast is: a kit is judged by what it does to them.";
}

function useKitActions(siteId: string) {
  const notice = useNotice();
  const navigate = useNavigate();
  const add = useAction(siteId, async (name: string, { spec, notes }: KitBody) => {
    const id = newId();
    await answered(
      api.POST("/api/sites/{id}/kits", {
        params: { path: { id: siteId } },
        body: { id, name: name.slice(0, 120), spec, notes: notes ?? "" },
      }),
    );
    refresh(siteId);
    await navigate({ to: ".", search: (before) => ({ ...before, kit: id }) });
    window.scrollTo({ top: 0 });
  });
  const bringBack = useAction(siteId, (id: string) =>
    answered(api.POST("/api/kits/{id}/restore", { params: { path: { id } } })),
  );
  const archive = useAction(siteId, async ({ kit: { id, name } }: KitView) => {
    await answered(api.POST("/api/kits/{id}/archive", { params: { path: { id } } }));
    notice(`${name} is archived. Nothing is lost.`, () => bringBack.run(id));
  });
  return { add: add.run, archive: archive.run, bringBack: bringBack.run };
}

/** The kits side by side by name, price and what must be fixed. */
function KitTabs({
  kits,
  chosen,
  currency,
}: {
  kits: KitView[];
  chosen: string | undefined;
  currency: string;
}) {
  return (
    <nav aria-label="Kits" className="mt-5 flex flex-wrap gap-x-5 gap-y-1 border-b border-rule">
      {kits.map(({ kit, judged }) => {
        const wrong = judged.said.filter((one) => one.severity === "wrong").length;
        return (
          <Link
            key={kit.id}
            to="."
            search={(before) => ({ ...before, kit: kit.id })}
            aria-current={kit.id === chosen ? "page" : undefined}
            className="-mb-px flex min-h-11 flex-col justify-end border-b-4 border-transparent pb-1 leading-tight aria-[current=page]:border-lamp"
          >
            <span className={kit.id === chosen ? "font-bold" : "font-semibold text-action"}>{kit.name}</span>
            <span className="text-sm text-muted">
              {withUnit(signed(judged.assessment.effort.price, 0), currency)}
              {wrong > 0 && `, ${wrong} to fix`}
            </span>
          </Link>
        );
      })}
    </nav>
  );
}
