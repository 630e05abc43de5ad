import { Progress as Bar } from "radix-ui";
import { useState } from "react";
import type {
  FieldMotion,
  GatewayRecipe,
  Motion,
  PageField,
  RecipeProposal,
  Workshop,
} from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { TableBox } from "../../../ui/TableBox";
import { FIELDS } from "./pointing";
import type { WorkshopState } from "./useWorkshop";

const MOTIONS: Record<Motion, string> = {
  comes_and_goes: "Missing at times",
  moves: "Moves",
  moves_under_traffic: "Moves under traffic only",
  stands_still: "Never moved",
};
/** Values shown before more are asked for. */
const FIRST_SHOWN = 12;

/** Twenty answers of the gateway, with an idle line and under traffic: what moves on them, and whether the recipe reads them. */
export function Recording({
  of,
  recipe,
  readable,
  onUse,
}: {
  of: WorkshopState;
  recipe: GatewayRecipe;
  /** There is an address that can be recorded. */
  readable: boolean;
  onUse: (proposal: RecipeProposal) => void;
}) {
  const { view, recording, workshop } = of;
  const running = view?.running;
  const answers = recording?.answers ?? [];
  const underTraffic = answers.some(({ line }) => line === "traffic");
  return (
    <div className="flex flex-col gap-3">
      {running ? (
        <Progress of={of} />
      ) : (
        <>
          {answers.length === 0 && (
            <p className="max-w-prose">
              Ten answers with nobody using the line, then ten under traffic, show which figures are live,
              what vanishes at times and how a whole answer ends. Passwords, card and device numbers are
              blotted out.
            </p>
          )}
          {answers.length > 0 && !underTraffic && (
            <p className="max-w-prose">
              <strong>{answers.length} answers with the line idle.</strong> Now start a video or a large
              download on this computer, and record ten more.
            </p>
          )}
          <div className="flex flex-wrap gap-3">
            {answers.length > 0 && !underTraffic && !of.brought && (
              <Button disabled={of.busy || !readable} onClick={() => of.record("traffic")}>
                Record ten under traffic
              </Button>
            )}
            <Button
              look={answers.length > 0 ? "plain" : "outlined"}
              disabled={of.busy || !readable}
              onClick={() => of.record("idle")}
            >
              {answers.length > 0 ? "Record anew" : "Record ten answers"}
            </Button>
          </div>
        </>
      )}
      {of.problem && !running && (
        <p role="alert" className="font-semibold text-starved">
          {of.problem.charAt(0).toUpperCase() + of.problem.slice(1).replace(/\.$/, "")}.
        </p>
      )}
      {workshop && !running && (
        <>
          <Tried workshop={workshop} brought={of.brought} />
          {workshop.proposal && !follows(recipe, workshop.proposal) && (
            <Proposal proposal={workshop.proposal} workshop={workshop} onUse={onUse} />
          )}
          <Fields workshop={workshop} />
        </>
      )}
    </div>
  );
}

/** Whether a recipe is what is proposed already. */
const follows = (recipe: GatewayRecipe, { format, map, checks }: RecipeProposal) =>
  JSON.stringify([recipe.format, recipe.map, recipe.checks]) === JSON.stringify([format, map, checks]);

function Progress({ of: { view, stop, busy } }: { of: WorkshopState }) {
  if (!view) return null;
  return (
    <div className="flex flex-wrap items-center gap-3">
      <p role="status" className="font-semibold">
        {view.taken} of {view.wanted} answers, {view.running === "idle" ? "line idle" : "under traffic"}
      </p>
      <Bar.Root
        value={view.taken}
        max={view.wanted}
        aria-label="Answers recorded"
        className="h-4 w-48 overflow-hidden rounded-full border border-edge bg-ground"
      >
        <Bar.Indicator
          className="h-full bg-lamp transition-[width] duration-200"
          style={{ width: `${(100 * view.taken) / view.wanted}%` }}
        />
      </Bar.Root>
      <Button look="plain" disabled={busy} onClick={stop}>
        Stop
      </Button>
    </div>
  );
}

/** Words with how often they were said, the most frequent first. */
function counted(words: string[]): [string, number][] {
  const counts = new Map<string, number>();
  for (const word of words) counts.set(word, (counts.get(word) ?? 0) + 1);
  return [...counts].sort(([, a], [, b]) => b - a);
}

