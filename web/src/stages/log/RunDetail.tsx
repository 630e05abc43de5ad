import { useId, useState } from "react";
import { answered, api } from "../../api/client";
import { refresh, useRun } from "../../api/queries";
import type { Conditions, CourseView, RunView, Sample, SpeedTest } from "../../api/schema";
import { RateCourse } from "../../drawings/RateCourse";
import { Button } from "../../ui/Button";
import { ChoiceInput, FormProblem, TextInput, useDraftForm } from "../../ui/form";
import { age, clock, halves, megabytes, moment, signed, significant, whole } from "../../ui/format";
import { type Column, SortableTable } from "../../ui/SortableTable";
import { TableBox } from "../../ui/TableBox";
import { useAction } from "../../ui/useAction";
import { ACTIVITIES, ATTACHES, bandName } from "../../ui/words";
import { attachPicture } from "./attach";
import { CarrierMedians } from "./CarrierMedians";
import { canBeCorrected } from "./type-in/draft";
import { TypeIn } from "./type-in/TypeIn";

/** Everything in one run: findings, tests, medians, raw samples, pictures, conditions. */
export function RunDetail({ id, zone, siteId }: { id: string; zone: string; siteId: string }) {
  const run = useRun(id, true);
  if (run.isError) return <p role="alert">{run.error.message}</p>;
  if (!run.data) return <p className="py-2 text-muted">Fetching…</p>;
  const view = run.data;
  return (
    <div className="mb-3 ml-6 flex flex-col gap-4 border-l-2 border-rule pl-4">
      {view.findings.map((said) => (
        <p key={said.text} className="border-l-4 border-lamp pl-3">
          {said.text}
        </p>
      ))}
      {view.speed_tests.length > 0 && <Tests tests={view.speed_tests} zone={zone} />}
      {(view.tested_over || view.page_load) && (
        <p className="text-sm text-muted">{[view.tested_over, view.page_load].filter(Boolean).join(" ")}</p>
      )}
      {view.courses.map((one) => (
        <TestCourse key={one.test_id} view={one} at={startOf(view, one.test_id, zone)} />
      ))}
      {view.samples.length > 0 && (
        <>
          <CarrierMedians radio={view.radio} />
          <details>
            <summary className="font-semibold">All {view.samples.length} raw samples</summary>
            <RawSamples samples={view.samples} zone={zone} />
          </details>
        </>
      )}
      {view.run.refresh_period_s != null && (
        <p className="text-sm text-muted">
          The gateway measured anew about every {age(view.run.refresh_period_s)}.
        </p>
      )}
      <Corrections view={view} siteId={siteId} zone={zone} />
      <Pictures view={view} siteId={siteId} />
      <ConditionsForm view={view} siteId={siteId} />
    </div>
  );
}

/** What was corrected and why, with what stood there before; the way to correct it once more. */
function Corrections({ view, siteId, zone }: { view: RunView; siteId: string; zone: string }) {
  const [open, setOpen] = useState(false);
  return (
    <>
      {view.amendments.map(({ amendment, before_said }) => (
        <div key={amendment.id} className="text-sm">
          <p>
            Corrected {moment(amendment.amended_at, zone)}
            {amendment.by && ` by ${amendment.by}`}: {amendment.why}
          </p>
          <p className="text-muted">
            Before: {before_said.join("; ")}, measured {moment(amendment.before.measured_at, zone)}.
          </p>
        </div>
      ))}
      {canBeCorrected(view) && (
        <>
          <Button className="self-start" onClick={() => setOpen(true)}>
            Correct this run
          </Button>
          <TypeIn
            open={open}
            onOpenChange={setOpen}
            siteId={siteId}
            setupId={view.run.setup_id}
            label="Correct this run"
            correct={view}
          />
        </>
      )}
    </>
  );
}

function startOf(view: RunView, test: string, zone: string): string {
  const found = view.speed_tests.find((one) => one.id === test);
  return found ? clock(found.started_at, zone) : "";
}

/** How one test went: what is to be said of it, and both directions drawn. */
function TestCourse({ view, at }: { view: CourseView; at: string }) {
  return (
    <details>
      <summary className="font-semibold">How the test at {at} went</summary>
      {view.said.map((sentence) => (
        <p key={sentence} className="mt-2 max-w-3xl">
          {sentence}
        </p>
      ))}
      <div className="mt-2 grid gap-4 xl:grid-cols-2">
        <RateCourse course={view.course} way="down" label={`Download of the test at ${at}`} />
        <RateCourse course={view.course} way="up" label={`Upload of the test at ${at}`} />
      </div>
      <p className="text-sm text-muted">Dashed: left out of the figure.</p>
    </details>
  );
}

const rate = (value: number | null | undefined) => (value == null ? "–" : significant(value));
const ms = (value: number | null | undefined) => (value == null ? "–" : whole(value));

function Tests({ tests, zone }: { tests: SpeedTest[]; zone: string }) {
  const columns: Column<SpeedTest>[] = [
    {
      name: "Test at",
      sort: (test) => test.started_at,
      cell: (test) => (
        <>
          {clock(test.started_at, zone)}
          {test.average_of != null && (
            <span className="block text-sm">Average of {test.average_of} tests</span>
          )}
          {test.reason && <span className="block max-w-64 text-sm">Partial: {test.reason}</span>}
        </>
      ),
    },
    figure("Down, Mbit/s", (test) => test.download_mbps, rate),
    figure("Up, Mbit/s", (test) => test.upload_mbps, rate),
    figure("Idle, ms", (test) => test.idle_latency_ms, ms),
    {
      name: "Loaded down / up, ms",
      align: "right",
      cell: (test) => `${ms(test.download_latency_ms)} / ${ms(test.upload_latency_ms)}`,
    },
    figure(
      "Lost",
      (test) => test.probe_loss,
      (loss) => (loss == null ? "–" : `${signed(loss * 100, 0)} %`),
    ),
    figure(
      "Data",
      (test) => (test.bytes_down ?? 0) + (test.bytes_up ?? 0),
      (bytes) => megabytes(bytes ?? 0),
    ),
  ];
  return (
    <SortableTable label="Speed tests of the run" rows={tests} rowKey={(test) => test.id} columns={columns} />
  );
}

