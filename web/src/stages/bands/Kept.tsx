import { Link } from "@tanstack/react-router";
import { answered, api } from "../../api/client";
import type { BandChoice, BandsView } from "../../api/schema";
import { useChosenSetup } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";

const same = (a: BandChoice, b: BandChoice) =>
  (a.access ?? "any") === (b.access ?? "any") &&
  (a.lte ?? []).join() === (b.lte ?? []).join() &&
  (a.nr ?? []).join() === (b.nr ?? []).join();

const FREE: BandChoice = { access: "any", lte: [], nr: [] };

function useKeep(siteId: string, view: BandsView) {
  return useAction(siteId, (choice: BandChoice) =>
    answered(
      api.POST("/api/sites/{id}/bands/keep", {
        params: { path: { id: siteId } },
        body: { choice, round_id: view.rounds[0]?.round.id ?? null },
      }),
    ),
  ).run;
}

/** Locks to a choice for good; nothing where it is so already. */
export function KeepButton({
  siteId,
  view,
  choice,
}: {
  siteId: string;
  view: BandsView;
  choice: BandChoice;
}) {
  const keep = useKeep(siteId, view);
  if (same(choice, view.kept)) return <p className="mt-1 font-semibold">This is how it is now.</p>;
  return (
    <Button className="mt-2" disabled={view.running_round?.running === true} onClick={() => keep(choice)}>
      Keep this
    </Button>
  );
}

/** What the gateway is locked to on purpose, and the way back. */
export function Kept({ siteId, view }: { siteId: string; view: BandsView }) {
  const keep = useKeep(siteId, view);
  const free = same(view.kept, FREE);
  const chosen = useChosenSetup()?.setup;
  return (
    <Section title="How the gateway is locked">
      <p>
        {free ? (
          "No lock is kept: the gateway chooses by itself."
        ) : (
          <>
            Kept: <b>{view.kept_words}</b>.
          </>
        )}{" "}
        {!view.can_lock && (
          <>
            Open Beacon does not know how to lock this gateway.{" "}
            <Link
              to="/sites/$siteId/gateway"
              params={{ siteId }}
              className="font-semibold text-action underline"
            >
              Say how
            </Link>
            , or set locks by hand.
          </>
        )}
      </p>
      {!free && chosen && same(chosen.setup.lock ?? {}, view.kept) && (
        <p className="mt-2 flex flex-wrap items-center gap-x-4 gap-y-2">
          {chosen.label} is the setup with this lock.
          <Link
            to="/sites/$siteId/log"
            params={{ siteId }}
            search={{ setup: chosen.setup.id }}
            className={buttonClass("outlined")}
          >
            Test it
          </Link>
        </p>
      )}
      <div className="mt-3 flex flex-wrap items-center gap-4">
        {!free && (
          <Button disabled={view.running_round?.running === true} onClick={() => keep(FREE)}>
            Take every lock away
          </Button>
        )}
        <Link to="/sites/$siteId/undo" params={{ siteId }} className="font-semibold text-action underline">
          How to undo a lock
        </Link>
      </div>
      <p className="mt-3 max-w-3xl text-sm text-muted">
        A lock may breach a plan's terms, and a band that is locked in stays so when the network changes: look
        again when service gets worse.
      </p>
    </Section>
  );
}
