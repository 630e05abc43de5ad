import type { DayPart, PartRate } from "../../api/schema";
import { range, rough, withUnit } from "../../ui/format";

const PARTS: Record<DayPart, { name: string; hours: string }> = {
  night: { name: "Night", hours: "23 to 6 h" },
  morning: { name: "Morning", hours: "6 to 12 h" },
  midday: { name: "Midday", hours: "12 to 18 h" },
  evening: { name: "Evening", hours: "18 to 23 h" },
};

/** What an hour of each part of the day brings, against the need. */
export function ByPart({ label, parts, need }: { label: string; parts: PartRate[]; need: number }) {
  const most = Math.max(need, ...parts.map((one) => one.down_mbps.high)) * 1.05;
  const share = (mbps: number) => `${Math.min(100, (100 * mbps) / most)}%`;
  return (
    <section aria-label={`Download by part of the day, ${label}`} className="mt-4 px-3">
      <h3 className="font-bold">Download by part of the day, {label}</h3>
      <ul className="mt-1 flex flex-col gap-1">
        {parts.map(({ part, down_mbps, tested }) => (
          <li
            key={part}
            className="grid grid-cols-[minmax(0,1fr)_auto] items-center gap-x-3 leading-tight sm:grid-cols-[9.5rem_minmax(0,1fr)_18rem]"
          >
            <span>
              {PARTS[part].name}{" "}
              <span className="hidden text-sm text-muted sm:inline">{PARTS[part].hours}</span>
            </span>
            <span
              aria-hidden="true"
              className="relative order-last col-span-2 h-4 rounded-full bg-rule/50 sm:order-none sm:col-span-1"
            >
              <span
                className={`absolute inset-y-1 rounded-full ${tested ? "bg-lamp" : "border border-lamp"}`}
                style={{
                  left: share(down_mbps.low),
                  width: share(down_mbps.high - down_mbps.low),
                }}
              />
              <span className="absolute inset-y-0 w-0.5 bg-ink" style={{ left: share(down_mbps.likely) }} />
              {need > 0 && (
                <span
                  className="absolute -inset-y-1 border-l-2 border-dotted border-ink"
                  style={{ left: share(need) }}
                />
              )}
            </span>
            <span className="text-right tabular-nums">
              <span className="font-bold">{withUnit(rough(down_mbps.likely), "Mbit/s")}</span>{" "}
              <span className="text-sm text-muted">
                {range(down_mbps, rough)}
                {!tested && ", untested"}
              </span>
            </span>
          </li>
        ))}
      </ul>
      <p className="mt-1 text-sm text-muted">
        8 of 10 hours bring what the bar spans{need > 0 && "; the dotted line is your need"}.
      </p>
    </section>
  );
}
