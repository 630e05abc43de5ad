import type { ResultRow, ResultsPreview } from "../../../api/schema";
import { asTyped, counted, moment } from "../../../ui/format";
import { bandName } from "../../../ui/words";

const part = (value: number | null | undefined, words: (value: number) => string) =>
  value == null ? [] : [words(value)];

/** "n78, −92 dBm, SINR 24 dB, 266 Mbit/s down, 23.6 up, 36 ms". */
export function figuresOf(row: ResultRow): string {
  return [
    ...(row.band ? [bandName(row.band.technology, row.band.band)] : []),
    ...part(row.rsrp_dbm, (value) => `${asTyped(value)}\u202fdBm`),
    ...part(row.sinr_db, (value) => `SINR ${asTyped(value)}\u202fdB`),
    ...part(row.rsrq_db, (value) => `RSRQ ${asTyped(value)}\u202fdB`),
    ...part(row.download_mbps, (value) => `${asTyped(value)}\u202fMbit/s down`),
    ...part(row.upload_mbps, (value) => `${asTyped(value)} up`),
    ...part(row.idle_latency_ms, (value) => `${asTyped(value)}\u202fms`),
    ...part(row.average_of, (value) => `average of ${value} tests`),
  ].join(", ");
}

/** What becomes of the rows: how many are kept, which are not and why, the first ones as they were understood. */
export function Understood({ preview, zone }: { preview: ResultsPreview; zone: string }) {
  const { understood, known, twice, problems, problem_rows } = preview;
  const left = [
    ...(known > 0 ? [`${counted(known, "row")} here already`] : []),
    ...(twice > 0 ? [`${counted(twice, "row")} twice in the file`] : []),
    ...(problem_rows > 0 ? [`${counted(problem_rows, "row")} that cannot be read`] : []),
  ];
  return (
    <>
      {left.length > 0 && <p>Left out: {left.join(", ")}.</p>}
      {problems.length > 0 && (
        <ul className="border-l-4 border-starved pl-3">
          {problems.map((one) => (
            <li key={`${one.line}${one.reason}`}>
              Line {one.line}: {one.reason}
            </li>
          ))}
          {problem_rows > problems.length && <li>and {problem_rows - problems.length} more</li>}
        </ul>
      )}
      {understood.length > 0 && (
        <ol
          aria-label="What is understood"
          className="flex flex-col divide-y divide-rule border-y border-rule"
        >
          {understood.map((row) => (
            <li key={row.line} className="py-2">
              <p>
                <strong>{row.setup}</strong>: {figuresOf(row)}, {moment(row.at, zone)}
              </p>
              <RowNotes row={row} />
            </li>
          ))}
        </ol>
      )}
    </>
  );
}

function RowNotes({ row }: { row: ResultRow }) {
  const said = [
    ...(row.new_signal || row.new_speeds ? [] : ["here already"]),
    ...row.taken,
    ...(row.notes ? [`note: ${row.notes}`] : []),
  ];
  return said.length > 0 ? <p className="text-sm text-muted">{said.join("; ")}</p> : null;
}
