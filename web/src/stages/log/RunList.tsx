import { useState } from "react";
import { answered, api } from "../../api/client";
import type { RunRow } from "../../api/schema";
import { Button } from "../../ui/Button";
import { counted, moment } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { RunDetail } from "./RunDetail";

/** Runs of a setup, the newest first. One can be left out of the figures, and taken back. */
export function RunList({
  rows,
  zone,
  siteId,
  setupId,
}: {
  rows: RunRow[];
  zone: string;
  siteId: string;
  setupId: string;
}) {
  const [older, setOlder] = useState<{ of: string; rows: RunRow[]; end: boolean }>({
    of: setupId,
    rows: [],
    end: false,
  });
  const more = older.of === setupId ? older : { of: setupId, rows: [], end: false };
  const all = [...rows, ...more.rows.filter((row) => rows.every((known) => known.run.id !== row.run.id))];
  const last = all.at(-1);

  const fetchOlder = useAction(undefined, async () => {
    if (!last) return;
    const query = { before: last.run.started_at, limit: 50 };
    const found = await answered(
      api.GET("/api/setups/{id}/runs", { params: { path: { id: setupId }, query } }),
    );
    setOlder({ of: setupId, rows: [...more.rows, ...found], end: found.length < query.limit });
  });
  if (!last) return <p className="text-muted">Nothing yet.</p>;
  return (
    <>
      <ul className="flex flex-col divide-y divide-rule">
        {all.map((row) => (
          <RunEntry key={row.run.id} row={row} zone={zone} siteId={siteId} />
        ))}
      </ul>
      {rows.length >= 25 && !more.end && (
        <Button look="plain" onClick={fetchOlder.run}>
          Older runs
        </Button>
      )}
    </>
  );
}

function RunEntry({ row, zone, siteId }: { row: RunRow; zone: string; siteId: string }) {
  const [open, setOpen] = useState(false);
  const notice = useNotice();
  const { run } = row;
  const out = run.archived_at != null;
  const what = [
    row.samples > 0 ? counted(row.samples, "sample") : "",
    row.tests > 0 ? counted(row.tests, "speed test") : "",
    run.source === "typed" ? "typed in" : "",
    run.conditions?.instrument === "phone" ? "by phone" : "",
    run.conditions?.instrument === "modem" ? "by a second modem" : "",
    run.conditions?.network ? `on ${run.conditions.network}` : "",
    run.completion === "partial" ? "partial" : "",
    run.completion === "running" ? "going on" : "",
    out ? "left out" : "",
  ].filter(Boolean);
  const path = { params: { path: { id: run.id } } };
  const takeBack = useAction(siteId, () => answered(api.POST("/api/runs/{id}/restore", path)));
  const leaveOut = useAction(siteId, async () => {
    await answered(api.POST("/api/runs/{id}/archive", path));
    notice("The run is left out of all figures. Nothing is lost.", takeBack.run);
  });
  return (
    <li className="py-1.5">
      <div className="flex flex-wrap items-center gap-x-4">
        <button
          type="button"
          aria-expanded={open}
          onClick={() => setOpen(!open)}
          className="prints flex min-h-10 min-w-0 flex-1 items-center gap-3 text-left"
        >
          <svg
            viewBox="0 0 12 12"
            className={`size-3 transition-transform ${open ? "rotate-90" : ""}`}
            aria-hidden="true"
          >
            <path d="M3 1 L10 6 L3 11 Z" fill="currentColor" />
          </svg>
          <span className={`font-semibold whitespace-nowrap ${out ? "line-through" : ""}`}>
            {moment(run.started_at, zone)}
          </span>
          <span className="text-muted">{what.join(", ")}</span>
        </button>
        {run.completion !== "running" &&
          (out ? (
            <Button look="plain" onClick={takeBack.run}>
              Take back in
            </Button>
          ) : (
            <Button look="plain" onClick={leaveOut.run}>
              Leave out
            </Button>
          ))}
      </div>
      {open && <RunDetail id={run.id} zone={zone} siteId={siteId} />}
    </li>
  );
}
