import { Link } from "@tanstack/react-router";
import { useMemo, useState } from "react";
import type { ApiError } from "../../../api/client";
import { useSite } from "../../../api/queries";
import type {
  AskMethod,
  GatewayAnswer,
  GatewayRecipe,
  GatewaySettings,
  PageFormat,
  SiteView,
} from "../../../api/schema";
import { type SeenSite, saveSettings, useSiteId, useStoredSettings } from "../../../shell/useSiteContext";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextArea, TextField } from "../../../ui/Field";
import { FormProblem, useDraftForm } from "../../../ui/form";
import { useNotice } from "../../../ui/notices";
import { Section, StageHeader } from "../../StageHeader";
import { BARE_RECIPE } from "./bare";
import { Checks } from "./Checks";
import { GatewayTest } from "./GatewayTest";
import { LiveTree } from "./LiveTree";
import { Locking } from "./Locking";
import { MapForm } from "./MapForm";
import { ModemReads } from "./ModemReads";
import { pointAt, type Target } from "./pointing";
import { RecipeFile } from "./RecipeFile";
import { Recording } from "./Recording";
import { SignIn } from "./SignIn";
import { useWorkshop } from "./useWorkshop";

const FORMATS: readonly (readonly [PageFormat, string])[] = [
  ["json", "JSON"],
  ["xml", "XML"],
  ["html", "A web page with tables (HTML)"],
];
const METHODS: readonly (readonly [AskMethod, string])[] = [
  ["get", "GET"],
  ["post", "POST"],
];

/** How this gateway is asked, signed in to and read, beside its live answer. */
export default function GatewayPage() {
  const view = useSite(useSiteId()).data;
  if (!view) return null;
  const gateway = view.settings.gateway;
  if (!gateway)
    return (
      <StageHeader
        title="First enter the gateway's address."
        detail="Then this page shows what it answers, and you point at each figure."
      >
        <p className="mt-4">
          <Link
            to="/sites/$siteId/settings"
            params={{ siteId: view.site.id }}
            className="font-semibold text-action underline"
          >
            Settings
          </Link>
        </p>
      </StageHeader>
    );
  return <Editor key={view.site.id} view={view} gateway={gateway} />;
}

