import { useNavigate, useSearch } from "@tanstack/react-router";
import { Progress } from "radix-ui";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh, useSite } from "../../api/queries";
import type { Attach, School, SiteView, SweepAxis, SweepView } from "../../api/schema";
import { SweepRose } from "../../drawings/SweepRose";
import { Button } from "../../kit/Button";
import { ChoiceField, TextField } from "../../kit/Field";
import { bearing, counted, halves, whole } from "../../kit/format";
import { useNotice } from "../../kit/notices";
import { TableBox } from "../../kit/TableBox";
import { saveSettings, useSiteId } from "../../shell/useSiteContext";
import { Section, StageHeader } from "../StageHeader";
import { LiveNumber } from "./LiveNumber";
import { useSweep, useSweeps } from "./queries";

const SCHOOLS: [School, string][] = [
  ["quality", "Cleanest signal (SINR)"],
  ["signal", "Strongest signal (RSRP)"],
  ["speed", "Fastest: test both"],
];
const ATTACHES: [Attach, string][] = [
  ["kept_attached", "Keep it attached: only the antenna changes"],
  ["restarted_to_rescan", "Restart it after each turn: it may find better cells"],
];
const AXES: [SweepAxis, string][] = [
  ["azimuth", "Round the compass (azimuth)"],
  ["tilt", "Up and down (tilt)"],
];

/** Sweeps: where to measure next, where the peak is, and how sure that is. */
export default function AimStage() {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const sweeps = useSweeps(siteId).data;
  const { sweep } = useSearch({ from: "/sites/$siteId" });
  const [anew, setAnew] = useState(false);
  const chosen = sweep ?? sweeps?.[0]?.sweep.id;
  const view = useSweep(siteId, chosen).data;
  const navigate = useNavigate();
  if (!site || !sweeps) return null;
  const open = (id: string) =>
    void navigate({ to: ".", search: (before) => ({ ...before, sweep: id }), resetScroll: false });
  if (sweeps.length === 0 || anew)
    return (
      <>
        <StageHeader
          title="Turn the antenna, and let the flanks tell where the middle is."
          detail="A beam is flat on top: ten degrees off a 60° beam cost 0.3 dB, which no eye finds. Points on both sides do."
        />
        <Begin
          site={site}
          onBegun={(id) => {
            setAnew(false);
            open(id);
          }}
        />
      </>
    );
  if (!view) return null;
  return (
    <>
      <StageHeader title={view.title} detail={view.detail} />
      <div className="mt-5 grid items-start gap-6 xl:grid-cols-[minmax(0,1fr)_20rem]">
        <div className="max-xl:order-last">
          {view.sweep.axis === "azimuth" && (
            <SweepRose
              stops={view.stops}
              fit={view.fit}
              masts={view.masts}
              now={view.measuring?.running ? view.measuring.angle_deg : undefined}
            />
          )}
          {view.left_out && <p className="mt-2">{view.left_out}</p>}
          {view.fit && (
            <p className="mt-2 text-muted">
              Beam {whole(view.fit.beamwidth_deg)}°, {halves(view.fit.spread_db)} dB from point to point,{" "}
              {view.fit.enough ? "sure enough to tighten" : "a further point makes it surer"}.
            </p>
          )}
        </div>
        <div className="flex flex-col gap-5">
          <LiveNumber siteId={siteId} />
          <Next siteId={siteId} view={view} site={site} />
        </div>
      </div>
      <Points siteId={siteId} view={view} />
      <Section title="Aimed for">
        <div className="max-w-sm">
          <ChoiceField
            label="What counts"
            hint="At a quiet site all three point the same way."
            value={view.school}
            choices={SCHOOLS}
            onChange={(school) => void saveSettings(site, { school })}
          />
        </div>
      </Section>
      <Section title="Sweeps" aside={<Button onClick={() => setAnew(true)}>Begin another sweep</Button>}>
        <ul className="flex flex-col">
          {sweeps.map((one) => (
            <li
              key={one.sweep.id}
              className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-2"
            >
              <Button
                look="plain"
                aria-current={one.sweep.id === chosen ? "true" : undefined}
                onClick={() => open(one.sweep.id)}
              >
                {one.position}, {one.sweep.axis === "azimuth" ? "azimuth" : "tilt"}
              </Button>
              <span className="text-muted">
                {counted(one.stops, "point")},{" "}
                {one.sweep.set_deg != null
                  ? `set to ${angle(one.sweep.set_deg, one.sweep.axis)}`
                  : "going on"}
              </span>
            </li>
          ))}
        </ul>
      </Section>
    </>
  );
}

