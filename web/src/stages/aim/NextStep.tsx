import { Progress } from "radix-ui";
import { useEffect, useState } from "react";
import { ApiError, answered, api, newId } from "../../api/client";
import { clockOffset, deliver, useOutbox } from "../../api/outbox";
import type { SiteView, SweepAxis, SweepView } from "../../api/schema";
import { saveSettings } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { whole } from "../../ui/format";
import { wholeTurn } from "../../ui/number";
import { useAction } from "../../ui/useAction";
import { angle } from "./angle";
import { Compass } from "./Compass";
import { Settle } from "./Settle";
import { TypedPoint } from "./TypedPoint";

/** How long the antenna is held for a point that waits on the phone, s: the computer listens meanwhile. */
const HELD_S = 20;
/** A server that has not answered by then is taken to be out of reach, ms. */
const PATIENCE_MS = 6000;

/** The one press of this step: on a phone it stays in view. */
const MAIN = "mt-2 min-h-14 w-full max-lg:sticky max-lg:bottom-3";

/** The next step: where to turn, how long to hold, one press to measure. */
export function NextStep({ siteId, view, site }: { siteId: string; view: SweepView; site: SiteView }) {
  const axis = view.sweep.axis ?? "azimuth";
  const stopsPath = `/api/sites/${siteId}/sweeps/${view.sweep.id}/stops`;
  const typedPath = `/api/sites/${siteId}/sweeps/${view.sweep.id}/typed-stops`;
  const waiting = useOutbox().filter((one) => one.path === stopsPath || one.path === typedPath).length;
  // While the computer is away its plan goes on: points that wait here count as taken.
  const ahead = view.stops.length + waiting;
  const planned = view.plan.stops[ahead]?.angle_deg;
  const asked = waiting > 0 ? (planned ?? view.ask.angle_deg) : view.ask.angle_deg;
  // `by`: how far the arrows moved it; none where the compass said where it points already.
  const [moved, setMoved] = useState<{ from: number; to: number; by?: number }>();
  const [held, setHeld] = useState<{ to: number; until: number }>();
  const here = moved?.from === asked ? moved : { to: asked, by: 0 };
  const { to } = here;
  const turn = waiting > 0 ? view.planned_turns_deg[ahead] : view.turn_deg;
  const step = view.plan.step_deg;
  const by = (degrees: number) =>
    setMoved({
      from: asked,
      to: axis === "tilt" ? to + degrees : wholeTurn(to + degrees),
      ...(here.by === undefined ? {} : { by: here.by + degrees }),
    });
  const ends = view.ask.ask === "set" || view.ask.ask === "stopped";
  const samples = "samples" in view.ask ? view.ask.samples : 4;
  const path = { id: siteId, sweep: view.sweep.id };
  const measure = useAction(siteId, async () => {
    const stop = { id: newId(), angle_deg: to, samples };
    const pressed_at = new Date().toISOString();
    try {
      await answered(
        api.POST("/api/sites/{id}/sweeps/{sweep}/stops", {
          params: { path },
          body: stop,
          signal: AbortSignal.timeout(PATIENCE_MS),
        }),
      );
      setMoved(undefined);
    } catch (error) {
      if (!(error instanceof ApiError) || error.problem.status !== 0) throw error;
      await deliver({
        label: `Point at ${angle(to, axis)}`,
        method: "POST",
        path: stopsPath,
        type: "application/json",
        body: JSON.stringify({ ...stop, pressed_at, clock_offset_ms: clockOffset(), held_s: HELD_S }),
      });
      setMoved(undefined);
      setHeld({ to, until: Date.parse(pressed_at) + HELD_S * 1000 });
    }
  });
  const end = useAction(siteId, async (set_deg: number | null) => {
    // Somebody on the ground may have set it meanwhile: a phone that was away does not overwrite that.
    const body = { set_deg, archived: false, seen: { set_deg: view.sweep.set_deg ?? null } };
    try {
      await answered(api.PUT("/api/sites/{id}/sweeps/{sweep}", { params: { path }, body }));
    } catch (error) {
      if (!(error instanceof ApiError) || error.problem.status !== 0) throw error;
      await deliver({
        label: set_deg === null ? "Take the sweep up again" : `Set to ${angle(set_deg, axis)}`,
        method: "PUT",
        path: `/api/sites/${siteId}/sweeps/${view.sweep.id}`,
        type: "application/json",
        body: JSON.stringify(body),
      });
    }
  });
  const cancel = useAction(siteId, () =>
    answered(api.DELETE("/api/sites/{id}/sweeps/{sweep}/stops", { params: { path } })),
  );
  const turnStandIn = useAction(siteId, async () => {
    const pose = await answered(api.GET("/api/sites/{id}/stand-in", { params: { path: { id: siteId } } }));
    await saveSettings(site, { stand_in_follows: false });
    const turned = axis === "tilt" ? { tilt_deg: to } : { azimuth_deg: to };
    await answered(
      api.PUT("/api/sites/{id}/stand-in", {
        params: { path: { id: siteId } },
        body: { ...pose, antenna: "external", ...turned },
      }),
    );
  });
  const { measuring } = view;
  if (view.sweep.set_deg != null)
    return (
      <section aria-label="Next step">
        <p className="text-lg">
          This sweep ended: the antenna was set to <strong>{angle(view.sweep.set_deg, axis)}</strong>.
        </p>
        <Button className="mt-3" onClick={() => end.run(null)}>
          Resume sweep
        </Button>
      </section>
    );
  if (measuring?.running && measuring.testing && waiting === 0)
    return (
      <section aria-label="Next step">
        <p role="status" className="text-lg font-semibold">
          Leave {angle(measuring.angle_deg, axis)} plugged in: a speed test is running.
        </p>
        <p>The point is kept. Change over when this is done.</p>
        <Button className="mt-2 min-h-14 w-full" onClick={() => cancel.run()}>
          Stop the speed test
        </Button>
      </section>
    );
  if (measuring?.running && waiting === 0)
    return (
      <section aria-label="Next step">
        <p className="text-lg font-semibold">Hold still at {angle(measuring.angle_deg, axis)}.</p>
        <Progress.Root
          value={measuring.taken}
          max={measuring.planned}
          aria-label="Samples at this bearing"
          className="mt-2 h-4 overflow-hidden rounded-full border border-edge bg-ground"
        >
          <Progress.Indicator
            className="h-full bg-lamp transition-[width] duration-200"
            style={{ width: `${(100 * measuring.taken) / measuring.planned}%` }}
          />
        </Progress.Root>
        <p>
          {measuring.taken} of {measuring.planned} independent samples
        </p>
        <Button className="mt-2 min-h-14 w-full" onClick={() => cancel.run()}>
          Cancel this point
        </Button>
      </section>
    );
  return (
    <section aria-label="Next step">
      {waiting > 0 && (
        <p className="mb-1 font-semibold">
          {waiting === 1 ? "One point waits" : `${waiting} points wait`} on this phone; the computer goes on
          listening to the gateway.
        </p>
      )}
      {held && <HoldStill to={angle(held.to, axis)} until={held.until} onDone={() => setHeld(undefined)} />}
      <p className="text-lg">{waiting > 0 ? "Meanwhile, the next of the plan:" : view.next}</p>
      <div className="mt-1 flex items-center gap-4">
        <p className="text-6xl leading-none font-bold tabular-nums">{angle(to, axis)}</p>
        {turn != null && here.by !== undefined && <Turn degrees={turn + here.by} axis={axis} />}
      </div>
      {axis === "ports" && view.port_maps[to >= 0.5 ? 1 : 0] && (
        <p className="mt-1 text-lg">Plug {view.port_maps[to >= 0.5 ? 1 : 0]}.</p>
      )}
      {axis === "azimuth" && view.declination_deg != null && (
        <p className="mt-1 text-muted">
          {whole(wholeTurn(to - view.declination_deg))}° on a compass, away from steel
        </p>
      )}
      {measuring?.problem && (
        <p role="alert" className="mt-2 font-semibold text-starved">
          {measuring.problem} Nothing of that point was kept.
        </p>
      )}
      {axis !== "ports" && (
        <div className="mt-3 grid grid-cols-2 gap-2">
          <Button className="min-h-14" onClick={() => by(-step)}>
            ◀ {step}° {axis === "tilt" ? "down" : "left"}
          </Button>
          <Button className="min-h-14" onClick={() => by(step)}>
            {step}° {axis === "tilt" ? "up" : "right"} ▶
          </Button>
        </div>
      )}
      {axis === "azimuth" && (
        <Compass
          declination={view.declination_deg ?? 0}
          onTake={(heading) => setMoved({ from: asked, to: wholeTurn(Math.round(heading)) })}
        />
      )}
      {view.sweep.attach === "restarted_to_rescan" && (
        <Settle sweep={view.sweep.id} siteId={siteId} settlesS={view.restart_settles_s} />
      )}
      {site.settings.stand_in_url && axis !== "ports" && (
        <Button className="mt-2 min-h-14 w-full" onClick={() => turnStandIn.run()}>
          Turn the simulated antenna there
        </Button>
      )}
      {ends && waiting === 0 ? (
        <>
          <Button look="filled" className={MAIN} onClick={() => end.run(to)}>
            {axis === "ports" ? "It is plugged and tight" : "It is set and tight"}
          </Button>
          {site.settings.gateway ? (
            <Button className="mt-2 min-h-14 w-full" onClick={() => measure.run()}>
              Measure here all the same
            </Button>
          ) : (
            <TypedPoint siteId={siteId} view={view} to={to} only={false} />
          )}
        </>
      ) : (
        <>
          {site.settings.gateway && (
            <Button look="filled" className={MAIN} onClick={() => measure.run()}>
              {axis === "ports"
                ? `It is plugged as ${angle(to, axis)}: measure`
                : "I am pointing there: measure"}
            </Button>
          )}
          <TypedPoint siteId={siteId} view={view} to={to} only={!site.settings.gateway} />
          {view.fit && (
            <Button
              look="plain"
              className="mt-1 min-h-14 w-full"
              onClick={() => end.run(view.fit?.recommended_deg ?? to)}
            >
              Stop here: it is set to {angle(view.fit.recommended_deg, axis)}
            </Button>
          )}
        </>
      )}
    </section>
  );
}

