import { useSites, useTrackRecord, useTrackRecords } from "../../api/queries";
import type { Tracked, TrackedQuantity, TrackedSetup, TrackRecordView } from "../../api/schema";
import { moment, range, rough, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";

const UNITS: Record<TrackedQuantity, string> = {
  rsrp: "dBm",
  sinr: "dB",
  download: "Mbit/s",
  upload: "Mbit/s",
};
const NAMES: Record<TrackedQuantity, string> = {
  rsrp: "RSRP",
  sinr: "SINR",
  download: "Download",
  upload: "Upload",
};
const isRate = (quantity: TrackedQuantity) => quantity === "download" || quantity === "upload";

/** What was predicted of each setup before it was measured, beside what came, and how often the ranges held. */
export function PredictedAndMeasured({ siteId, zone }: { siteId: string; zone: string }) {
  const here = useTrackRecord(siteId).data;
  const several = (useSites().data?.length ?? 0) > 1;
  const all = useTrackRecords(several).data;
  if (!here) return null;
  const elsewhere = all && ranges(all) > ranges(here);
  return (
    <Section title="Predicted and measured">
      <p className="max-w-3xl">{here.title}</p>
      {here.lessons.length > 0 && (
        <ul className="mt-2 flex max-w-3xl flex-col gap-1">
          {here.lessons.map((lesson) => (
            <li key={lesson}>{lesson}</li>
          ))}
        </ul>
      )}
      {elsewhere && <p className="mt-2 max-w-3xl text-muted">All houses in this database: {all.title}</p>}
      {here.setups.length > 0 && (
        <details className="mt-2">
          <summary className="font-semibold">Setup by setup</summary>
          <p className="mt-2 max-w-3xl text-sm text-muted">
            A prediction is kept when a setup is first measured, and stays as it was. Of setups measured
            earlier it is worked out now, from what had been measured before them, with today's masts, kits
            and assumptions. 8 in 10 ranges should hold what was measured.
          </p>
          <TableBox label="Predicted and measured, setup by setup" className="mt-2">
            <table className="w-full max-w-4xl text-left text-sm leading-snug sm:text-base">
              <thead>
                <tr className="border-b border-rule text-sm text-muted [&>th]:py-1 [&>th]:pr-2 [&>th]:font-semibold sm:[&>th]:pr-4">
                  <th>Figure</th>
                  <th className="text-right">Predicted</th>
                  <th className="text-right">Measured</th>
                  <th>
                    <span className="sr-only">In the range</span>
                  </th>
                </tr>
              </thead>
              {here.setups.map((setup) => (
                <Rows key={setup.setup_id} setup={setup} zone={zone} />
              ))}
            </table>
          </TableBox>
        </details>
      )}
    </Section>
  );
}

const ranges = (view: TrackRecordView) => view.records.reduce((sum, one) => sum + one.ranges, 0);

function Rows({ setup, zone }: { setup: TrackedSetup; zone: string }) {
  return (
    <tbody>
      <tr>
        <th scope="rowgroup" colSpan={4} className="pt-3 font-bold">
          {setup.label}
          <span className="block text-sm font-normal text-muted">
            Measured from {moment(setup.measured_from, zone)}.{" "}
            {setup.foretold_at
              ? `Predicted on ${moment(setup.foretold_at, zone)} from ${setup.rests_on}`
              : `Prediction worked out now, from ${setup.rests_on}`}
          </span>
        </th>
      </tr>
      {setup.figures.map((one) => {
        const show = isRate(one.quantity) ? rough : whole;
        const carrier = one.band ? `${bandName(one.band.technology, one.band.band)} ` : "";
        return (
          <tr
            key={`${one.quantity}${carrier}`}
            className="border-t border-rule [&>td]:py-1 [&>td]:pr-2 sm:[&>td]:pr-4"
          >
            <td className="whitespace-nowrap">
              {carrier}
              {NAMES[one.quantity]}, {UNITS[one.quantity]}
            </td>
            <td className="text-right whitespace-nowrap">{range(one.foretold, show)}</td>
            <td className="text-right whitespace-nowrap">{show(one.measured)}</td>
            <td>
              <RangeMark one={one} />
            </td>
          </tr>
        );
      })}
    </tbody>
  );
}

/** The range in the middle of a short line, and where what was measured lies; beyond the line's ends it stays at the end. */
function RangeMark({ one }: { one: Tracked }) {
  const scale = (value: number) => (isRate(one.quantity) ? Math.log(Math.max(value, 0.1)) : value);
  const [low, high] = [scale(one.foretold.low), scale(one.foretold.high)];
  const share = (scale(one.measured) - low) / Math.max(high - low, 1e-6);
  const at = Math.min(116, Math.max(4, 30 + 60 * share));
  return (
    <span className="flex items-center gap-2 whitespace-nowrap">
      <svg viewBox="0 0 120 14" className="hidden h-3.5 w-[7.5rem] shrink-0 sm:block" aria-hidden="true">
        <line x1="0" x2="120" y1="7" y2="7" className="stroke-rule" strokeWidth="1" />
        <rect x="30" y="4" width="60" height="6" rx="1" className="fill-rule stroke-edge" strokeWidth="0.5" />
        {one.held ? (
          <circle cx={at} cy="7" r="4" className="fill-ink" />
        ) : (
          <path
            d={`M${at} 2.5 l4.5 4.5 l-4.5 4.5 l-4.5 -4.5 z`}
            className="fill-surface stroke-ink"
            strokeWidth="1.5"
          />
        )}
      </svg>
      <span className={`text-sm ${one.held ? "text-muted" : "font-semibold"}`}>
        {one.held ? "inside" : "outside"}
      </span>
    </span>
  );
}
