import type {
  CarrierDifference,
  CarrierSummary,
  ComparisonRowView,
  Interval,
  Metric,
} from "../../api/schema";
import { difference, halves, signed, significant, whole } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { ACTIVITIES, bandName, FIGURES } from "../../ui/words";
import { Section } from "../StageHeader";

/** Findings that the table beside them shows already. */
const IN_TABLE = new Set(["carrier_differs"]);

/** One setup against the baseline: in words, carrier by carrier, and what else was different. */
export function Against({
  row,
  baseline,
}: {
  row: ComparisonRowView;
  baseline: ComparisonRowView | undefined;
}) {
  const said = row.said.filter((one) => !IN_TABLE.has(one.finding.kind));
  return (
    <Section title={`${row.label} against ${baseline?.label ?? "the baseline"}`}>
      <p className="mb-3 max-w-3xl">
        {row.built}
        {(row.credit_said ?? row.changed_said) && (
          <span className="mt-1 block">{row.credit_said ?? row.changed_said}</span>
        )}
      </p>
      <div className="grid gap-8 xl:grid-cols-2">
        <ul className="flex flex-col gap-2">
          {said.map((one) => (
            <li key={one.text}>{one.text}</li>
          ))}
          {row.differed_said.length > 0 && (
            <li className="mt-2 border-l-4 border-lamp pl-3">
              <h3 className="font-bold">What else was different</h3>
              <ul className="mt-1 flex flex-col gap-1">
                {row.differed_said.map((one) => (
                  <li key={one.text}>{one.text}</li>
                ))}
              </ul>
            </li>
          )}
          {row.differed_said.length === 0 && (
            <li className="text-muted">Hours, cells, bands and server were alike.</li>
          )}
        </ul>
        {baseline && row.carrier_differences.length > 0 && <Differences row={row} baseline={baseline} />}
      </div>
      <Textbook row={row} />
    </Section>
  );
}

const span = (of: Interval | null | undefined) =>
  of ? `${significant(of.low)} to ${significant(of.high)}` : "–";

/** The model's interval of each figure, and textbook comparisons beside it. */
function Textbook({ row }: { row: ComparisonRowView }) {
  const compared = row.figures.flatMap((one) => (one.versus ? [{ ...one, versus: one.versus }] : []));
  if (compared.length === 0) return null;
  return (
    <details className="mt-4">
      <summary className="font-semibold">Check the statistics</summary>
      <TableBox label="Ratios to the baseline by several methods">
        <table className="mt-2 w-full text-right leading-snug">
          <thead>
            <tr className="border-b border-rule text-sm text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
              <th className="text-left">Times the baseline's</th>
              <th>Model, 90 %</th>
              <th>All at once, 95 %</th>
              <th>Student's t</th>
              <th>Bootstrap, BCa</th>
              <th>Hodges–Lehmann</th>
              <th>Mann–Whitney p (Holm)</th>
            </tr>
          </thead>
          <tbody>
            {compared.map(({ figure, versus }) => (
              <tr
                key={figure}
                className="border-b border-rule [&>td]:px-2 [&>td]:py-1.5 [&>td]:whitespace-nowrap"
              >
                <td className="text-left font-bold">{FIGURES[figure].short}</td>
                <td>{span(versus.model.interval)}</td>
                <td>{span(versus.model.joint)}</td>
                <td>{span(versus.classical?.student)}</td>
                <td>{span(versus.classical?.bootstrap)}</td>
                <td>{versus.classical ? significant(versus.classical.shift) : "–"}</td>
                <td>
                  {versus.classical
                    ? `${signed(versus.classical.rank_chance, 2)} (${signed(versus.classical.corrected_chance, 2)})`
                    : "–"}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <p className="mt-2 text-sm text-muted">
          The model takes out the hour, the server and how well the radio was heard, and pairs setups tested
          in one sitting. The others compare the sittings' averages: Student's t from three sittings a side,
          the bootstrap from six.
        </p>
      </TableBox>
    </details>
  );
}

function Differences({ row, baseline }: { row: ComparisonRowView; baseline: ComparisonRowView }) {
  const carriers = row.carriers.filter((carrier) =>
    row.carrier_differences.some((one) => matches(one, carrier)),
  );
  return (
    <TableBox label="Differences by carrier">
      <table className="w-full text-right leading-snug">
        <caption className="sr-only">Medians here and at the baseline</caption>
        <thead>
          <tr className="border-b border-rule text-sm text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
            <th className="text-left">Carrier</th>
            <th>RSRP, dBm</th>
            <th>SINR, dB</th>
            <th>RSRQ, dB</th>
          </tr>
        </thead>
        <tbody>
          {carriers.map((carrier) => (
            <tr
              key={`${carrier.activity}-${carrier.cell.technology}-${carrier.cell.band}-${carrier.channel}-${carrier.cell.pci}`}
              className="border-b border-rule align-top [&>td]:px-2 [&>td]:py-1.5"
            >
              <td className="text-left">
                <strong>{bandName(carrier.cell.technology, carrier.cell.band)}</strong>
                <span className="block text-sm text-muted">
                  {ACTIVITIES[carrier.activity]}
                  {differenceOf(row, carrier, "rsrp")?.same_cell === false && ", another cell"}
                </span>
              </td>
              {(["rsrp", "sinr", "rsrq"] as const).map((metric) => (
                <Cell
                  key={metric}
                  carrier={carrier}
                  found={differenceOf(row, carrier, metric)}
                  metric={metric}
                />
              ))}
            </tr>
          ))}
        </tbody>
      </table>
      <p className="mt-2 text-sm text-muted">
        Medians here, and how much more or less than at {baseline.label}, with the range that holds the
        difference in 9 of 10 cases, judged by how far visits to one setup lie apart. Only readings under the
        same traffic are compared.
      </p>
    </TableBox>
  );
}

const matches = (one: CarrierDifference, carrier: CarrierSummary) =>
  one.activity === carrier.activity &&
  one.cell.technology === carrier.cell.technology &&
  one.cell.band === carrier.cell.band &&
  one.cell.pci === carrier.cell.pci;

const differenceOf = (row: ComparisonRowView, carrier: CarrierSummary, metric: Metric) =>
  row.carrier_differences.find((one) => one.metric === metric && matches(one, carrier));

function Cell({
  carrier,
  found,
  metric,
}: {
  carrier: CarrierSummary;
  found: CarrierDifference | undefined;
  metric: "rsrp" | "sinr" | "rsrq";
}) {
  const summary = { rsrp: carrier.rsrp_dbm, sinr: carrier.sinr_db, rsrq: carrier.rsrq_db }[metric];
  const show = metric === "rsrp" ? whole : halves;
  const half = found ? Math.round(found.difference_db * 2) / 2 : 0;
  return (
    <td className="whitespace-nowrap">
      {summary ? <strong>{show(summary.median)}</strong> : "–"}
      {found && (
        <span className="block text-sm text-muted">
          {difference(
            metric === "rsrp" ? Math.round(found.difference_db) : half,
            metric === "rsrp" || Number.isInteger(half) ? 0 : 1,
          )}{" "}
          dB
          {found.interval && (
            <span className="block">
              {difference(Math.round(found.interval.low), 0)} to{" "}
              {difference(Math.round(found.interval.high), 0)}
            </span>
          )}
        </span>
      )}
    </td>
  );
}
