import { Link, useSearch } from "@tanstack/react-router";
import { useSite } from "../../api/queries";
import type { BandsView, SiteView, TrialGoal } from "../../api/schema";
import { BandSpectrum } from "../../drawings/BandSpectrum";
import { useSaveSettings, useSiteId } from "../../shell/useSiteContext";
import { ChoiceField } from "../../ui/Field";
import { counted, decibelsOf, moment } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { SetupOutlook } from "../SetupOutlook";
import { Section, StageHeader } from "../StageHeader";
import { Begin } from "./Begin";
import { Combinations } from "./Combinations";
import { Kept } from "./Kept";
import { trialSettings, useBands } from "./queries";
import { Restoring, RunningRound } from "./RunningRound";
import { TrialLedger } from "./TrialLedger";

const GOALS: readonly (readonly [TrialGoal, string])[] = [
  ["household", "All needs together"],
  ["download", "Download"],
  ["upload", "Upload"],
  ["latency", "Latency under load"],
];

/** Which bands are there, which choices were tried, which one stays. */
export default function BandsStage() {
  const siteId = useSiteId();
  const site = useSite(siteId).data;
  const { part } = useSearch({ from: "/sites/$siteId" });
  const found = useBands(siteId, part);
  const view = found.data;
  if (found.isError && !found.data) return <p role="alert">{found.error.message}</p>;
  if (!site || !view) return null;
  const setups = site.positions.flatMap((position) => position.setups);
  const active = setups.find(({ setup }) => setup.id === site.settings.active_setup_id);
  return (
    <>
      <StageHeader title={view.title} detail={view.detail} />
      <Restoring siteId={siteId} view={view} />
      {view.running_round?.running && <RunningRound siteId={siteId} view={view} />}
      {view.rows.length > 0 && <TrialLedger siteId={siteId} view={view} />}
      {view.winners.length > 0 && <Winners view={view} />}
      <Offers view={view} site={site} />
      {!view.running_round?.running && <Begin siteId={siteId} view={view} site={site} />}
      <Kept siteId={siteId} view={view} />
      {active && <SetupOutlook siteId={siteId} setupId={active.setup.id} label={active.label} />}
      <Section title="Where folklore misleads">
        <div className="flex flex-col">
          {view.explanations.map((one) => (
            <details key={one.question} className="border-t border-rule py-2 first:border-t-0">
              <summary className="min-h-9 py-1 font-semibold">{one.question}</summary>
              <p className="max-w-3xl">{one.answer}</p>
              {one.here && <p className="mt-1 max-w-3xl font-semibold">{one.here}</p>}
            </details>
          ))}
        </div>
      </Section>
      {view.rounds.length > 0 && (
        <Section title="Rounds of trials">
          <ul>
            {view.rounds.map((one) => (
              <li key={one.round.id} className="border-t border-rule py-2 first:border-t-0">
                <span className="font-semibold">{moment(one.round.started_at, site.site.time_zone)}</span>,{" "}
                {counted(one.tests, "test")}. {one.words}
              </li>
            ))}
          </ul>
        </Section>
      )}
    </>
  );
}

function Winners({ view }: { view: BandsView }) {
  return (
    <Section title="Best for what">
      <dl className="grid gap-x-6 gap-y-2 md:grid-cols-[11rem_1fr]">
        {view.winners.map((one) => (
          <div key={one.goal} className="contents">
            <dt className="font-semibold first-letter:uppercase">{one.goal}</dt>
            <dd>{one.words}</dd>
          </div>
        ))}
        {view.by_hour.map((one) => (
          <div key={one.words} className="contents">
            <dt className="font-semibold">
              {one.hour.from_hour} to {one.hour.to_hour} o'clock
            </dt>
            <dd>{one.words}</dd>
          </div>
        ))}
      </dl>
      {view.repeat && <p className="mt-3 max-w-3xl">{view.repeat}</p>}
    </Section>
  );
}

const YES = (value: boolean | null | undefined) => (value === true ? "yes" : value === false ? "no" : "–");

function Offers({ view, site }: { view: BandsView; site: SiteView }) {
  const save = useSaveSettings(site);
  const shown = view.offers.filter((one) => one.seen || one.on_mast || one.carriers.length > 0);
  return (
    <Section
      title={view.mast ? `Bands here, from ${view.mast}` : "Bands here"}
      aside={
        <div className="w-64 max-sm:w-full">
          <ChoiceField
            label="Optimise for"
            value={view.goal}
            choices={GOALS}
            onChange={(goal) => save({ trials: { ...trialSettings(site), goal } })}
          />
        </div>
      }
    >
      <BandSpectrum offers={view.offers} locked={view.kept} />
      {shown.length > 0 && (
        <details className="mt-3">
          <summary className="font-semibold">
            Band by band: mast, gateway, antenna, feed line, gain and loss
          </summary>
          <TableBox label="Bands here">
            <table className="mt-2 w-full text-left">
              <thead className="text-sm text-muted">
                <tr>
                  {[
                    "Band",
                    "Seen",
                    "Mast",
                    "Gateway",
                    "Antenna",
                    "Feed line",
                    "Gain",
                    "Feed loss",
                    "Overlaps",
                  ].map((name) => (
                    <th key={name} scope="col" className="py-1 pr-4 font-semibold">
                      {name}
                    </th>
                  ))}
                </tr>
              </thead>
              <tbody>
                {shown.map((one) => (
                  <tr key={one.name} className="border-t border-rule">
                    <th scope="row" className="py-1.5 pr-4">
                      {one.name}
                      <span className="block text-sm font-normal text-muted">
                        {one.carriers.map((carrier) => `${carrier.bandwidth_mhz} MHz`).join(", ")}
                        {one.carriers.some((carrier) => carrier.heard_as !== "in_use") && ", estimated"}
                      </span>
                    </th>
                    <td className="pr-4">{one.seen ? "yes" : "no"}</td>
                    <td className="pr-4">{one.on_mast ? "yes" : "–"}</td>
                    <td className="pr-4">{YES(one.gateway)}</td>
                    <td className="pr-4">{YES(one.antenna)}</td>
                    <td className="pr-4">{YES(one.feed_line)}</td>
                    <td className="pr-4">{decibelsOf(one.antenna_gain_dbi, "dBi")}</td>
                    <td className="pr-4">{decibelsOf(one.feed_loss_db, "dB")}</td>
                    <td>{one.shares_with.join(", ") || "–"}</td>
                  </tr>
                ))}
              </tbody>
            </table>
          </TableBox>
          <Combinations site={site} kept={view.combinations_text} />
        </details>
      )}
      {!view.mast && (
        <p className="mt-3">
          What else the mast has is not known.{" "}
          <Link
            to="/sites/$siteId/survey"
            params={{ siteId: site.site.id }}
            search={(before) => before}
            className="font-semibold text-action underline"
          >
            Enter the mast with its cells on Survey
          </Link>
          , and it counts here.
        </p>
      )}
    </Section>
  );
}