/** Which way and how far from the last point, readable at arm's length. */
function Turn({ degrees, axis }: { degrees: number; axis: SweepAxis }) {
  if (Math.abs(degrees) < 0.5) return null;
  const words = axis === "tilt" ? (degrees < 0 ? "down" : "up") : degrees < 0 ? "left" : "right";
  const rotate = { right: 90, left: -90, up: 0, down: 180 }[words];
  return (
    <p className="flex items-center gap-2 text-xl font-bold">
      <svg viewBox="0 0 24 24" className="size-14" aria-hidden="true">
        <path
          d="M12 2 L21 13 H15.5 V22 H8.5 V13 H3 Z"
          fill="var(--action)"
          transform={`rotate(${rotate} 12 12)`}
        />
      </svg>
      {whole(Math.abs(degrees))}° {words}
    </p>
  );
}

/** Counts down while a point that waits on the phone is held. */
function HoldStill({ to, until, onDone }: { to: string; until: number; onDone: () => void }) {
  const [left, setLeft] = useState(() => Math.ceil((until - Date.now()) / 1000));
  useEffect(() => {
    const timer = setInterval(() => {
      const now = Math.ceil((until - Date.now()) / 1000);
      setLeft(now);
      if (now <= 0) onDone();
    }, 250);
    return () => clearInterval(timer);
  }, [until, onDone]);
  return (
    <p role="status" className="mb-2 text-2xl font-bold">
      Hold still at {to}: {Math.max(0, left)} s
    </p>
  );
}
