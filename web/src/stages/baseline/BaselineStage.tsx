import { Link, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useBaseline, useJob, useSite } from "../../api/queries";
import type { BaselineView, NextAction, SiteView } from "../../api/schema";
import { useChooseSetup, useChosenSetup, useSiteId } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { JobProgress } from "../log/JobProgress";
import { Refused } from "../log/Refused";
import { TypeIn } from "../log/type-in/TypeIn";
import { useMeasuring } from "../log/useMeasuring";
import { Section, StageHeader } from "../StageHeader";
import { Carriers } from "./Carriers";
import { Networks } from "./Networks";
import { Outlooks } from "./Outlooks";
import { Spots } from "./Spots";

/** What is there before anything is bought, and whether an antenna is worth it. */
export function BaselineStage() {
  const siteId = useSiteId();
  const { network, setup } = useSearch({ from: "/sites/$siteId" });
  const site = useSite(siteId).data;
  const found = useBaseline(siteId, network);
  const worked = useChosenSetup()?.setup.setup;
  const [typing, setTyping] = useState<{ setupId: string; label: string; network: string }>();
  if (found.isError && !found.data) {
    return (
      <p role="alert" className="font-semibold text-starved">
        {found.error.message}
      </p>
    );
  }
  if (!site || !found.data) return null;
  const view = found.data;
  const spots = view.baseline.spots;
  // What the list and the address say is where a reading goes, whether it has readings yet or not.
  const chosen = worked?.antenna === "internal" ? worked.id : undefined;
  const spot =
    spots.find((one) => one.setup_id === (setup ?? chosen)) ??
    (chosen === undefined
      ? (spots.find((one) => one.setup_id === view.baseline.verdict.from_setup) ?? spots[0])
      : undefined);
  const indoors = site.positions
    .filter((node) => !node.position.archived_at)
    .flatMap((node) =>
      node.setups.filter((one) => one.setup.antenna === "internal" && !one.setup.archived_at),
    );
  const at = chosen ?? spot?.setup_id ?? indoors[0]?.setup.id;
  const atLabel = indoors.find((one) => one.setup.id === at)?.label;
  const unread = indoors.filter((one) => spots.every((other) => other.setup_id !== one.setup.id));
  const typeAt = (setupId: string, forNetwork: string) => {
    const label = indoors.find((one) => one.setup.id === setupId)?.label ?? "";
    setTyping({ setupId, label, network: forNetwork });
  };
  return (
    <>
      <StageHeader title={view.title} />
      <Reasons view={view} siteId={siteId} />
      <Actions
        site={site}
        next={view.next}
        worthIt={["go", "for_margin"].includes(view.baseline.verdict.answer)}
        setupId={at}
        label={atLabel}
        onType={(setupId) => typeAt(setupId, view.baseline.network)}
      />
      {spots.length + unread.length > 0 && (
        <Spots
          spots={spots}
          unread={unread}
          chosen={spot}
          chosenId={at}
          mast={view.known_mast ?? undefined}
          facing={view.facing_said}
          units={site.settings.units ?? "metric"}
        />
      )}
      {spot && spot.carriers.length > 0 && (
        <Carriers spot={spot} said={view.explained[spots.indexOf(spot)] ?? []} />
      )}
      {view.baseline.verdict.outlooks.length > 0 && <Outlooks view={view} site={site} />}
      {indoors.length > 0 && (
        <Networks
          view={view}
          onAdd={(name) => {
            if (at) typeAt(at, name);
          }}
        />
      )}
      {view.would_change.length > 0 && (
        <Section title="What would change this answer">
          <ul className="flex max-w-3xl list-disc flex-col gap-1.5 pl-5">
            {view.would_change.map((said) => (
              <li key={said.text}>{said.text}</li>
            ))}
          </ul>
        </Section>
      )}
      <p className="mt-8 max-w-3xl text-sm text-muted">
        Bars are shown nowhere here. Every maker draws them by its own rule: four of five may stand for
        anything from weak to excellent, and they say nothing of interference or load.
      </p>
      {typing && (
        <TypeIn
          open
          onOpenChange={(open) => !open && setTyping(undefined)}
          siteId={siteId}
          setupId={typing.setupId}
          label={typing.label}
          network={typing.network}
        />
      )}
    </>
  );
}

