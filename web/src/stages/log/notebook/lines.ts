import { newId } from "../../../api/client";
import type { NameMeans, NotebookLine, TypedRun } from "../../../api/schema";

export type Draft = {
  /** A result a line. */
  text: string;
  /** When it was measured, as a datetime-local field has it; lines may say another hour. */
  at: string;
  means: NameMeans[];
};

/** Identifiers of runs that were sent, by what was sent: a line that is sent twice, after a reload too, is kept once. */
export type Sent = Record<string, string>;

/** When a line was measured: its own hour and minute on the day that was entered. */
export function measuredAt(at: string, line: Pick<NotebookLine, "clock">): string {
  const local = line.clock ? `${at.slice(0, 10)}T${line.clock}` : at;
  return new Date(local).toISOString();
}

/** What is kept of a line. */
export function asRun(line: NotebookLine, at: string, id: string): TypedRun {
  const { band, rsrp_dbm, sinr_db, rsrq_db } = line;
  const carriers =
    band == null
      ? []
      : [
          {
            technology: band.technology,
            role: "unknown" as const,
            band: band.band,
            rsrp_dbm,
            sinr_db,
            rsrq_db,
          },
        ];
  const { download_mbps, upload_mbps, idle_latency_ms, average_of } = line;
  const tested = [download_mbps, upload_mbps, idle_latency_ms].some((figure) => figure != null);
  return {
    id,
    measured_at: measuredAt(at, line),
    conditions: { notes: line.notes },
    readings: carriers.length > 0 ? [{ id: newId(), mode: "unknown", activity: "unknown", carriers }] : [],
    speed_tests: tested ? [{ id: newId(), download_mbps, upload_mbps, idle_latency_ms, average_of }] : [],
  };
}

/** Text without lines that are kept. */
export function without(text: string, kept: ReadonlySet<number>): string {
  return text
    .split("\n")
    .filter((_, index) => !kept.has(index + 1))
    .join("\n");
}
