import { discard, flush, useOutbox } from "../api/outbox";
import { Button } from "../ui/Button";
import { counted } from "../ui/format";

/** What waits on this device until the server answers, in order; and what the server does not take, with the reason. */
export function Outbox() {
  const waiting = useOutbox();
  if (waiting.length === 0) return null;
  return (
    <section aria-label="Waiting on this device" className="bg-lamp-wash px-5 py-2">
      <details>
        <summary className="min-h-11 py-2 font-semibold">
          {counted(waiting.length, "thing")} {waiting.length === 1 ? "waits" : "wait"} on this device. Nothing
          is lost.
        </summary>
        <ol className="flex flex-col gap-1 pb-2">
          {waiting.map((one) => (
            <li key={one.key} className="flex flex-wrap items-baseline gap-x-3">
              <strong>{one.label}</strong>
              <span className="text-muted">{new Date(one.at).toLocaleTimeString()}</span>
              {one.refused && (
                <>
                  <span role="alert" className="font-semibold text-starved">
                    Not taken: {one.refused}
                  </span>
                  <Button
                    look="plain"
                    aria-label={`Let go of ${one.label}`}
                    onClick={() => one.key !== undefined && void discard(one.key)}
                  >
                    Let go of it
                  </Button>
                </>
              )}
            </li>
          ))}
        </ol>
        <Button onClick={() => void flush()}>Try to send now</Button>
      </details>
    </section>
  );
}
