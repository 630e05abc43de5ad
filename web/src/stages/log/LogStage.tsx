import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { useJob, useLog, usePreflight, useSite, useTestPlan, useWorklist } from "../../api/queries";
import type { Attach, NextAction } from "../../api/schema";
import { useChosenSetup, useSiteId } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { ReturnNotice } from "../ReturnNotice";
import { SetupOutlook } from "../SetupOutlook";
import { Section, StageHeader } from "../StageHeader";
import { CarrierMedians } from "./CarrierMedians";
import { Figures } from "./Figures";
import { JobProgress } from "./JobProgress";
import { Notebook } from "./notebook/Notebook";
import { Preflight } from "./Preflight";
import { SittingBar } from "./plan/SittingBar";
import { TestPlan } from "./plan/TestPlan";
import { Refused } from "./Refused";
import { RunList } from "./RunList";
import { TableImport } from "./table/TableImport";
import { OverTime } from "./timeline/OverTime";
import { Timeline } from "./timeline/Timeline";
import { TypeIn } from "./type-in/TypeIn";
import { useMeasuring } from "./useMeasuring";
import { NextWork, Worklist } from "./Worklist";

/** Independent samples a recording takes unless said otherwise. */
const SAMPLES = 10;

/** Record, test, type in: everything that was measured on one setup. */
export function LogStage() {
  const siteId = useSiteId();
  const view = useSite(siteId).data;
  const chosen = useChosenSetup();
  const setupId = chosen?.setup.setup.id;
  const log = useLog(setupId);
  const job = useJob(siteId).data;
  const measuring = useMeasuring(siteId);
  const nextWork = useWorklist(siteId).data?.next;
  const sitting = useTestPlan(siteId).data?.sitting != null;
  const measure = measuring.start;
  const [typing, setTyping] = useState<"one" | "many" | "table">();
  const preflight = usePreflight(setupId).data;
  const [entered, setEntered] = useState<{ of?: string; attach?: Attach; weather?: string }>({});
  if (!view) return null;

  if (!chosen || !setupId) {
    return (
      <StageHeader
        title="Start with a position and a setup."
        detail="Say where the gateway stands today. Recordings are kept with the setup they were made on."
      >
        <Link
          to="/sites/$siteId/mount"
          params={{ siteId }}
          hash="new-position"
          className={buttonClass("filled", "mt-5")}
        >
          Add a position
        </Link>
      </StageHeader>
    );
  }

  const running = job?.running === true;
  // What was entered is of the setup it was entered for; else what the record carries over.
  const own = entered.of === setupId ? entered : {};
  const noted = {
    attach: own.attach ?? preflight?.attach ?? ("not_recorded" as const),
    weather: own.weather ?? preflight?.weather ?? "",
  };
  const note = (change: { attach?: Attach; weather?: string }) =>
    setEntered({ ...own, ...change, of: setupId });
  const start = (samples: number, tests: number) => measure(setupId, samples, tests, noted);

  return (
    <>
      <StageHeader title={log.data?.title ?? chosen.setup.label} detail={log.data?.detail} />
      <ReturnNotice site={view} />
      {log.isError && (
        <p role="alert" className="mt-4 font-semibold text-starved">
          {log.error.message}
        </p>
      )}
      {running && job ? (
        <JobProgress job={job} here={job.setup_id === setupId} />
      ) : (
        <Actions
          next={log.data?.next}
          elsewhere={nextWork != null && !nextWork.later && nextWork.setup_id !== setupId}
          siteId={siteId}
          hasGateway={view.settings.gateway != null}
          hasTest={view.settings.speed_test != null}
          onStart={start}
          onType={setTyping}
        />
      )}
      {!running && (
        <SittingBar
          siteId={siteId}
          setupId={setupId}
          zone={view.site.time_zone}
          onTest={view.settings.speed_test ? (tests) => void start(0, tests) : undefined}
        />
      )}
      {!running && !sitting && (
        <NextWork siteId={siteId} setupId={setupId} first={log.data?.next.kind === "compare"} />
      )}
      <Refused measuring={measuring} />
      {!running && job?.problem && job.setup_id === setupId && (
        <p role="status" className="mt-3 border-l-4 border-lamp pl-3">
          The last run stopped early. {job.problem} What was taken is kept and marked partial.
        </p>
      )}
      {!running && preflight && (
        <Preflight
          siteId={siteId}
          view={preflight}
          attach={noted.attach}
          weather={noted.weather}
          onAttach={(attach) => note({ attach })}
          onWeather={(weather) => note({ weather })}
        />
      )}
      {log.data?.figures.some((figure) => figure.values.length > 0) && (
        <Section title="Speed tests">
          <Figures figures={log.data.figures} />
        </Section>
      )}
      {log.data && log.data.radio.carriers.length > 0 && (
        <Section title="Carriers, medians and spread">
          <CarrierMedians radio={log.data.radio} />
        </Section>
      )}
      <Worklist siteId={siteId} />
      <TestPlan view={view} />
      <SetupOutlook siteId={siteId} setupId={setupId} label={chosen.setup.label} />
      {log.data && (
        <Section title="Runs">
          <RunList rows={log.data.runs} zone={view.site.time_zone} siteId={siteId} setupId={setupId} />
        </Section>
      )}
      <OverTime siteId={siteId} setupId={setupId} zone={view.site.time_zone} />
      <Timeline view={view} />
      <TypeIn
        open={typing === "one"}
        onOpenChange={(open) => setTyping(open ? "one" : undefined)}
        siteId={siteId}
        setupId={setupId}
        label={chosen.setup.label}
      />
      <Notebook
        open={typing === "many"}
        onOpenChange={(open) => setTyping(open ? "many" : undefined)}
        siteId={siteId}
        setupId={setupId}
        onTable={() => setTyping("table")}
      />
      <TableImport
        open={typing === "table"}
        onOpenChange={(open) => setTyping(open ? "table" : undefined)}
        siteId={siteId}
        setupId={setupId}
        zone={view.site.time_zone}
      />
    </>
  );
}

