import { answered, api } from "../api/client";
import { Button } from "../ui/Button";
import { useAction } from "../ui/useAction";

/** A site that came from a file: what it would send and where, before anything of it is sent. */
export function WaitsToSend({ siteId, lines }: { siteId: string; lines: readonly string[] }) {
  const allow = useAction(siteId, () =>
    answered(api.POST("/api/sites/{id}/wake", { params: { path: { id: siteId } } })),
  );
  if (lines.length === 0) return null;
  return (
    <section aria-labelledby="waits" className="border-b border-rule bg-lamp-wash px-5 py-3">
      <h2 id="waits" className="font-bold">
        This site came from a file. Nothing is sent for it yet.
      </h2>
      <details open className="mt-1">
        <summary className="min-h-11 cursor-pointer py-2 font-semibold">
          What it would send, and where ({lines.length})
        </summary>
        <ul className="mt-1 list-disc pl-5 text-sm break-words">
          {lines.map((line) => (
            <li key={line}>{line}</li>
          ))}
        </ul>
      </details>
      <p className="mt-1 text-sm">
        Allow it only where each address is your own gateway or a test server you know. Otherwise change them
        first, under Settings.
      </p>
      <Button className="mt-2" onClick={allow.run} disabled={allow.busy}>
        Allow these requests
      </Button>
    </section>
  );
}