const angle = (degrees: number, axis: SweepAxis | undefined) =>
  axis === "tilt" ? `${halves(Math.abs(degrees))}° ${degrees < 0 ? "down" : "up"}` : bearing(degrees);

/** The next step: where to turn, how long to hold, one press to measure. */
function Next({ siteId, view, site }: { siteId: string; view: SweepView; site: SiteView }) {
  const notice = useNotice();
  const tell = (error: unknown) => notice(error instanceof Error ? error.message : "It did not work.");
  const axis = view.sweep.axis ?? "azimuth";
  const asked = view.ask.angle_deg;
  const [moved, setMoved] = useState<{ from: number; to: number }>();
  const to = moved?.from === asked ? moved.to : asked;
  const step = view.plan.step_deg;
  const by = (degrees: number) =>
    setMoved({ from: asked, to: axis === "tilt" ? to + degrees : (to + degrees + 360) % 360 });
  const samples = view.ask.ask === "set" ? 4 : view.ask.samples;
  const path = { id: siteId, sweep: view.sweep.id };
  const measure = async () => {
    try {
      await answered(
        api.POST("/api/sites/{id}/sweeps/{sweep}/stops", {
          params: { path },
          body: { id: newId(), angle_deg: to, samples },
        }),
      );
      setMoved(undefined);
      refresh(siteId);
    } catch (error) {
      tell(error);
    }
  };
  const end = async (set_deg: number | null) => {
    try {
      await answered(
        api.PUT("/api/sites/{id}/sweeps/{sweep}", { params: { path }, body: { set_deg, archived: false } }),
      );
      refresh(siteId);
    } catch (error) {
      tell(error);
    }
  };
  const turnStandIn = async () => {
    try {
      const pose = await answered(api.GET("/api/sites/{id}/stand-in", { params: { path: { id: siteId } } }));
      await saveSettings(site, { stand_in_follows: false });
      const turned = axis === "tilt" ? { tilt_deg: to } : { azimuth_deg: to };
      await answered(
        api.PUT("/api/sites/{id}/stand-in", {
          params: { path: { id: siteId } },
          body: { ...pose, antenna: "external", ...turned },
        }),
      );
      refresh(siteId);
    } catch (error) {
      tell(error);
    }
  };
  const { measuring } = view;
  if (view.sweep.set_deg != null)
    return (
      <section aria-label="Next step">
        <p className="text-lg">
          This sweep ended: the antenna was set to <strong>{angle(view.sweep.set_deg, axis)}</strong>. Log it
          as a setup, with speed tests.
        </p>
        <Button className="mt-3" onClick={() => void end(null)}>
          Take it up again
        </Button>
      </section>
    );
  if (measuring?.running)
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
        <Button
          className="mt-2 min-h-14 w-full"
          onClick={() =>
            void answered(api.DELETE("/api/sites/{id}/sweeps/{sweep}/stops", { params: { path } })).catch(
              tell,
            )
          }
        >
          Cancel this point
        </Button>
      </section>
    );
  return (
    <section aria-label="Next step">
      <p className="text-lg">{view.next}</p>
      <p className="mt-1 text-6xl leading-none font-bold tabular-nums">{angle(to, axis)}</p>
      {axis === "azimuth" && view.declination_deg != null && (
        <p className="mt-1 text-muted">
          {whole((to - view.declination_deg + 360) % 360)}° on a compass; steel near it pulls the needle
        </p>
      )}
      {measuring?.problem && (
        <p role="alert" className="mt-2 font-semibold text-starved">
          {measuring.problem} Nothing of that point was kept.
        </p>
      )}
      <div className="mt-3 grid grid-cols-2 gap-2">
        <Button className="min-h-14" onClick={() => by(-step)}>
          ◀ {step}° {axis === "tilt" ? "down" : "left"}
        </Button>
        <Button className="min-h-14" onClick={() => by(step)}>
          {step}° {axis === "tilt" ? "up" : "right"} ▶
        </Button>
      </div>
      {site.settings.stand_in_url && (
        <Button className="mt-2 min-h-14 w-full" onClick={() => void turnStandIn()}>
          Turn the simulated antenna there
        </Button>
      )}
      {view.ask.ask === "set" ? (
        <>
          <Button look="filled" className="mt-2 min-h-14 w-full" onClick={() => void end(to)}>
            It is set and tight
          </Button>
          <Button className="mt-2 min-h-14 w-full" onClick={() => void measure()}>
            Measure here all the same
          </Button>
        </>
      ) : (
        <>
          <Button look="filled" className="mt-2 min-h-14 w-full" onClick={() => void measure()}>
            I am pointing there: measure
          </Button>
          {view.fit && (
            <Button
              look="plain"
              className="mt-1 w-full"
              onClick={() => void end(view.fit?.recommended_deg ?? to)}
            >
              Stop here: it is set to {angle(view.fit.recommended_deg, axis)}
            </Button>
          )}
        </>
      )}
    </section>
  );
}