function Editor({ view, gateway }: { view: SiteView; gateway: GatewaySettings }) {
  const siteId = view.site.id;
  const initial = useMemo(() => gateway, [gateway]);
  const [answer, setAnswer] = useState<GatewayAnswer>();
  const [refused, setRefused] = useState<ApiError | null>(null);
  const [target, setTarget] = useState<Target>();
  const [pointed, setPointed] = useState<string>();
  const notice = useNotice();
  const stored = useStoredSettings(view);
  const save = async (gateway: GatewaySettings, seen: SeenSite = stored) => {
    const now = await saveSettings(seen, { gateway });
    setRefused(null);
    notice("How this gateway is read is saved.");
    return now;
  };
  const form = useDraftForm<GatewaySettings, SeenSite>({
    draft: `gateway:${siteId}`,
    initial,
    save,
    stored,
    draftOf: ({ settings }) => settings.gateway ?? gateway,
  });
  const { values: draft, dirty, set: change } = form;
  const recipe = draft.recipe ?? BARE_RECIPE;
  const set = (part: Partial<GatewayRecipe>) => change({ recipe: { ...recipe, ...part } });
  const modem = /^(tcp:|serial:)/.test(draft.status_url);
  const workshop = useWorkshop(siteId, draft, recipe);
  const problem = (pointer: string) => (form.refused ?? refused)?.field(pointer);
  const point = (pointer: string) => {
    if (!target || !recipe.map) return;
    const next = pointAt(recipe.map, target, pointer);
    if (typeof next === "string") setPointed(next);
    else {
      set({ map: next });
      setPointed(undefined);
      setTarget(undefined);
    }
  };
  return (
    <div className="max-w-5xl">
      <StageHeader
        title="Say once where each figure stands; then it is read by itself."
        detail={draft.status_url}
      />
      <div className="mt-4 flex flex-wrap gap-3">
        <Button look={dirty ? "filled" : "outlined"} disabled={!dirty} onClick={() => form.submit()}>
          Save how it is read
        </Button>
        {dirty && (
          <Button look="plain" onClick={form.discard}>
            Discard changes
          </Button>
        )}
      </div>
      <FormProblem of={form} />
      {refused && (
        <p role="alert" className="mt-3 font-semibold text-starved">
          {refused.problem.errors[0]?.detail ?? refused.message}
        </p>
      )}
      <Section title="Try it">
        <GatewayTest
          siteId={siteId}
          gateway={draft}
          onAnswer={setAnswer}
          onRefused={setRefused}
          onTrust={(certificate_sha256) => change({ certificate_sha256 })}
        />
        {draft.certificate_sha256 && (
          <p className="mt-2">
            You vouch for the certificate {draft.certificate_sha256.slice(0, 16)}….{" "}
            <Button look="plain" onClick={() => change({ certificate_sha256: null })}>
              Take that back
            </Button>
          </p>
        )}
      </Section>
      {modem ? (
        <Section title="What it tells beyond the standard">
          <ModemReads
            reads={recipe.modem_reads}
            onChange={(modem_reads) => set({ modem_reads })}
            problem={problem}
          />
        </Section>
      ) : (
        <>
          <Section title="Signing in">
            <SignIn
              siteId={siteId}
              address={draft.status_url}
              login={recipe.login}
              onChange={(login) => set({ login })}
              problem={problem}
            />
          </Section>
          <Section title="Asking">
            <div className="grid gap-4 sm:grid-cols-2">
              <ChoiceField
                label="The page is written in"
                hint={
                  answer?.look.looks_like && answer.look.looks_like !== recipe.format
                    ? `The answer looks like ${answer.look.looks_like.toUpperCase()}`
                    : undefined
                }
                value={recipe.format}
                choices={FORMATS}
                onChange={(format) => set({ format })}
              />
              <ChoiceField
                label="Asked with"
                value={recipe.method}
                choices={METHODS}
                onChange={(method) => set({ method })}
              />
              {recipe.method === "post" && (
                <TextArea label="Sent along" value={recipe.body} onChange={(body) => set({ body })} />
              )}
              <Headers recipe={recipe} onChange={(headers) => set({ headers })} problem={problem} />
            </div>
          </Section>
          <Section title="Record what it answers">
            <Recording
              of={workshop}
              recipe={recipe}
              readable={draft.status_url.trim() !== ""}
              onUse={({ format, map, checks }) => set({ format, map, checks })}
            />
          </Section>
          <Section
            title="Fields"
            aside={
              <div className="flex flex-wrap gap-4">
                {answer?.look.suggestion && (
                  <Button look="plain" onClick={() => set({ map: answer.look.suggestion ?? null })}>
                    Fill in what can be recognised
                  </Button>
                )}
                {recipe.map && (
                  <Button look="plain" onClick={() => set({ map: null })}>
                    Back to the plain page
                  </Button>
                )}
              </div>
            }
          >
            {!recipe.map && !answer && (
              <p>
                It is read as the plain page of the guide. If yours is another, test it above and point at
                each figure in its answer.
              </p>
            )}
            <div className="grid items-start gap-5 lg:grid-cols-2">
              {answer?.look.page !== undefined && answer.look.page !== null && (
                <div className="lg:sticky lg:top-0">
                  <p className="mb-1 font-semibold">{target ? "Press what it is:" : "Its answer, live"}</p>
                  {pointed && (
                    <p role="alert" className="mb-1 font-semibold text-starved">
                      {pointed}
                    </p>
                  )}
                  <LiveTree page={answer.look.page} {...(target ? { onPoint: point } : {})} />
                </div>
              )}
              {recipe.map ? (
                <MapForm
                  map={recipe.map}
                  onChange={(map) => set({ map })}
                  target={target}
                  onTarget={setTarget}
                  problem={problem}
                />
              ) : (
                answer && (
                  <Button
                    onClick={() => set({ map: { carriers: [{ at: "", fields: [] }], neighbours: [] } })}
                  >
                    Begin an empty map
                  </Button>
                )
              )}
            </div>
          </Section>
          <Section title="When an answer is a reading">
            <Checks
              checks={{ ...BARE_RECIPE.checks, ...recipe.checks }}
              onChange={(checks) => set({ checks })}
              problem={problem}
            />
          </Section>
        </>
      )}
      <Section title="Locking bands">
        <Locking lock={recipe.lock} modem={modem} onChange={(lock) => set({ lock })} problem={problem} />
      </Section>
      <Section title="Share it">
        <RecipeFile recipe={recipe} workshop={workshop} onRead={(read) => change({ recipe: read })} />
      </Section>
    </div>
  );
}

function Headers({
  recipe,
  onChange,
  problem,
}: {
  recipe: GatewayRecipe;
  onChange: (headers: { name: string; value: string }[]) => void;
  problem: (pointer: string) => string | undefined;
}) {
  const [typed, setTyped] = useState(() =>
    recipe.headers.map(({ name, value }) => `${name}: ${value}`).join("\n"),
  );
  return (
    <TextField
      label="Headers (optional)"
      hint="Name: value; several parted by semicolons"
      value={typed}
      error={problem("/gateway/recipe/headers/0")}
      onChange={(text) => {
        setTyped(text);
        const lines = text.split(/[;\n]/).filter((line) => line.trim() !== "");
        onChange(
          lines.map((line) => {
            const [name = "", ...rest] = line.split(":");
            return { name: name.trim(), value: rest.join(":").trim() };
          }),
        );
      }}
    />
  );
}
