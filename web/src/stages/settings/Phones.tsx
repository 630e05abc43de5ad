import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { queryClient } from "../../api/queries";
import type { PairedDevice } from "../../api/schema";
import { Button } from "../../ui/Button";
import { moment } from "../../ui/format";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";

const key = ["lan"];

/** A phone at the antenna: letting it in by a drawing, and turning it away again. */
export function Phones({ zone }: { zone: string }) {
  const lan = useQuery({ queryKey: key, queryFn: () => answered(api.GET("/api/lan")), retry: false });
  const again = () => queryClient.invalidateQueries({ queryKey: key });
  const code = useAction(undefined, () => answered(api.POST("/api/lan/code")).then(again));
  const turnAway = useAction(undefined, (id: string) =>
    answered(api.DELETE("/api/lan/devices/{id}", { params: { path: { id } } })).then(again),
  );
  const view = lan.data;
  if (lan.isError)
    return (
      <Section title="Phones">
        <p>{lan.error.message}</p>
      </Section>
    );
  if (!view) return null;
  return (
    <Section title="Phones">
      {!view.on ? (
        <p>
          To take the number up to the antenna, start Open Beacon with <code>--lan</code>: a phone on the same
          network is then let in by a code shown here. Without it nothing on the network reaches this program.
        </p>
      ) : (
        <>
          <p>
            Phones reach it at <strong>{view.origin}</strong>
            {view.by_address.length > 0 && <>, or by number at {view.by_address.join(", ")}</>}. The name
            stays when the address changes; what waits on a phone belongs to the name.
          </p>
          <p className="mt-1">
            {view.secure
              ? "Over HTTPS: home screen, opening with no network, compass and a screen kept awake all work, once the phone trusts this computer."
              : "Over plain HTTP: the number, sweeps and the queue work while the page is open; home screen, opening with no network, compass and a screen kept awake do not. Others on this network could listen."}
          </p>
          <div className="mt-4 flex flex-wrap gap-8">
            {view.trust_url && view.trust_drawing && (
              <figure>
                <figcaption className="font-semibold">1. Let the phone trust this computer, once</figcaption>
                <Drawing svg={view.trust_drawing} words={`Code for ${view.trust_url}`} />
                <p className="text-sm">{view.trust_url}</p>
                <p className="max-w-64 text-sm break-words text-muted">
                  SHA-256 to compare: {view.authority_sha256}
                </p>
              </figure>
            )}
            <figure>
              <figcaption className="font-semibold">
                {view.trust_url ? "2. Let the phone in" : "Let the phone in"}
              </figcaption>
              {view.code ? (
                <>
                  <Drawing svg={view.code.drawing} words={`Code for ${view.code.url}`} />
                  <p className="text-2xl font-bold tracking-widest">{view.code.code}</p>
                  <p className="text-sm text-muted">Opens once, until {moment(view.code.expires_at, zone)}</p>
                </>
              ) : (
                <p className="my-2 max-w-64">The last code was used, or ten minutes have passed.</p>
              )}
              <Button className="mt-2" onClick={() => code.run()}>
                Show a new code
              </Button>
            </figure>
          </div>
        </>
      )}
      {view.devices.length > 0 && (
        <ul className="mt-4 flex flex-col divide-y divide-rule border-y border-rule">
          {view.devices.map((device) => (
            <Device key={device.id} device={device} zone={zone} onTurnAway={turnAway.run} />
          ))}
        </ul>
      )}
    </Section>
  );
}

function Drawing({ svg, words }: { svg: string; words: string }) {
  return (
    <img
      src={`data:image/svg+xml;utf8,${encodeURIComponent(svg)}`}
      alt={words}
      width={220}
      height={220}
      className="my-2 rounded bg-white"
    />
  );
}

function Device({
  device,
  zone,
  onTurnAway,
}: {
  device: PairedDevice;
  zone: string;
  onTurnAway: (id: string) => void;
}) {
  return (
    <li className="flex flex-wrap items-baseline gap-x-4 py-2">
      <strong>{device.name}</strong>
      <span className="text-muted">
        let in {moment(device.paired_at, zone)}
        {device.last_seen_at && <>, last here {moment(device.last_seen_at, zone)}</>}
      </span>
      {device.revoked_at ? (
        <span className="ml-auto">turned away {moment(device.revoked_at, zone)}</span>
      ) : (
        <Button
          look="plain"
          className="ml-auto"
          aria-label={`Turn ${device.name} away`}
          onClick={() => onTurnAway(device.id)}
        >
          Turn it away
        </Button>
      )}
    </li>
  );
}