function Points({ siteId, view }: { siteId: string; view: SweepView }) {
  const notice = useNotice();
  if (view.stops.length === 0) return null;
  const leave = (stop: string, left_out: boolean) =>
    void answered(
      api.PUT("/api/sites/{id}/sweeps/{sweep}/stops/{stop}", {
        params: { path: { id: siteId, sweep: view.sweep.id, stop } },
        body: { left_out },
      }),
    )
      .then(() => refresh(siteId))
      .catch((error: Error) => notice(error.message));
  return (
    <Section title="Points">
      <TableBox label="Points of this sweep">
        <table className="w-full border-collapse text-left">
          <thead className="text-sm text-muted">
            <tr>
              <th className="py-1 pr-4 font-semibold">Angle</th>
              <th className="pr-4 font-semibold">Signal (RSRP), dBm</th>
              <th className="pr-4 font-semibold">Clean (SINR), dB</th>
              <th className="pr-4 font-semibold">Samples</th>
              <th className="font-semibold">In the fit</th>
            </tr>
          </thead>
          <tbody>
            {view.stops.map((stop) => (
              <tr key={stop.id} className="border-t border-rule">
                <td className="py-1 pr-4 font-semibold">{angle(stop.angle_deg, view.sweep.axis)}</td>
                <td className="pr-4">
                  {stop.rsrp_dbm != null ? whole(stop.rsrp_dbm) : stop.left_out ? "left out" : "another cell"}
                </td>
                <td className="pr-4">{stop.sinr_db == null ? "" : halves(stop.sinr_db)}</td>
                <td className="pr-4">{stop.samples}</td>
                <td>
                  {stop.outlier && "hardly counts "}
                  <Button look="plain" onClick={() => leave(stop.id, !stop.left_out)}>
                    {stop.left_out ? "Take it in again" : "Leave it out"}
                  </Button>
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableBox>
    </Section>
  );
}

function Begin({ site, onBegun }: { site: SiteView; onBegun: (id: string) => void }) {
  const siteId = site.site.id;
  const positions = site.positions.filter((one) => !one.position.archived_at).map((one) => one.position);
  const [position, setPosition] = useState(positions.at(-1)?.id ?? "");
  const [axis, setAxis] = useState<SweepAxis>("azimuth");
  const [attach, setAttach] = useState<Attach>("kept_attached");
  const [expected, setExpected] = useState("");
  const [problem, setProblem] = useState("");
  if (positions.length === 0)
    return <p className="mt-4 text-lg">A sweep needs a place to stand: add a position under Mount first.</p>;
  const begin = async () => {
    const typed = expected.trim() === "" ? null : Number(expected.replace(",", "."));
    if (typed !== null && !Number.isFinite(typed)) {
      setProblem("Write the bearing as a number of degrees, 143 for instance, or leave it empty.");
      return;
    }
    const id = newId();
    try {
      await answered(
        api.POST("/api/sites/{id}/sweeps", {
          params: { path: { id: siteId } },
          body: { id, position_id: position, axis, attach, expected_deg: typed },
        }),
      );
      refresh(siteId);
      onBegun(id);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It did not work.");
    }
  };
  return (
    <form
      aria-label="Begin a sweep"
      className="mt-5 flex max-w-xl flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <ChoiceField
        label="At"
        value={position}
        choices={positions.map((one): [string, string] => [one.id, one.name])}
        onChange={setPosition}
      />
      <ChoiceField label="Turn it" value={axis} choices={AXES} onChange={setAxis} />
      <ChoiceField label="The gateway meanwhile" value={attach} choices={ATTACHES} onChange={setAttach} />
      <TextField
        label={
          axis === "azimuth" ? "Mast expected at, degrees from true north" : "Mast expected at, degrees up"
        }
        hint="Left empty, the survey's best mast for this position is taken; without one the sweep goes all round."
        value={expected}
        onChange={setExpected}
        inputMode="decimal"
      />
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      <p className="text-muted">
        Before you climb: somebody near, ladder tied, dry and calm weather, far from power lines. Keep off a
        transmitting antenna's face. Local rules and a licensed installer have the last word.
      </p>
      <div>
        <Button look="filled" type="submit">
          Begin the sweep
        </Button>
      </div>
    </form>
  );
}