function Tried({ workshop, brought }: { workshop: Workshop; brought: boolean }) {
  const { tried, renewed_every_s } = workshop;
  const read = tried.filter(({ read }) => read.reading).length;
  const problems = counted(tried.flatMap(({ read }) => (read.problem ? [read.problem] : [])));
  const expected = tried.filter(({ as_expected }) => as_expected != null);
  const off = expected.filter(({ as_expected }) => !as_expected).length;
  return (
    <div role="status" className="border-l-4 border-structure pl-3">
      <p className="text-lg">
        <strong>
          This recipe reads {read === tried.length ? `all ${read}` : `${read} of ${tried.length}`} answers
          {brought ? " that came with it" : ""}.
        </strong>
      </p>
      {problems.map(([problem, times]) => (
        <p key={problem}>
          {times} not read: {problem}.
        </p>
      ))}
      {expected.length > 0 && (
        <p className={off > 0 ? "font-semibold text-starved" : ""}>
          {off === 0
            ? "Each comes to what it did when the recipe was saved."
            : `${off} of ${expected.length} come to something else than when the recipe was saved.`}
        </p>
      )}
      {renewed_every_s != null && (
        <p className="text-sm text-muted">
          The page renews itself about every {renewed_every_s.toFixed(1)} s.
        </p>
      )}
    </div>
  );
}

/** What may be required of a carrier, in few letters. */
const SHORT: Partial<Record<PageField, string>> = {
  rsrp_dbm: "RSRP",
  sinr_db: "SINR",
  rsrq_db: "RSRQ",
  band: "band",
  channel: "channel",
  pci: "PCI",
};
const named = (field: string) => FIELDS.find(([name]) => name === field)?.[1] ?? field;

function Proposal({
  proposal,
  workshop,
  onUse,
}: {
  proposal: RecipeProposal;
  workshop: Workshop;
  onUse: (proposal: RecipeProposal) => void;
}) {
  const read = workshop.tried.filter(({ read }) => read.reading).length;
  const { checks } = proposal;
  const conditions = [
    checks.required.length > 0 &&
      `every carrier shows ${checks.required.map((field) => SHORT[field] ?? named(field)).join(", ")}`,
    checks.end_mark !== "" && `it ends with ${checks.end_mark}`,
    ...checks.must_hold.map(({ at, is }) => `${is} stands at ${at}`),
  ].filter(Boolean);
  return (
    <div className="rounded-lg border border-edge p-3">
      <p>
        <strong>
          Proposed: {proposal.map.carriers.length} {proposal.map.carriers.length === 1 ? "place" : "places"}{" "}
          with carriers, {proposal.reads} of {workshop.tried.length} answers read.
        </strong>{" "}
        {conditions.length > 0 && <>An answer is a reading if {conditions.join(", and if ")}.</>}
      </p>
      <Button
        className="mt-2"
        look={read < proposal.reads ? "filled" : "outlined"}
        onClick={() => onUse(proposal)}
      >
        Use what is proposed
      </Button>
    </div>
  );
}

function Fields({ workshop: { fields, more_fields } }: { workshop: Workshop }) {
  const [all, setAll] = useState(false);
  if (fields.length === 0)
    return <p>None of the answers can be taken apart: they are neither JSON, XML nor HTML.</p>;
  const shown = all ? fields : fields.slice(0, FIRST_SHOWN);
  return (
    <>
      <TableBox label="Values on the page and how they moved" className="max-h-[32rem] overflow-y-auto">
        <table className="w-full min-w-[36rem] text-left text-sm leading-snug">
          <thead className="sticky top-0 bg-ground">
            <tr className="border-b border-rule text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
              <th>Place on the page</th>
              <th>What it does</th>
              <th>First</th>
              <th>Last</th>
              <th>Read as</th>
            </tr>
          </thead>
          <tbody>
            {shown.map((field) => (
              <FieldRow key={field.at} field={field} />
            ))}
          </tbody>
        </table>
      </TableBox>
      {!all && fields.length > FIRST_SHOWN && (
        <Button look="plain" className="self-start" onClick={() => setAll(true)}>
          Show all {fields.length} values
        </Button>
      )}
      {all && more_fields > 0 && <p className="text-sm text-muted">{more_fields} more are not listed.</p>}
    </>
  );
}

function FieldRow({ field }: { field: FieldMotion }) {
  const { motion, changes_idle, changes_traffic } = field;
  const times = [
    changes_idle > 0 && `${changes_idle} idle`,
    changes_traffic > 0 && `${changes_traffic} under traffic`,
  ];
  const how =
    motion === "comes_and_goes" ? `in ${field.seen} of ${field.of}` : times.filter(Boolean).join(", ");
  return (
    <tr className="border-b border-rule align-top [&>td]:px-2 [&>td]:py-1">
      <td className="min-w-40 font-mono text-xs break-all">{field.at}</td>
      <td className="min-w-40">
        {MOTIONS[motion]}
        {how && <span className="text-muted"> ({how})</span>}
      </td>
      <td className="max-w-32 truncate">{field.first}</td>
      <td className="max-w-32 truncate">{field.last}</td>
      <td>{field.read_as ? named(field.read_as) : "–"}</td>
    </tr>
  );
}
