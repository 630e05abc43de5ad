import { Link, Outlet, useLocation } from "@tanstack/react-router";
import { lazy, Suspense, useEffect, useRef } from "react";
import { useSiteEvents } from "../api/events";
import { useSite } from "../api/queries";
import type { StageState } from "../api/schema";
import { STAGES } from "../ui/words";
import { LinkStrip } from "./LinkStrip";
import { Outbox } from "./Outbox";
import { SetupList } from "./SetupList";
import { Shortcuts } from "./Shortcuts";
import { StandInDrawer } from "./StandInDrawer";
import { ThemeSwitch } from "./ThemeSwitch";
import { useChosenSetup, useSiteId } from "./useSiteContext";
import { WaitsToSend } from "./WaitsToSend";

const RoofPage = lazy(() => import("../stages/roof/RoofPage"));

/** Done, needs attention, open: a shape each, and the word for those who listen. */
function StateMark({ state }: { state: StageState }) {
  const words = { done: "done", attention: "needs attention", open: "open" }[state];
  return (
    <>
      <svg viewBox="0 0 12 12" className="size-3" aria-hidden="true">
        <circle cx="6" cy="6" r="4.6" fill="none" stroke="currentColor" strokeWidth="1.6" />
        {state === "done" && <circle cx="6" cy="6" r="4.6" fill="currentColor" />}
        {state === "attention" && <path d="M6 1.4 A4.6 4.6 0 0 0 6 10.6 Z" fill="currentColor" />}
      </svg>
      <span className="sr-only">({words})</span>
    </>
  );
}

const TAB =
  "flex items-center gap-2 border-b-4 border-transparent px-2 pt-1 text-bar-muted hover:text-bar-ink aria-[current=page]:border-bar-mark aria-[current=page]:font-bold aria-[current=page]:text-bar-ink";

export function Shell() {
  const siteId = useSiteId();
  const site = useSite(siteId);
  const heard = useSiteEvents(siteId);
  const chosen = useChosenSetup();
  const pathname = useLocation({ select: (at) => at.pathname });
  const roof = pathname.endsWith("/roof");
  const bar = useRef<HTMLElement>(null);
  const stages = site.data?.stages.length;
  // On a phone the bar is longer than the screen: the stage in use is brought into view.
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is for another place and for a bar that has filled
  useEffect(() => {
    const current = bar.current?.querySelector<HTMLElement>("[aria-current=page]");
    if (current && bar.current) bar.current.scrollLeft = current.offsetLeft - 40;
  }, [pathname, stages]);

  if (site.isError && !site.data) {
    return (
      <main className="mx-auto max-w-xl p-10">
        <h1 className="text-2xl font-bold">This site cannot be opened.</h1>
        <p className="mt-3 text-lg">{site.error.message}</p>
        <p className="mt-6">
          <Link to="/" className="font-semibold text-action underline">
            All sites
          </Link>
        </p>
      </main>
    );
  }

  const silence = !heard && (
    <p role="status" className="bg-lamp-wash px-5 py-2 font-semibold">
      Open Beacon does not answer; trying again. What you enter stays in this browser until it does.
    </p>
  );
  if (roof)
    return (
      <>
        <Outbox />
        {silence}
        <Suspense fallback={null}>
          <RoofPage heard={heard} />
        </Suspense>
      </>
    );
  return (
    <div className="flex min-h-screen flex-col lg:h-screen print:h-auto!">
      <Shortcuts />
      <header className="flex flex-wrap items-stretch gap-x-4 gap-y-1 bg-bar px-5 text-bar-ink lg:min-h-15">
        <div className="flex min-w-0 items-center gap-3 py-2">
          <Link to="/" className="text-lg font-bold whitespace-nowrap">
            Open Beacon
          </Link>
          <span className="truncate text-bar-muted">{site.data?.site.name}</span>
        </div>
        <nav
          ref={bar}
          aria-label="Stages of the job"
          className="relative flex min-w-0 items-stretch gap-1.5 max-lg:w-full max-lg:overflow-x-auto"
        >
          {(site.data?.stages ?? []).map(({ stage, state }) => (
            <Link
              key={stage}
              to={`/sites/$siteId/${STAGES[stage].path}`}
              params={{ siteId }}
              search={(before) => before}
              className={TAB}
            >
              <StateMark state={state} />
              {STAGES[stage].name}
            </Link>
          ))}
        </nav>
        <div className="ml-auto flex items-center gap-4 py-2">
          <Link
            to="/sites/$siteId/settings"
            params={{ siteId }}
            className="rounded px-2 py-1 text-bar-muted hover:text-bar-ink aria-[current=page]:font-bold aria-[current=page]:text-bar-ink"
          >
            Settings
          </Link>
          <ThemeSwitch />
        </div>
      </header>
      <Outbox />
      {silence}
      {siteId && <WaitsToSend siteId={siteId} lines={site.data?.waits_to_send ?? []} />}
      <div className="flex min-h-0 flex-1 flex-col lg:grid lg:grid-cols-[15.5rem_minmax(0,1fr)_18.25rem] print:block!">
        <details className="border-b border-rule bg-side lg:hidden">
          <summary className="min-h-14 px-5 py-4 font-semibold">
            {chosen ? chosen.setup.label : "Positions"}
            <span className="font-normal text-muted">, change</span>
          </summary>
          <SetupList />
        </details>
        <aside
          aria-label="Positions and setups"
          className="border-rule bg-side max-lg:hidden lg:overflow-y-auto lg:border-r"
        >
          <SetupList />
        </aside>
        <main className="relative min-w-0 px-6 py-6 lg:overflow-y-auto print:overflow-visible!">
          <Outlet />
        </main>
        <aside
          aria-label="Heard now"
          className="border-rule bg-surface max-lg:border-t lg:overflow-y-auto lg:border-l"
        >
          <LinkStrip />
          {site.data?.settings.stand_in_url && <StandInDrawer view={site.data} />}
        </aside>
      </div>
    </div>
  );
}
