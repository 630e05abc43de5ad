import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api, newId } from "../../../api/client";
import { refresh } from "../../../api/queries";
import type { NotebookLine } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { forgetDraft, keepDraft, keptDraft } from "../../../ui/draft";
import { ChoiceField } from "../../../ui/Field";
import { AreaInput, FormProblem, TextInput, useDraftForm } from "../../../ui/form";
import { asTyped, counted } from "../../../ui/format";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { useSettled } from "../../../ui/useSettled";
import { bandName } from "../../../ui/words";
import { nowLocal } from "../type-in/draft";
import { asRun, type Draft, measuredAt, type Sent, without } from "./lines";

/** Results of a notebook, one a line. */
export function Notebook({
  open,
  onOpenChange,
  siteId,
  setupId,
  onTable,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  siteId: string;
  setupId: string;
  /** Another way: a table from a file. */
  onTable: () => void;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title="Type in many results"
      description="One result a line: position, bearing, band, signal, speeds. What a line leaves out holds from the line before."
    >
      <NotebookForm siteId={siteId} setupId={setupId} onDone={() => onOpenChange(false)} />
      <p className="mt-5 flex flex-wrap items-center gap-3 border-t border-rule pt-4">
        Results in a spreadsheet or of another program?
        <Button onClick={onTable}>Import a table</Button>
      </p>
    </Sheet>
  );
}

const PAUSE_MS = 250;

function NotebookForm({ siteId, setupId, onDone }: { siteId: string; setupId: string; onDone: () => void }) {
  const notice = useNotice();
  const [initial] = useState<Draft>(() => ({ text: "", at: nowLocal(), means: [] }));
  const sentAt = `notebook-sent:${siteId}`;
  const path = { params: { path: { id: siteId } } };
  const read = (draft: Pick<Draft, "text" | "means">) =>
    answered(
      api.POST("/api/sites/{id}/notebook", {
        ...path,
        body: { text: draft.text, chosen: setupId, means: draft.means },
      }),
    );

  const save = async (draft: Draft) => {
    const lines = await read(draft);
    const unclear = lines.find((line) => line.question);
    if (unclear) throw new Error(`Line ${unclear.line}: ${unclear.question}`);
    if (lines.length === 0)
      throw new Error("Enter a line first, for instance gable 143 n78 -92 24 266/23.6/36.");
    const sent = keptDraft<Sent>(sentAt) ?? {};
    const kept = new Set<number>();
    for (const line of lines) {
      const said = JSON.stringify([draft.at, line]);
      const id = sent[said] ?? newId();
      sent[said] = id;
      keepDraft(sentAt, sent);
      try {
        const at = { params: { path: { id: line.setup_id ?? "" } } };
        await answered(api.POST("/api/setups/{id}/typed-runs", { ...at, body: asRun(line, draft.at, id) }));
      } catch (failed) {
        form.set({ text: without(draft.text, kept) });
        const before =
          kept.size > 0
            ? ` ${counted(kept.size, "line")} before it ${kept.size === 1 ? "is" : "are"} kept.`
            : "";
        throw new Error(`Line ${line.line}: ${failed instanceof Error ? failed.message : ""}${before}`);
      } finally {
        refresh(siteId);
      }
      kept.add(line.line);
    }
    forgetDraft(sentAt);
    notice(`${counted(lines.length, "result")} kept.`);
    onDone();
  };
  const form = useDraftForm<Draft>({ draft: `notebook:${siteId}`, initial, save });
  const { text, means, at } = form.values;
  const asked = useSettled({ text, means }, PAUSE_MS);
  const answer = useQuery({
    queryKey: ["notebook", siteId, setupId, asked],
    enabled: asked.text.trim() !== "",
    placeholderData: (before) => before,
    queryFn: () => read(asked),
  });
  const lines = text.trim() === "" ? [] : (answer.data ?? []);
  const questions = lines.filter((line) => line.question).length;
  return (
    <form
      onSubmit={form.submit}
      onKeyDown={(event) => {
        if (event.key === "Enter" && (event.ctrlKey || event.metaKey)) form.submit(event);
      }}
      className="flex flex-col gap-4"
      noValidate
    >
      <AreaInput
        of={form}
        name="text"
        at="/text"
        label="Results"
        hint="gable 143 n78 -92 24 266/23.6/36 is the setup at the gable that points to 143°, n78, −92 dBm, 24 dB, 266 Mbit/s down, 23.6 up, 36 ms. An average is marked so: 266/23.6/36 avg 3. Other words become notes. Ctrl and Enter save."
        rows={9}
      />
      <TextInput
        of={form}
        name="at"
        at="/measured_at"
        label="Measured at"
        hint="A line may begin with its own hour: 14:20"
        type="datetime-local"
      />
      {answer.isError && (
        <p role="alert" className="font-semibold text-starved">
          {answer.error.message}
        </p>
      )}
      <ol aria-label="What is understood" className="flex flex-col divide-y divide-rule border-y border-rule">
        {lines.map((line) => (
          <Understood
            key={line.line}
            line={line}
            at={at}
            onMeans={(name, setup) =>
              form.set({ means: [...means.filter((one) => one.name !== name), { name, setup_id: setup }] })
            }
          />
        ))}
      </ol>
      <FormProblem of={form} />
      <Button type="submit" look="filled" className="self-start" disabled={questions > 0}>
        {lines.length > 1 ? `Save ${lines.length} results` : "Save"}
      </Button>
      {questions > 0 && (
        <p className="text-sm text-muted">{counted(questions, "line")} to be cleared up first; see above.</p>
      )}
    </form>
  );
}

