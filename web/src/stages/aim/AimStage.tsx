import { Link, useNavigate, useSearch } from "@tanstack/react-router";
import { useState } from "react";
import { useSite } from "../../api/queries";
import type { AimCriterion, SiteView } from "../../api/schema";
import { SweepRose } from "../../drawings/SweepRose";
import { useSaveSettings, useSiteId } from "../../shell/useSiteContext";
import { Button, buttonClass } from "../../ui/Button";
import { ChoiceField } from "../../ui/Field";
import { counted, halves, whole } from "../../ui/format";
import { SetupOutlook } from "../SetupOutlook";
import { Section, StageHeader } from "../StageHeader";
import { angle } from "./angle";
import { Begin } from "./Begin";
import { LiveNumber } from "./LiveNumber";
import { NextStep } from "./NextStep";
import { Notes } from "./Notes";
import { Pair } from "./Pair";
import { Points } from "./Points";
import { useSweep, useSweeps } from "./queries";
import { Rehearsed } from "./Rehearsed";
import { WhichCell } from "./WhichCell";

/** The setup that a sweep came to: the one in use, else the newest. */
function madeBy(sweep: string, site: SiteView) {
  const of = site.positions
    .flatMap((position) => position.setups)
    .filter(({ setup }) => setup.origin?.kind === "sweep_result" && setup.origin.sweep_id === sweep);
  const inUse = of.find(({ setup }) => setup.id === site.settings.active_setup_id);
  return { made: inUse ?? of.at(-1), inUse };
}

/** What the sweep came to is the setup from now on: the next stage is one press away. */
function CarriedOn({ site, sweep }: { site: SiteView; sweep: string }) {
  const { made, inUse } = madeBy(sweep, site);
  if (!made) return null;
  return (
    <p className="mt-4 flex flex-wrap items-center gap-x-4 gap-y-2 border-l-4 border-structure pl-3 text-lg">
      {inUse
        ? `${made.label} is the setup now, as you set it.`
        : `This sweep set ${made.label}. Another setup is in use.`}
      <Link
        to="/sites/$siteId/log"
        params={{ siteId: site.site.id }}
        search={{ setup: made.setup.id }}
        className={buttonClass("filled")}
      >
        Test it
      </Link>
    </p>
  );
}

const SCHOOLS: [AimCriterion, string][] = [
  ["quality", "Cleanest signal (SINR)"],
  ["signal", "Strongest signal (RSRP)"],
  ["speed", "Fastest: test both"],
];
/** Sweeps: where to measure next, where the peak is, and how sure that is. */
export default function AimStage() {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const sweeps = useSweeps(siteId).data;
  const { sweep } = useSearch({ from: "/sites/$siteId" });
  const [anew, setAnew] = useState(false);
  const save = useSaveSettings(site);
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
          title="Turn the antenna and find the centre from both edges."
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
  const setups = site.positions.flatMap((position) => position.setups);
  const turned =
    madeBy(view.sweep.id, site).made ?? setups.find(({ setup }) => setup.id === view.sweep.setup_id);
  return (
    <>
      <StageHeader title={view.title} detail={view.detail} />
      {view.sweep.set_deg != null && <CarriedOn site={site} sweep={view.sweep.id} />}
      {site.settings.rehearsal && <Rehearsed siteId={siteId} view={view} />}
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
          <WhichCell siteId={siteId} view={view} />
          {view.fit && (
            <p className="mt-2 text-muted">
              Beam {whole(view.fit.beamwidth_deg)}°, {halves(view.fit.spread_db)} dB from point to point,{" "}
              {view.fit.enough ? "accurate enough; tighten the clamps" : "another point narrows it"}.
            </p>
          )}
        </div>
        <div className="flex flex-col gap-5">
          {site.settings.gateway && <LiveNumber siteId={siteId} />}
          <NextStep siteId={siteId} view={view} site={site} />
          <Link
            to="/sites/$siteId/roof"
            params={{ siteId }}
            search={(before) => before}
            className={buttonClass("outlined", "min-h-14 w-full")}
          >
            Roof view
          </Link>
        </div>
      </div>
      {view.others.length > 0 && (
        <Section title="Carrier by carrier">
          <ul>
            {view.others.map((one) => (
              <li key={one.words}>{one.words}</li>
            ))}
          </ul>
        </Section>
      )}
      <Points siteId={siteId} view={view} />
      <Notes siteId={siteId} view={view} zone={site.site.time_zone} />
      {turned && <SetupOutlook siteId={siteId} setupId={turned.setup.id} label={turned.label} />}
      <Pair />
      <Section title="Aimed for">
        <div className="max-w-sm">
          <ChoiceField
            label="Optimise for"
            hint="At a quiet site all three point the same way."
            value={view.criterion}
            choices={SCHOOLS}
            onChange={(aim_criterion) => save({ aim_criterion })}
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
                {one.position},{" "}
                {{ azimuth: "azimuth", tilt: "tilt", ports: "port maps" }[one.sweep.axis ?? "azimuth"]}
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
