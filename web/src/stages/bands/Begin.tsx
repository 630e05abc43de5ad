import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import type { BandsView, ChoiceRow, SiteView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { StoredNumber } from "../../ui/StoredNumber";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import { trialSettings, usePlan } from "./queries";
import { ByHand } from "./RunningRound";

const fixed = (row: ChoiceRow) =>
  (row.outlook.choice.access ?? "any") === "any" &&
  (row.outlook.choice.lte ?? []).length + (row.outlook.choice.nr ?? []).length === 0;

/** Which choices to try, what that takes, and the page that is read before the first lock. */
export function Begin({ siteId, view, site }: { siteId: string; view: BandsView; site: SiteView }) {
  const [changed, setChanged] = useState<Record<string, boolean>>({});
  const [hands, setHands] = useState(false);
  const chosen = (row: ChoiceRow) => fixed(row) || (changed[row.name] ?? row.proposed);
  const choices = view.choices.filter(chosen).map((row) => row.outlook.choice);
  const asked = usePlan(siteId, choices, choices.length > 1);
  const plan = asked.data ?? view.plan;
  const read = view.undo.read_at != null;
  const byHand = hands || !view.can_lock;
  const begin = useAction(
    siteId,
    (stop_at_cap: boolean) =>
      answered(
        api.POST("/api/sites/{id}/bands/rounds", {
          params: { path: { id: siteId } },
          body: { id: newId(), choices, by_hand: byHand, stop_at_cap },
        }),
      ),
    { beside: true },
  );
  const { problem } = begin;
  if (view.choices.length < 2)
    return (
      <Section title="Test alternately">
        <p>
          Only one way is known so far. Record a reading on the Log, or enter the mast with its cells on
          Survey: then there is something to choose from.
        </p>
      </Section>
    );
  return (
    <Section title="Test alternately">
      <p className="max-w-3xl">
        Every choice is visited once, then once more in reverse order, at one sitting: what the hour does to
        all of them cancels. What is plainly worse is dropped early; when the winner is clear, it stops.
      </p>
      <ul className="mt-3" aria-label="Choices to try">
        {view.choices.map((row) => (
          <li key={row.name} className="border-t border-rule first:border-t-0">
            <label className="flex min-h-11 items-start gap-3 py-2">
              <input
                type="checkbox"
                className="mt-0.5 size-5 shrink-0 accent-(--action)"
                checked={chosen(row)}
                disabled={fixed(row)}
                onChange={() => setChanged({ ...changed, [row.name]: !chosen(row) })}
              />
              <span className="min-w-0">
                <span className="font-semibold">{row.name}</span>
                {fixed(row) && <span className="text-muted"> (the reference, always in)</span>}
                <span className="block text-muted">{row.hopeless ?? row.expected}</span>
                {byHand && chosen(row) && !fixed(row) && (
                  <span className="mt-1 block">
                    <ByHand card={row.by_hand} />
                  </span>
                )}
              </span>
            </label>
          </li>
        ))}
      </ul>
      <div className="mt-3 grid max-w-2xl gap-4 sm:grid-cols-2">
        <StoredNumber
          label="Data these trials may use, MB"
          hint="Left empty, there is no cap"
          value={site.settings.trials?.data_cap_mb ?? null}
          low={10}
          onSave={(data_cap_mb) => saveSettings(site, { trials: { ...trialSettings(site), data_cap_mb } })}
        />
        <StoredNumber
          label="Smallest difference worth a lock, %"
          hint="The smaller, the more tests"
          value={Math.round((site.settings.trials?.difference ?? 0.2) * 100)}
          low={5}
          onSave={(percent) =>
            saveSettings(site, {
              trials: { ...trialSettings(site), difference: (percent ?? 20) / 100 },
            })
          }
        />
      </div>
      {view.can_lock && (
        <label className="mt-3 flex min-h-11 items-center gap-3">
          <input
            type="checkbox"
            className="size-5 accent-(--action)"
            checked={hands}
            onChange={() => setHands(!hands)}
          />
          I set the locks by hand
        </label>
      )}
      {!plan && (
        <p className="mt-3">
          Trials need a speed-test address.{" "}
          <Link
            to="/sites/$siteId/settings"
            params={{ siteId }}
            className="font-semibold text-action underline"
          >
            Enter it under Settings
          </Link>
        </p>
      )}
      {plan && choices.length > 1 && <p className="mt-4 max-w-3xl text-lg">{plan.words}</p>}
      {plan?.cap_words && (
        <p role="alert" className="mt-2 max-w-3xl font-semibold text-starved">
          {plan.cap_words}
        </p>
      )}
      {problem && (
        <p role="alert" className="mt-2 max-w-3xl font-semibold text-starved">
          {problem}
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-4">
        {!read ? (
          <Link to="/sites/$siteId/undo" params={{ siteId }} className={buttonClass("filled")}>
            First: how to undo a lock
          </Link>
        ) : plan?.cap_words ? (
          <Button look="filled" onClick={() => begin.run(true)}>
            Begin, and stop at the cap
          </Button>
        ) : (
          <Button look="filled" disabled={!plan || choices.length < 2} onClick={() => begin.run(false)}>
            Begin the trials
          </Button>
        )}
        <p className="text-muted">
          Nobody else on the line meanwhile; calls and streams break off at each lock.
        </p>
      </div>
    </Section>
  );
}
