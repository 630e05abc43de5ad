import { useState } from "react";
import { answered, api } from "../../../api/client";
import { type TimelineFilter, useTimeline } from "../../../api/queries";
import type { DayPart, SiteView, TimelineKind, TimelineRow } from "../../../api/schema";
import { inUse } from "../../../shell/useSiteContext";
import { Button } from "../../../ui/Button";
import { ChoiceField } from "../../../ui/Field";
import { moment, significant, withUnit } from "../../../ui/format";
import { useNotice } from "../../../ui/notices";
import { useAction } from "../../../ui/useAction";
import { DAY_PARTS, EVENT_KINDS } from "../../../ui/words";
import { Section } from "../../StageHeader";
import { RunDetail } from "../RunDetail";
import { NoteEvent } from "./NoteEvent";

const KINDS: readonly (readonly [TimelineKind | "", string])[] = [
  ["", "Everything"],
  ["run", "Runs"],
  ["sweep", "Sweeps"],
  ["band_round", "Band trials"],
  ["event", "Events"],
  ["photo", "Files"],
];
const parts = [["", "All day"], ...Object.entries(DAY_PARTS)] as [DayPart | "", string][];
const ONLY = [
  ["", "All"],
  ["live", "Measured here"],
  ["typed", "Typed in"],
  ["doubtful", "Doubtful tests"],
] as const;

/** Everything that was done and happened at a site, the newest first. */
export function Timeline({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const [filter, setFilter] = useState<TimelineFilter>({});
  const [only, setOnly] = useState<(typeof ONLY)[number][0]>("");
  const found = useTimeline(siteId, filter);
  const rows = found.data?.pages.flatMap((page) => page.rows) ?? [];
  const heard = [
    ...new Set([...rows.flatMap((row) => row.bands), ...(filter.band ? [filter.band] : [])]),
  ].sort();
  const setups = inUse(view).flatMap((node) => node.setups);
  /** A part of the filter; none where it is empty. */
  const set = (part: Record<string, string>) =>
    setFilter((before) => {
      const kept = { ...before, ...part };
      return Object.fromEntries(Object.entries(kept).filter(([, value]) => value !== "")) as TimelineFilter;
    });
  const choose = (value: (typeof ONLY)[number][0]) => {
    setOnly(value);
    set({
      source: value === "live" || value === "typed" ? value : "",
      doubtful: value === "doubtful" ? "true" : "",
    });
  };
  return (
    <Section title="Time line">
      <NoteEvent siteId={siteId} />
      <div className="mt-4 grid grid-cols-2 gap-3 lg:grid-cols-5">
        <ChoiceField
          label="Show"
          value={filter.kind ?? ""}
          choices={KINDS}
          onChange={(kind) => set({ kind })}
        />
        <ChoiceField
          label="Setup"
          value={filter.setup ?? ""}
          choices={[["", "All setups"], ...setups.map((one) => [one.setup.id, one.label] as const)]}
          onChange={(setup) => set({ setup })}
        />
        <ChoiceField
          label="Band"
          value={filter.band ?? ""}
          choices={[["", "All bands"], ...heard.map((band) => [band, band] as const)]}
          onChange={(band) => set({ band })}
        />
        <ChoiceField
          label="Part of the day"
          value={filter.part ?? ""}
          choices={parts}
          onChange={(part) => set({ part })}
        />
        <ChoiceField label="Only" value={only} choices={ONLY} onChange={choose} />
      </div>
      {found.isError && (
        <p role="alert" className="mt-4 font-semibold text-starved">
          {found.error.message}
        </p>
      )}
      {found.isSuccess && rows.length === 0 && <p className="mt-4 text-muted">Nothing of this kind yet.</p>}
      <ol className="mt-3 flex flex-col divide-y divide-rule" aria-label="What happened, the newest first">
        {rows.map((row) => (
          <Row key={row.id} row={row} zone={view.site.time_zone} siteId={siteId} />
        ))}
      </ol>
      {found.hasNextPage && (
        <Button
          className="mt-3"
          onClick={() => void found.fetchNextPage()}
          disabled={found.isFetchingNextPage}
        >
          Older entries
        </Button>
      )}
    </Section>
  );
}

function figures(row: TimelineRow): string {
  const { down_mbps: down, up_mbps: up, idle_latency_ms: idle } = row;
  const rates = [down == null ? "" : `${withUnit(significant(down), "Mbit/s")} down`];
  if (up != null)
    rates.push(down == null ? `${withUnit(significant(up), "Mbit/s")} up` : `${significant(up)} up`);
  if (idle != null) rates.push(withUnit(String(Math.round(idle)), "ms"));
  return rates.filter(Boolean).join(", ");
}

function Row({ row, zone, siteId }: { row: TimelineRow; zone: string; siteId: string }) {
  const [open, setOpen] = useState(false);
  const said = figures(row);
  const marks = [
    row.sitting ? `sitting ${row.sitting}` : "",
    row.event_kind ? EVENT_KINDS[row.event_kind].toLowerCase() : "",
    row.typed ? "typed in" : "",
    row.partial ? "partial" : "",
    row.doubted > 0 ? `${row.doubted} doubtful` : "",
    row.archived ? "left out" : "",
  ].filter(Boolean);
  const several = row.changed.length > 1;
  return (
    <li
      className={`grid gap-x-4 py-2 sm:grid-cols-[11rem_minmax(0,1fr)_auto] ${row.kind === "event" ? "border-l-4 border-l-lamp pl-3" : ""}`}
    >
      <span className="font-semibold">{moment(row.at, zone)}</span>
      <div className={row.archived ? "text-muted line-through" : ""}>
        <p>
          {row.title}
          {row.of && <span className="text-muted"> · {row.of}</span>}
        </p>
        {said && <p>{said}</p>}
        {row.heard.length > 0 && <p className="text-sm text-muted">{row.heard.join("; ")}</p>}
        {marks.length > 0 && <p className="text-sm text-muted">{marks.join(", ")}</p>}
        {row.changed_said && (
          <p className={`text-sm ${several ? "font-semibold" : "text-muted"}`}>{row.changed_said}</p>
        )}
      </div>
      <div className="flex items-start">
        {row.kind === "run" && (
          <Button look="plain" aria-expanded={open} onClick={() => setOpen(!open)}>
            {open ? "Close" : "Details"}
          </Button>
        )}
        {row.kind === "event" && <LeaveOut row={row} siteId={siteId} />}
      </div>
      {open && (
        <div className="sm:col-span-3">
          <RunDetail id={row.id} zone={zone} siteId={siteId} />
        </div>
      )}
    </li>
  );
}

function LeaveOut({ row, siteId }: { row: TimelineRow; siteId: string }) {
  const notice = useNotice();
  const path = { params: { path: { id: row.id } } };
  const restore = useAction(siteId, () => answered(api.POST("/api/noted-events/{id}/restore", path)));
  const archive = useAction(siteId, async () => {
    await answered(api.POST("/api/noted-events/{id}/archive", path));
    notice("The event is left out. Nothing is lost.", restore.run);
  });
  return row.archived ? (
    <Button look="plain" onClick={() => restore.run()}>
      Take back in
    </Button>
  ) : (
    <Button look="plain" onClick={() => archive.run()}>
      Leave out
    </Button>
  );
}