const figure = (
  name: string,
  sort: (test: SpeedTest) => number | null | undefined,
  words: (value: number | null | undefined) => string,
): Column<SpeedTest> => ({ name, sort, align: "right", cell: (test) => words(sort(test)) });

function RawSamples({ samples, zone }: { samples: Sample[]; zone: string }) {
  return (
    <TableBox label="Raw samples" className="mt-2 max-h-96 overflow-y-auto">
      <table className="w-full text-right text-sm">
        <thead className="sticky top-0 bg-ground">
          <tr className="border-b border-rule text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
            <th className="text-left">Time</th>
            <th className="text-left">Traffic</th>
            <th className="text-left">Carrier</th>
            <th>PCI</th>
            <th>RSRP, dBm</th>
            <th>SINR, dB</th>
            <th>RSRQ, dB</th>
            <th>RSSI, dBm</th>
          </tr>
        </thead>
        <tbody>
          {samples.flatMap((sample) =>
            sample.carriers.map((carrier, index) => (
              <tr
                key={`${sample.id}-${carrier.technology}-${carrier.band}-${carrier.channel}-${carrier.pci}`}
                className={`[&>td]:px-2 [&>td]:py-0.5 ${index === 0 ? "border-t border-rule" : ""}`}
              >
                <td className="text-left">{index === 0 ? clock(sample.taken_at, zone) : ""}</td>
                <td className="text-left">{index === 0 ? ACTIVITIES[sample.activity] : ""}</td>
                <td className="text-left">
                  {bandName(carrier.technology, carrier.band)}
                  {carrier.flags && carrier.flags.length > 0 && " *"}
                </td>
                <td>{carrier.pci ?? "–"}</td>
                <td>{carrier.rsrp_dbm == null ? "–" : whole(carrier.rsrp_dbm)}</td>
                <td>{carrier.sinr_db == null ? "–" : halves(carrier.sinr_db)}</td>
                <td>{carrier.rsrq_db == null ? "–" : halves(carrier.rsrq_db)}</td>
                <td>{carrier.rssi_dbm == null ? "–" : whole(carrier.rssi_dbm)}</td>
              </tr>
            )),
          )}
        </tbody>
      </table>
    </TableBox>
  );
}

function Pictures({ view, siteId }: { view: RunView; siteId: string }) {
  const id = useId();
  const add = useAction(siteId, (file: File) => attachPicture(view.run.id, file), { beside: true });
  const { problem } = add;
  return (
    <div className="flex flex-wrap items-end gap-3">
      {view.attachments.map((picture) => (
        <a key={picture.id} href={`/api/attachments/${picture.id}`} target="_blank" rel="noreferrer">
          <img
            src={`/api/attachments/${picture.id}`}
            alt={picture.file_name}
            className="h-24 rounded border border-rule"
          />
        </a>
      ))}
      <div>
        <label htmlFor={id} className="text-sm font-semibold">
          Add a photo or screenshot
        </label>
        <input
          id={id}
          type="file"
          accept="image/png,image/jpeg,image/webp"
          className="block text-sm file:mr-3 file:rounded-lg file:border file:border-edge file:bg-surface file:px-3 file:py-1"
          onChange={(event) => {
            const file = event.target.files?.[0];
            if (file) add.run(file);
          }}
        />
        {problem && (
          <p role="alert" className="text-sm font-semibold text-starved">
            {problem}
          </p>
        )}
      </div>
    </div>
  );
}

const attaches = Object.entries(ATTACHES) as [
  "not_recorded" | "kept_attached" | "restarted_to_rescan",
  string,
][];

function ConditionsForm({ view, siteId }: { view: RunView; siteId: string }) {
  const conditions = view.run.conditions ?? {};
  const draftOf = (stored: Conditions): Required<Conditions> => ({
    attach: stored.attach ?? "not_recorded",
    instrument: stored.instrument ?? "gateway",
    network: stored.network ?? "",
    weather: stored.weather ?? "",
    notes: stored.notes ?? "",
  });
  const initial = draftOf(conditions);
  const save = async (draft: typeof initial, seen: Conditions | undefined) => {
    const path = { params: { path: { id: view.run.id } } };
    await answered(api.PUT("/api/runs/{id}/conditions", { ...path, body: { ...draft, seen } }));
    refresh(siteId);
    return draft;
  };
  const form = useDraftForm({
    draft: `conditions:${view.run.id}`,
    initial,
    save,
    stored: conditions,
    draftOf,
  });
  return (
    <form
      onSubmit={form.submit}
      className="grid items-end gap-3 sm:grid-cols-[12rem_1fr_1fr_auto]"
      noValidate
    >
      <ChoiceInput of={form} name="attach" label="Gateway before the run" choices={attaches} />
      <TextInput of={form} name="weather" at="/weather" label="Weather, leaves" />
      <TextInput of={form} name="notes" at="/notes" label="Notes" />
      <Button type="submit" disabled={!form.dirty}>
        Save
      </Button>
      <FormProblem of={form} />
    </form>
  );
}
