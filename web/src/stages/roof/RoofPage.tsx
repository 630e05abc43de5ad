import { Link, useSearch } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { useSite } from "../../api/queries";
import { SweepRose } from "../../drawings/SweepRose";
import { useSiteId } from "../../shell/useSiteContext";
import { age } from "../../ui/format";
import { LiveNumber } from "../aim/LiveNumber";
import { NextStep } from "../aim/NextStep";
import { Notes } from "../aim/Notes";
import { useSweep, useSweeps } from "../aim/queries";
import { WhichCell } from "../aim/WhichCell";
import { NoteEvent } from "../log/timeline/NoteEvent";

/** The page for the hand at the antenna: sun theme, one column, screen kept awake, nothing else. */
export default function RoofPage({ heard }: { heard: boolean }) {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const sweeps = useSweeps(siteId).data;
  const { sweep } = useSearch({ from: "/sites/$siteId" });
  const chosen =
    sweep ?? sweeps?.find((one) => one.sweep.ended_at == null)?.sweep.id ?? sweeps?.[0]?.sweep.id;
  const found = useSweep(siteId, chosen);
  const view = found.data;
  useSun();
  const awake = useAwake();
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 5000);
    return () => clearInterval(timer);
  }, []);
  if (!site) return null;
  return (
    <main className="mx-auto flex max-w-md flex-col gap-5 p-4">
      <div className="flex items-baseline justify-between gap-3">
        <h1 className="text-xl font-bold">{site.site.name}</h1>
        <Link
          to="/sites/$siteId/aim"
          params={{ siteId }}
          search={(before) => before}
          className="flex min-h-14 items-center px-2 font-semibold text-action underline"
        >
          All of Aim
        </Link>
      </div>
      {site.settings.gateway && <LiveNumber siteId={siteId} />}
      {view ? (
        <>
          <NextStep siteId={siteId} view={view} site={site} />
          <WhichCell siteId={siteId} view={view} />
          <section aria-label="The fit so far">
            <p className="text-lg font-semibold">{view.title}</p>
            {!heard && (
              <p>
                Worked out {age(Math.max(0, (now - found.dataUpdatedAt) / 1000))} ago; the computer fits, and
                is out of reach now.
              </p>
            )}
            {view.sweep.axis === "azimuth" && (
              <SweepRose
                stops={view.stops}
                fit={view.fit}
                masts={view.masts}
                now={view.measuring?.running ? view.measuring.angle_deg : undefined}
              />
            )}
          </section>
          <Notes siteId={siteId} view={view} zone={site.site.time_zone} />
        </>
      ) : (
        <p className="text-lg">No sweep is begun. Begin one under “All of Aim”.</p>
      )}
      <section aria-label="Note an event">
        <h2 className="mb-2 text-lg font-semibold">Note an event</h2>
        <NoteEvent siteId={siteId} />
      </section>
      <p className="text-sm text-muted">
        {awake
          ? "The screen is kept awake."
          : "This browser does not keep the screen awake here: set the phone's screen time-out longer, or use HTTPS."}
      </p>
    </main>
  );
}

/** The sun theme while this page is open. */
function useSun(): void {
  useEffect(() => {
    const before = document.documentElement.dataset.theme;
    document.documentElement.dataset.theme = "sun";
    return () => {
      if (before) document.documentElement.dataset.theme = before;
    };
  }, []);
}

/** Keeps the screen awake where the browser lets it; again after the page was hidden. */
function useAwake(): boolean {
  const [awake, setAwake] = useState(false);
  useEffect(() => {
    if (!("wakeLock" in navigator)) return;
    let lock: WakeLockSentinel | undefined;
    let left = false;
    const ask = () =>
      navigator.wakeLock
        .request("screen")
        .then((got) => {
          if (left) return void got.release();
          lock = got;
          setAwake(true);
          got.addEventListener("release", () => setAwake(false));
        })
        .catch(() => setAwake(false));
    const shown = () => {
      if (document.visibilityState === "visible") void ask();
    };
    void ask();
    document.addEventListener("visibilitychange", shown);
    return () => {
      left = true;
      document.removeEventListener("visibilitychange", shown);
      void lock?.release();
    };
  }, []);
  return awake;
}
