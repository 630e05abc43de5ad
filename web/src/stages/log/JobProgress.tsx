import { Progress } from "radix-ui";
import { answered, api } from "../../api/client";
import type { JobState } from "../../api/schema";
import { Button } from "../../ui/Button";
import { significant, withUnit } from "../../ui/format";
import { useAction } from "../../ui/useAction";

const STEPS = { idle_latency: "Latency on the idle line", download: "Download", upload: "Upload" } as const;
const ORDER = ["idle_latency", "download", "upload"] as const;

/** Share of a whole job, every sample and every third of a test one part. */
function share(job: JobState): number {
  const parts = job.samples_planned + job.tests_planned * 3;
  const test = job.test ? ORDER.indexOf(job.test.step) + job.test.share : 0;
  return parts === 0 ? 0 : (job.samples_taken + job.tests_done * 3 + test) / parts;
}

/** The running recording or test; it goes on at the server when this page is closed. */
export function JobProgress({ job, here }: { job: JobState; here: boolean }) {
  const done = Math.round(share(job) * 100);
  const recording = job.samples_taken < job.samples_planned;
  const title = recording
    ? `Sample ${Math.min(job.samples_taken + 1, job.samples_planned)} of ${job.samples_planned}`
    : job.test
      ? `Test ${job.tests_done + 1} of ${job.tests_planned}: ${STEPS[job.test.step].toLowerCase()}`
      : "Finishing";
  const cancel = useAction(
    undefined,
    () => answered(api.POST("/api/runs/{id}/cancel", { params: { path: { id: job.run_id } } })),
    { beside: true },
  );
  const { problem } = cancel;
  return (
    <section className="mt-5 rounded-xl border border-edge bg-surface p-5" aria-label="Going on now">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <div>
          <p className="text-xl font-bold">{title}</p>
          <p className="text-muted">
            {here ? "Leave the antenna as it is." : "This runs on another setup of this site."}{" "}
            {recording ? "Only new measurements of the gateway count." : "It moves real data over your plan."}
          </p>
        </div>
        <p className="text-3xl font-bold" aria-live="off">
          {job.test?.mbps != null ? (
            <>
              {significant(job.test.mbps)}{" "}
              <span className="text-base font-normal text-muted">Mbit/s now</span>
            </>
          ) : (
            withUnit(String(done), "%")
          )}
        </p>
        <Button disabled={cancel.busy} onClick={() => cancel.run()}>
          Cancel, keep what was taken
        </Button>
      </div>
      <Progress.Root
        value={done}
        aria-label="Progress"
        className="mt-4 h-2.5 overflow-hidden rounded-full border border-edge bg-ground"
      >
        <Progress.Indicator
          className="h-full bg-lamp transition-[width] duration-200"
          style={{ width: `${done}%` }}
        />
      </Progress.Root>
      {problem && (
        <p role="alert" className="mt-2 font-semibold text-starved">
          {problem}
        </p>
      )}
    </section>
  );
}