function Understood({
  line,
  at,
  onMeans,
}: {
  line: NotebookLine;
  at: string;
  onMeans: (name: string, setup: string) => void;
}) {
  const part = (value: number | null | undefined, words: (value: number) => string) =>
    value == null ? [] : [words(value)];
  const figures = [
    ...(line.band ? [bandName(line.band.technology, line.band.band)] : []),
    ...part(line.rsrp_dbm, (value) => `${asTyped(value)}\u202fdBm`),
    ...part(line.sinr_db, (value) => `SINR ${asTyped(value)}\u202fdB`),
    ...part(line.rsrq_db, (value) => `RSRQ ${asTyped(value)}\u202fdB`),
    ...part(line.download_mbps, (value) => `${asTyped(value)}\u202fMbit/s down`),
    ...part(line.upload_mbps, (value) => `${asTyped(value)} up`),
    ...part(line.idle_latency_ms, (value) => `${asTyped(value)}\u202fms`),
    ...part(line.average_of, (value) => `average of ${value} tests`),
  ];
  const clock =
    line.clock && at ? new Date(measuredAt(at, line)).toLocaleTimeString([], { timeStyle: "short" }) : "";
  return (
    <li className="py-2">
      <p>
        <strong>{line.setup ?? "?"}</strong>
        {figures.length > 0 && `: ${figures.join(", ")}`}
        {clock && ` at ${clock}`}
      </p>
      {(line.taken.length > 0 || line.notes) && (
        <p className="text-sm text-muted">
          {[...line.taken, ...(line.notes ? [`note: ${line.notes}`] : [])].join("; ")}
        </p>
      )}
      {line.question && (
        <p className="font-semibold text-starved">
          Line {line.line}: {line.question}
        </p>
      )}
      {line.maybe.length > 0 && (
        <div className="mt-1 max-w-80">
          <ChoiceField
            label={`“${line.name}” is`}
            value=""
            choices={[
              ["", "Choose"],
              ...line.maybe.map((one) => [one.setup_id, one.label] as [string, string]),
            ]}
            onChange={(setup) => setup && onMeans(line.name, setup)}
          />
        </div>
      )}
    </li>
  );
}