function Actions({
  next,
  elsewhere,
  siteId,
  hasGateway,
  hasTest,
  onStart,
  onType,
}: {
  next: NextAction | undefined;
  /** Another setup is to be measured first: the button that is filled leads there. */
  elsewhere: boolean;
  siteId: string;
  hasGateway: boolean;
  hasTest: boolean;
  onStart: (samples: number, tests: number) => Promise<void>;
  onType: (how: "one" | "many") => void;
}) {
  const record = next?.kind === "record";
  const test = next?.kind === "speed_test" ? next.tests : undefined;
  const look = (filled: boolean) => (filled ? ("filled" as const) : ("outlined" as const));
  return (
    <div className="mt-5 flex flex-wrap items-center gap-3">
      {next?.kind === "compare" && (
        <Link to="/sites/$siteId/verdict" params={{ siteId }} className={buttonClass(look(!elsewhere))}>
          Compare
        </Link>
      )}
      <Button
        look={look(record && hasGateway)}
        disabled={!hasGateway}
        onClick={() => void onStart(SAMPLES, 0)}
      >
        Record {SAMPLES} samples
      </Button>
      <Button look={look(test === 1 && hasTest)} disabled={!hasTest} onClick={() => void onStart(0, 1)}>
        One speed test
      </Button>
      <Button
        look={look(test !== undefined && test > 1 && hasTest)}
        disabled={!hasTest}
        onClick={() => void onStart(0, 3)}
      >
        Three speed tests
      </Button>
      <Button look={look(record && !hasGateway)} onClick={() => onType("one")}>
        Type it in
      </Button>
      <Button onClick={() => onType("many")}>Type in many</Button>
      {(!hasGateway || !hasTest) && (
        <p className="basis-full text-sm text-muted">
          {hasGateway
            ? "No speed-test address"
            : hasTest
              ? "No gateway"
              : "Neither gateway nor speed-test address"}{" "}
          is set.{" "}
          <Link
            to="/sites/$siteId/settings"
            params={{ siteId }}
            className="font-semibold text-action underline"
          >
            Settings
          </Link>
        </p>
      )}
    </div>
  );
}
