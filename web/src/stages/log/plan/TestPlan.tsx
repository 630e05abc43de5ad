import { useTestPlan } from "../../../api/queries";
import type { PlanSetup, ProtocolSettings, SiteView, TestOrder, TestPlanView } from "../../../api/schema";
import { saveSettings } from "../../../shell/useSiteContext";
import { ChoiceField } from "../../../ui/Field";
import { moment } from "../../../ui/format";
import { useAction } from "../../../ui/useAction";
import { Section } from "../../StageHeader";
import { protocolOf } from "./protocol";
import { Repeats } from "./Repeats";
import { OpenSittingButton } from "./SittingBar";

const ORDERS: readonly (readonly [TestOrder, string])[] = [
  ["there_and_back", "There and back (A B B A)"],
  ["one_way", "One way, back the next time"],
];

/** Setups tried by turns in one sitting at the most. */
const MOST = 6;

/** Which setups are compared, in which order, how often and when; the visits as a list and as a calendar. */
export function TestPlan({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const plan = useTestPlan(siteId).data;
  if (!plan || plan.setups.length < 2) return null;
  return (
    <Section
      title="Test plan"
      aside={
        plan.visits.length > 0 && (
          <a className="text-action font-semibold" href={`/api/sites/${siteId}/test-plan.ics`} download>
            Save to calendar (.ics)
          </a>
        )
      }
    >
      <p className="max-w-3xl text-lg font-semibold">{plan.title}</p>
      {plan.visits.length > 0 && <Letters plan={plan} />}
      <Visits plan={plan} zone={view.site.time_zone} />
      {plan.sitting == null && plan.visits.length > 0 && (
        <div className="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2">
          <OpenSittingButton siteId={siteId} filled={false} />
          <p className="max-w-xl text-sm text-muted">
            Open one when you begin. Tests belong to it until it is closed, and every comparison counts a
            sitting once.
          </p>
        </div>
      )}
      <details className="mt-4 max-w-3xl" open={plan.plan == null}>
        <summary className="font-semibold">Change the plan</summary>
        <Choice view={view} plan={plan} />
      </details>
      {plan.reasons.length > 0 && (
        <details className="mt-3 max-w-3xl">
          <summary className="font-semibold">Why this plan</summary>
          <ul className="mt-2 flex list-disc flex-col gap-1 pl-5">
            {plan.reasons.map((reason) => (
              <li key={reason}>{reason}</li>
            ))}
          </ul>
        </details>
      )}
      <details className="mt-3 max-w-3xl">
        <summary className="font-semibold">
          Test by itself
          <span className="font-normal text-muted">: {plan.repeats_said ?? "off"}</span>
        </summary>
        <Repeats view={view} />
      </details>
    </Section>
  );
}

/** What the letters of the visits stand for. */
function Letters({ plan }: { plan: TestPlanView }) {
  return (
    <ul className="mt-2 flex flex-wrap gap-x-6 gap-y-1" aria-label="Setups by letter">
      {plan.setups
        .filter((setup) => setup.compared)
        .map((setup) => (
          <li key={setup.setup_id}>
            <span className="font-bold">{setup.letter}</span> {setup.label}
          </li>
        ))}
    </ul>
  );
}

function Visits({ plan, zone }: { plan: TestPlanView; zone: string }) {
  if (plan.visits.length === 0) return null;
  return (
    <ol className="mt-3 flex flex-col divide-y divide-rule border-y border-rule" aria-label="Visits">
      {plan.visits.map((visit) => (
        <li key={visit.starts_at} className="grid gap-x-4 py-2 sm:grid-cols-[11rem_minmax(0,1fr)]">
          <span className="font-semibold">{moment(visit.starts_at, zone)}</span>
          <span>
            Tests: {visit.stops_by_letter}
            <span className="block text-sm text-muted">{visit.takes}</span>
          </span>
        </li>
      ))}
    </ol>
  );
}

function Choice({ view, plan }: { view: SiteView; plan: TestPlanView }) {
  const siteId = view.site.id;
  const save = useAction(siteId, (protocol: ProtocolSettings) => saveSettings(view, { protocol }));
  const compared = plan.setups.filter((setup) => setup.compared).map((setup) => setup.setup_id);
  const protocol = protocolOf(view);
  const toggle = (setup: PlanSetup) =>
    save.run({
      ...protocol,
      setups: setup.compared ? compared.filter((id) => id !== setup.setup_id) : [...compared, setup.setup_id],
    });
  return (
    <div className="mt-3 flex flex-col gap-4">
      <ChoiceField
        label="Order within a sitting"
        value={plan.order}
        choices={ORDERS}
        onChange={(order) => save.run({ ...protocol, order })}
      />
      <fieldset>
        <legend className="text-sm font-semibold">Setups to compare, two to six</legend>
        <ul className="mt-1 flex flex-col">
          {plan.setups.map((setup) => (
            <li key={setup.setup_id}>
              <label className="flex min-h-11 items-center gap-3">
                <input
                  type="checkbox"
                  className="size-5 shrink-0 accent-(--action)"
                  checked={setup.compared}
                  disabled={save.busy || (!setup.compared && compared.length >= MOST)}
                  onChange={() => toggle(setup)}
                />
                <span>
                  {setup.letter && <span className="font-bold">{setup.letter} </span>}
                  {setup.label}
                  {setup.compared && setup.changed_said && (
                    <span className="block text-sm text-muted">{setup.changed_said}</span>
                  )}
                </span>
              </label>
            </li>
          ))}
        </ul>
      </fieldset>
    </div>
  );
}
