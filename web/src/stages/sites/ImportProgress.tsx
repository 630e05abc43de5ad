import { useQuery } from "@tanstack/react-query";
import { Progress } from "radix-ui";
import { answered, api } from "../../api/client";
import { Button } from "../../ui/Button";
import { withUnit } from "../../ui/format";
import { useAction } from "../../ui/useAction";

const STAGES = {
  sending: "Sending the file",
  waiting: "Another file is being read; yours is next",
  reading: "Reading the file",
  comparing: "Comparing with what is here",
  storing: "Storing",
} as const;

/** How far a file has come, and a way to stop. Small ones are through before this is asked for. */
export function ImportProgress({ watch }: { watch: string }) {
  const params = { path: { id: watch } };
  // Not there yet while the file is on its way, and not any more just before the answer.
  const { data } = useQuery({
    queryKey: ["import", watch],
    queryFn: async () => (await api.GET("/api/import/{id}", { params })).data ?? null,
    refetchInterval: 500,
  });
  const stop = useAction(undefined, () => answered(api.DELETE("/api/import/{id}", { params })));
  const done = data && data.of > 0 ? Math.round((data.done / data.of) * 100) : undefined;
  const stage = STAGES[data?.stage ?? "sending"];
  return (
    <section className="mt-6 rounded-xl border border-edge bg-surface p-4" aria-label="Going on now">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <p className="text-lg font-bold">
          {stage}
          {done !== undefined && `, ${withUnit(String(done), "%")}`}
        </p>
        <Button disabled={!data || stop.busy} onClick={() => stop.run()}>
          Stop
        </Button>
      </div>
      <Progress.Root
        value={done ?? null}
        aria-label={stage}
        className="mt-3 h-2.5 overflow-hidden rounded-full border border-edge bg-ground"
      >
        <Progress.Indicator
          className="h-full bg-lamp transition-[width] duration-200"
          style={{ width: `${done ?? 0}%` }}
        />
      </Progress.Root>
    </section>
  );
}