/** Why, each with a way to the numbers it rests on. */
function Reasons({ view, siteId }: { view: BaselineView; siteId: string }) {
  if (view.reasons.length === 0) {
    return (
      <p className="mt-2 max-w-3xl text-lg leading-snug text-muted">
        Read the gateway in two to four spots of the house, on its own antennas: where it stands, upstairs, at
        the window towards the mast. Three speed tests each. A phone on the same network is a quick scout.
      </p>
    );
  }
  return (
    <ul className="mt-3 flex max-w-3xl flex-col gap-2 text-lg leading-snug">
      {view.reasons.map(({ said, setup_id }) => (
        <li key={said.text} className="border-l-4 border-structure pl-3">
          {said.text}{" "}
          {setup_id && (
            <Link
              to="/sites/$siteId/log"
              params={{ siteId }}
              search={{ setup: setup_id }}
              className="text-base font-semibold whitespace-nowrap text-action underline"
            >
              See the readings
            </Link>
          )}
        </li>
      ))}
    </ul>
  );
}

function Actions({
  site,
  next,
  worthIt,
  setupId,
  label,
  onType,
}: {
  site: SiteView;
  next: NextAction;
  worthIt: boolean;
  setupId: string | undefined;
  label: string | undefined;
  onType: (setupId: string) => void;
}) {
  const siteId = site.site.id;
  const job = useJob(siteId).data;
  const choose = useChooseSetup();
  const measuring = useMeasuring(siteId);
  const hasGateway = site.settings.gateway != null;
  const hasTest = site.settings.speed_test != null;
  if (job?.running) return <JobProgress job={job} here={job.setup_id === setupId} />;
  const look = (filled: boolean) => (filled ? ("filled" as const) : ("outlined" as const));
  const record = next.kind === "record";
  const test = next.kind === "speed_test" ? next.tests : undefined;
  const run = (samples: number, tests: number) => {
    if (!setupId) return;
    choose(setupId);
    void measuring.start(setupId, samples, tests);
  };
  return (
    <div className="mt-5 flex flex-wrap items-center gap-3">
      {label && <p className="basis-full">At {label}:</p>}
      {next.kind === "nothing" && worthIt && (
        <Link to="/sites/$siteId/kit" params={{ siteId }} className={buttonClass("filled")}>
          Choose a kit
        </Link>
      )}
      <Link
        to="/sites/$siteId/mount"
        params={{ siteId }}
        hash="new-position"
        className={buttonClass(next.kind === "add_setup" ? "filled" : "outlined")}
      >
        Add a spot
      </Link>
      {setupId && (
        <>
          <Button look={look(record && !hasGateway)} onClick={() => onType(setupId)}>
            Paste or type a reading
          </Button>
          {hasGateway && (
            <Button look={look(record)} onClick={() => run(10, 0)}>
              Record 10 samples
            </Button>
          )}
          {hasTest && (
            <Button look={look(test !== undefined)} onClick={() => run(0, test ?? 3)}>
              {test === 1 ? "One speed test" : `${test === 2 ? "Two" : "Three"} speed tests`}
            </Button>
          )}
        </>
      )}
      {setupId && (!hasGateway || !hasTest) && (
        <p className="basis-full text-sm text-muted">
          {!hasGateway && "No gateway address is set. "}
          {!hasTest && "No speed-test address is set; it is checked where it is entered. "}
          <Link
            to="/sites/$siteId/settings"
            params={{ siteId }}
            className="font-semibold text-action underline"
          >
            Settings
          </Link>
        </p>
      )}
      <Refused measuring={measuring} />
    </div>
  );
}
