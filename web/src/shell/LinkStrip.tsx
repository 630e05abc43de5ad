import { Link } from "@tanstack/react-router";
import { useEffect, useState } from "react";
import { useLink, useMeasuringNow, useSite } from "../api/queries";
import type { Carrier, CarrierNote, LinkStatus, Metric } from "../api/schema";
import { WidthBracket } from "../drawings/WidthBracket";
import { ClassMark } from "../ui/ClassMark";
import { age, clock, frequency, halves, whole } from "../ui/format";
import { bandName, METRICS, ROLES } from "../ui/words";
import { useSiteId } from "./useSiteContext";

/** The present moment, a few times a second, for ages. */
function useNow(): number {
  const [now, setNow] = useState(Date.now());
  useEffect(() => {
    const timer = setInterval(() => setNow(Date.now()), 500);
    return () => clearInterval(timer);
  }, []);
  return now;
}

/** What the gateway hears now, always in view. */
export function LinkStrip() {
  const siteId = useSiteId();
  const link = useLink(siteId).data;
  const zone = useSite(siteId).data?.site.time_zone ?? "UTC";
  const reading = link?.reading;
  const measuring = useMeasuringNow(siteId).data;
  return (
    <section className="flex flex-col gap-3 p-5" aria-label="Link strip">
      <StatusLine status={link?.status ?? { kind: "waiting" }} heardAt={link?.heard_at ?? null} zone={zone} />
      {measuring && (
        <p className="text-sm">
          {measuring.words}
          {measuring.share != null && (
            <progress className="mt-1 block w-full" aria-label="Progress" max={1} value={measuring.share} />
          )}
        </p>
      )}
      {reading && link && (
        <>
          <p className="text-lg leading-snug">{link.sentence}</p>
          <ul className="flex flex-col">
            {reading.carriers.map((carrier, index) => (
              <CarrierRow
                key={`${carrier.technology}-${carrier.band}-${carrier.channel}-${carrier.pci}`}
                carrier={carrier}
                note={link.notes[index]}
              />
            ))}
          </ul>
          {link.refresh_period_s != null && (
            <p className="text-sm text-muted">
              The gateway measures anew about every {age(link.refresh_period_s)}; repeats are not counted.
            </p>
          )}
        </>
      )}
    </section>
  );
}

function StatusLine({ status, heardAt, zone }: { status: LinkStatus; heardAt: string | null; zone: string }) {
  const now = useNow();
  const siteId = useSiteId();
  const old = heardAt === null ? null : age((now - Date.parse(heardAt)) / 1000);
  const settings = (
    <Link to="/sites/$siteId/settings" params={{ siteId }} className="font-semibold text-action underline">
      Settings
    </Link>
  );
  const recipe = (
    <Link to="/sites/$siteId/gateway" params={{ siteId }} className="font-semibold text-action underline">
      How the gateway is read
    </Link>
  );
  switch (status.kind) {
    case "live":
      return <h2 className="text-sm font-semibold text-muted">Heard now{old && <>, {old} ago</>}</h2>;
    case "stale":
      return (
        <div role="status">
          <h2 className="font-bold">Stale: heard {old ?? "a while"} ago</h2>
          <p className="text-sm">
            The page answers but has not changed since. If it stays so, restart the gateway.
          </p>
        </div>
      );
    case "unreachable":
      return (
        <div role="status">
          <h2 className="font-bold">Unreachable since {clock(status.since, zone)}</h2>
          <p className="text-sm">
            {status.problem}. Is the gateway on, and this computer on its network? The address is under{" "}
            {settings}.
          </p>
        </div>
      );
    case "nonsense":
      return (
        <div role="status">
          <h2 className="font-bold">Answering nonsense since {clock(status.since, zone)}</h2>
          <p className="text-sm">
            {status.problem}. Check the address under {settings}, or say where the figures stand under{" "}
            {recipe}. It said:
          </p>
          <p className="mt-1 rounded border border-rule p-2 text-sm break-all text-muted">{status.said}</p>
        </div>
      );
    case "login_failed":
      return (
        <div role="status">
          <h2 className="font-bold">Not let in since {clock(status.since, zone)}</h2>
          <p className="text-sm">
            {status.problem}. Name and password are under {recipe}.
          </p>
        </div>
      );
    case "untrusted":
      return (
        <div role="status">
          <h2 className="font-bold">Not trusted since {clock(status.since, zone)}</h2>
          <p className="text-sm">
            It shows a certificate that nobody vouches for. Look at it, and vouch for it if it is yours, under{" "}
            {recipe}.
          </p>
        </div>
      );
    case "asleep":
      return (
        <div>
          <h2 className="font-bold">The gateway is not asked yet</h2>
          <p className="text-sm">This site came from a file. Look at what it sends, above, and allow it.</p>
        </div>
      );
    case "not_set":
      return (
        <div>
          <h2 className="font-bold">No gateway is set</h2>
          <p className="text-sm">
            Enter the address of its status page under {settings}, or type readings in.
          </p>
        </div>
      );
    case "waiting":
      return <h2 className="text-sm font-semibold text-muted">Asking the gateway…</h2>;
  }
}

const SHOWN: readonly Metric[] = ["rsrp", "sinr", "rsrq"];

function shownValue(carrier: Carrier, metric: Metric): string {
  const value = {
    rsrp: carrier.rsrp_dbm,
    sinr: carrier.sinr_db,
    rsrq: carrier.rsrq_db,
    rssi: carrier.rssi_dbm,
  }[metric];
  if (value == null) return "–";
  return metric === "rsrp" || metric === "rssi" ? whole(value) : halves(value);
}

function CarrierRow({ carrier, note }: { carrier: Carrier; note: CarrierNote | undefined }) {
  const role = ROLES[carrier.role];
  const flagged = (metric: Metric) => carrier.flags?.some((flag) => flag.metric === metric) ?? false;
  return (
    <li className="flex flex-col gap-1.5 border-t border-rule py-3">
      <div className="flex items-baseline justify-between gap-2">
        <h3>
          <strong>{bandName(carrier.technology, carrier.band)}</strong>{" "}
          {note?.frequency_mhz != null && frequency(note.frequency_mhz)}
          {role && <span className="text-muted">, {role}</span>}
        </h3>
        {note?.class && <ClassMark of={note.class.class} />}
      </div>
      {carrier.bandwidth_mhz != null && <WidthBracket mhz={carrier.bandwidth_mhz} />}
      <dl className="grid grid-cols-[1.3fr_1fr_1fr] gap-2">
        {SHOWN.map((metric) => (
          <div key={metric} className="flex flex-col-reverse">
            <dt className="text-xs text-muted">
              {METRICS[metric].plain} {METRICS[metric].term}
            </dt>
            <dd className="whitespace-nowrap">
              <span className="text-xl font-bold">{shownValue(carrier, metric)}</span>{" "}
              <span className="text-xs text-muted">{METRICS[metric].unit}</span>
              {flagged(metric) && (
                <abbr
                  title="Outside the standard's reporting range, kept as the gateway said it"
                  className="ml-0.5 no-underline"
                >
                  *
                </abbr>
              )}
            </dd>
          </div>
        ))}
      </dl>
      <p className="text-xs text-muted">
        {carrier.pci != null && <>PCI {carrier.pci}</>}
        {carrier.channel != null && (
          <>
            , {carrier.technology === "lte" ? "EARFCN" : "NR-ARFCN"} {carrier.channel}
          </>
        )}
      </p>
    </li>
  );
}
