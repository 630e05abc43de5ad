import { useSetupOutlook } from "../api/queries";
import type { CarrierOutlook } from "../api/schema";
import { range, whole } from "../ui/format";
import { TableBox } from "../ui/TableBox";
import { WhyTable } from "../ui/WhyTable";
import { bandName } from "../ui/words";
import { Section } from "./StageHeader";

/** What is expected of a setup, beside what was measured with it: the same on every page that has a setup. */
export function SetupOutlook({ siteId, setupId, label }: { siteId: string; setupId: string; label: string }) {
  const { data: view, isError, error } = useSetupOutlook(siteId, setupId);
  return (
    <Section title={`What to expect of ${label}`}>
      {isError && (
        <p role="alert" className="font-semibold text-starved">
          {error.message}
        </p>
      )}
      {!view && !isError && <p className="text-muted">Working it out…</p>}
      {view && (
        <>
          <p className="max-w-3xl text-lg">{view.title}</p>
          {[view.day, view.margin, view.doubts].map(
            (sentence) =>
              sentence && (
                <p key={sentence} className="mt-2 max-w-3xl">
                  {sentence}
                </p>
              ),
          )}
          <Narrowing lines={view.narrowing} />
          {view.carriers.length > 0 && <Carriers carriers={view.carriers} />}
          <WhyTable rows={view.why} />
        </>
      )}
    </Section>
  );
}

/** Measurements that would narrow a range, the best for its time first. */
export function Narrowing({ lines }: { lines: string[] }) {
  if (lines.length === 0) return null;
  return (
    <>
      <h3 className="mt-4 font-bold">What would narrow this most</h3>
      <ul className="mt-1 flex max-w-3xl flex-col gap-1">
        {lines.map((one) => (
          <li key={one}>{one}</li>
        ))}
      </ul>
    </>
  );
}

/** Said of a carrier that is in no sum. */
export const PASSED_OVER = "not counted: the network never gave it beside the others";

function Read({ value }: { value: number | null | undefined }) {
  return (
    <span className="block text-sm text-muted">{value == null ? "not read" : `read ${whole(value)}`}</span>
  );
}

function Carriers({ carriers }: { carriers: CarrierOutlook[] }) {
  return (
    <details className="mt-3 max-w-3xl">
      <summary className="cursor-pointer py-2 font-semibold">Carrier by carrier</summary>
      <TableBox label="Expected, carrier by carrier">
        <table className="w-full border-collapse text-right leading-snug">
          <thead className="text-sm text-muted">
            <tr className="[&>th]:py-1 [&>th]:pr-3 [&>th]:font-semibold">
              <th className="text-left">Carrier</th>
              <th>Power (RSRP), dBm</th>
              <th>SINR, dB</th>
            </tr>
          </thead>
          <tbody>
            {carriers.map((one) => (
              <tr
                key={`${one.band.technology}${one.band.band}-${one.channel ?? ""}`}
                className="border-t border-rule align-top [&>td]:py-1.5 [&>td]:pr-3"
              >
                <td className="text-left">
                  <span className="font-semibold">{bandName(one.band.technology, one.band.band)}</span>
                  {!one.counts && <span className="block text-sm text-muted">{PASSED_OVER}</span>}
                </td>
                <td className="whitespace-nowrap">
                  {range(one.rsrp_dbm, whole)}
                  <Read value={one.measured_rsrp_dbm} />
                </td>
                <td className="whitespace-nowrap">
                  {range(one.sinr_db, whole)}
                  <Read value={one.measured_sinr_db} />
                </td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableBox>
    </details>
  );
}
