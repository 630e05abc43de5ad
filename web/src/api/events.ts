import { useEffect, useState } from "react";
import { flush, measureClock } from "./outbox";
import { keys, queryClient, refresh, refreshPart } from "./queries";
import type { Event } from "./schema";

type Message = { event: Event } | { open: boolean } | { hello: true };

/**
 * Listens to a site's events for as long as the component is there. One stream serves all tabs of this browser:
 * the tab that holds the lock opens it and passes everything on. Answers whether the server is heard.
 */
export function useSiteEvents(siteId: string): boolean {
  const [open, setOpen] = useState(true);

  useEffect(() => {
    const channel = new BroadcastChannel(`events-${siteId}`);
    const ended = new AbortController();
    const last = new Map<string, Event>();

    const take = (event: Event) => {
      if (event.kind === "link") queryClient.setQueryData(keys.link(siteId), event.link);
      if (event.kind === "job") queryClient.setQueryData(keys.job(siteId), event.job);
      if (event.kind === "changed") refreshPart(siteId, event.change);
    };
    const pass = (message: Message) => channel.postMessage(message);

    channel.onmessage = ({ data }: MessageEvent<Message>) => {
      if ("event" in data) take(data.event);
      if ("open" in data) setOpen(data.open);
      // A tab that came later is told what was last heard.
      if ("hello" in data) for (const event of last.values()) pass({ event });
    };

    const lead = () =>
      new Promise<void>((resolve) => {
        const source = new EventSource(`/api/sites/${siteId}/events`);
        const heard = (raw: globalThis.Event) => {
          const event = JSON.parse((raw as MessageEvent<string>).data) as Event;
          last.set(event.kind, event);
          take(event);
          pass({ event });
        };
        for (const name of ["link", "job", "changed"]) source.addEventListener(name, heard);
        const say = (now: boolean) => {
          setOpen(now);
          pass({ open: now });
        };
        source.onopen = () => {
          say(true);
          // What waits goes out first, so that what is asked for then holds it.
          void measureClock()
            .then(flush)
            .finally(() => refresh(siteId));
        };
        source.onerror = () => say(false);
        ended.signal.addEventListener("abort", () => {
          source.close();
          resolve();
        });
      });

    pass({ hello: true });
    // Over plain HTTP on the local network there are no locks: each tab listens for itself.
    const turn = navigator.locks?.request(`events-${siteId}`, { signal: ended.signal }, lead) ?? lead();
    turn.catch(() => {
      // The component left before it was this tab's turn.
    });
    return () => {
      ended.abort();
      channel.close();
    };
  }, [siteId]);

  return open;
}
