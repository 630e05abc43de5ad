import { Progress } from "radix-ui";
import { answered, api } from "../../api/client";
import type { BandsView, HandCard, RoundStep } from "../../api/schema";
import { Button } from "../../ui/Button";
import { counted, whole } from "../../ui/format";
import { useAction } from "../../ui/useAction";

const STEPS: Record<RoundStep, string> = {
  noting: "What is about to be told is written down",
  noted: "The gateway is being told",
  told: "The gateway has taken it",
  attaching: "Waiting until it is attached again",
  by_hand: "Set this lock by hand",
  reading: "Reading the carriers",
  testing: "Testing the speed",
  restoring: "Going back to how it was",
  done: "Done",
};

/** A lock for hands: the step in words, and the masks that devices take. */
export function ByHand({ card }: { card: HandCard }) {
  return (
    <>
      <p className="text-lg font-semibold">{card.step}</p>
      {card.masks.length > 0 && (
        <table className="mt-2 text-left">
          <caption className="text-left text-sm text-muted">
            Where the device wants a mask: band n is bit n − 1
          </caption>
          <tbody>
            {card.masks.map((mask) => (
              <tr key={mask.name} className="border-t border-rule">
                <th scope="row" className="py-1 pr-4 font-normal">
                  {mask.name}
                </th>
                <td className="pr-4 font-semibold">{mask.decimal}</td>
                <td className="font-semibold">0x{mask.hex}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </>
  );
}

/** What the running round does now, with the way out. */
export function RunningRound({ siteId, view }: { siteId: string; view: BandsView }) {
  const state = view.running_round;
  const path = { id: siteId, round: state?.round_id ?? "" };
  const cancel = useAction(siteId, () =>
    answered(api.POST("/api/sites/{id}/bands/rounds/{round}/cancel", { params: { path } })),
  );
  const set = useAction(siteId, () =>
    answered(api.POST("/api/sites/{id}/bands/rounds/{round}/hands", { params: { path } })),
  );
  if (!state) return null;
  const round = view.rounds.find((one) => one.round.id === state.round_id)?.round;
  const planned = round ? round.choices.length * round.blocks : 0;
  return (
    <section aria-label="Trials going on" className="mt-5 rounded-xl border border-rule bg-surface p-4">
      <div className="flex flex-wrap items-baseline justify-between gap-3">
        <p className="text-lg">
          <span className="font-bold">{view.running_words}</span>: {STEPS[state.step].toLowerCase()}.
        </p>
        {state.step !== "restoring" && <Button onClick={() => cancel.run()}>Cancel, and go back</Button>}
      </div>
      {state.step === "by_hand" && view.running_card && (
        <div className="mt-3">
          <ByHand card={view.running_card} />
          <Button look="filled" className="mt-3" onClick={() => set.run()}>
            Done: it is set
          </Button>
        </div>
      )}
      {planned > 0 && (
        <Progress.Root
          value={Math.min(state.visits_done, planned)}
          max={planned}
          aria-label="Visits done"
          className="mt-3 h-2 overflow-hidden rounded bg-rule"
        >
          <Progress.Indicator
            className="h-full bg-lamp"
            style={{ width: `${(100 * Math.min(state.visits_done, planned)) / planned}%` }}
          />
        </Progress.Root>
      )}
      <p className="mt-2 text-muted">
        {counted(state.visits_done, "visit")} of {planned} at the most, {counted(state.tests_done, "test")},{" "}
        {whole(state.moved_mb)} MB. It runs in Open Beacon itself: this page may be closed, and a phone that
        loses its Wi-Fi finds it again.
      </p>
    </section>
  );
}

/** Where the gateway is not back from a lock yet: what is being done, or what hands have to do. */
export function Restoring({ siteId, view }: { siteId: string; view: BandsView }) {
  const state = view.restoring;
  const failed = !view.running_round?.running && view.running_round?.problem;
  const back = state ? "" : " The gateway went back to how it was.";
  const put = useAction(siteId, (by_hand: boolean) =>
    answered(
      api.POST("/api/sites/{id}/bands/put-back", { params: { path: { id: siteId } }, body: { by_hand } }),
    ),
  );
  return (
    <>
      {failed && (
        <p role="alert" className="mt-4 max-w-3xl font-semibold text-starved">
          {failed}
          {back}
        </p>
      )}
      {state && (
        <section
          role="alert"
          aria-label="Not back yet"
          className="mt-4 max-w-3xl rounded-xl border-2 border-starved bg-surface p-4"
        >
          <p className="text-lg font-bold">The gateway may still be under a trial's lock.</p>
          <p className="mt-1">
            {state.by_hand
              ? "This program cannot tell it: take the lock away by hand, then say so."
              : `It is being put back, tried ${counted(state.tries, "time")} so far. ${state.problem ? `Last time: ${state.problem}.` : ""}`}
          </p>
          {view.restoring_card && (
            <div className="mt-3">
              <p className="font-semibold">By hand, on the gateway's own page:</p>
              <ByHand card={view.restoring_card} />
            </div>
          )}
          <div className="mt-3 flex flex-wrap gap-3">
            {!state.by_hand && <Button onClick={() => put.run(false)}>Try now</Button>}
            <Button look={state.by_hand ? "filled" : "outlined"} onClick={() => put.run(true)}>
              I have put it back by hand
            </Button>
          </div>
        </section>
      )}
    </>
  );
}
