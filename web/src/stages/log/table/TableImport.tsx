import { useState } from "react";
import { answered, api } from "../../../api/client";
import type { ResultField, ResultsPreview, ResultTableReading, TableQuestion } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { Choice, ColumnMap } from "../../../ui/ColumnMap";
import { ChoiceField } from "../../../ui/Field";
import { FileField } from "../../../ui/FileField";
import { counted } from "../../../ui/format";
import { useNotice } from "../../../ui/notices";
import { Sheet } from "../../../ui/Sheet";
import { useAction } from "../../../ui/useAction";
import { INSTRUMENTS } from "../../../ui/words";
import { HowRead } from "./HowRead";
import { Understood } from "./Understood";

const FIELDS: Record<ResultField, string> = {
  time: "Date and time",
  date: "Date",
  clock: "Time of day",
  place: "Position or setup",
  bearing: "Bearing (° T)",
  band: "Band",
  pci: "Physical cell identity (PCI)",
  rsrp: "RSRP",
  sinr: "SINR",
  rsrq: "RSRQ",
  download: "Download",
  upload: "Upload",
  latency: "Idle latency",
  average_of: "Average of (tests)",
  server: "Test server",
  notes: "Notes",
  ignored: "Not used",
};
const fields = Object.entries(FIELDS) as [ResultField, string][];
const instruments = Object.entries(INSTRUMENTS) as [ResultTableReading["instrument"] & string, string][];

/** Nothing is mapped or answered yet. */
export const UNREAD: ResultTableReading = {
  columns: [],
  decimal: null,
  date_order: null,
  zone: null,
  band: "",
  instrument: "gateway",
};

/** What is asked of the server: the file, how it is read, what names mean. */
type Asked = {
  file_name: string;
  text: string;
  reading: ResultTableReading;
  names: { name: string; setup_id: string }[];
  chosen: string;
};

/** Results made elsewhere, as a table. */
export function TableImport({
  open,
  onOpenChange,
  siteId,
  setupId,
  zone,
}: {
  open: boolean;
  onOpenChange: (open: boolean) => void;
  siteId: string;
  setupId: string;
  zone: string;
}) {
  return (
    <Sheet
      open={open}
      onOpenChange={onOpenChange}
      title="Import a table"
      description="Results of another program or a spreadsheet, saved as CSV: one result a row, with its date and time. They are kept as typed in, never as measured here."
    >
      <Import siteId={siteId} setupId={setupId} zone={zone} onDone={() => onOpenChange(false)} />
    </Sheet>
  );
}

function Import({
  siteId,
  setupId,
  zone,
  onDone,
}: {
  siteId: string;
  setupId: string;
  zone: string;
  onDone: () => void;
}) {
  const [asked, setAsked] = useState<Asked>();
  const notice = useNotice();
  const params = { path: { id: siteId } };
  const look = useAction(
    undefined,
    (of: Asked): Promise<ResultsPreview> =>
      answered(api.POST("/api/sites/{id}/result-tables/preview", { params, body: of })),
    { beside: true },
  );
  const ask = (of: Asked) => {
    setAsked(of);
    look.run(of);
  };
  const choose = async (picked: File) => {
    ask({ file_name: picked.name, text: await picked.text(), reading: UNREAD, names: [], chosen: setupId });
  };
  const bring = useAction(
    siteId,
    async (of: Asked, reading: ResultTableReading) => {
      const body = { ...of, reading };
      const done = await answered(api.POST("/api/sites/{id}/result-tables/import", { params, body }));
      const known = done.known > 0 ? ` ${counted(done.known, "row")} were here already.` : "";
      notice(`${counted(done.added, "row")} kept in ${counted(done.runs, "run")}.${known}`);
      onDone();
    },
    { beside: true },
  );
  const preview = look.answer;
  const problem = look.problem ?? bring.problem;
  return (
    <div className="flex flex-col gap-5">
      <FileField label="Table (CSV)" accept=".csv,.tsv,.txt" onChoose={(picked) => void choose(picked)} />
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      {asked && preview && (
        <Preview
          preview={preview}
          zone={zone}
          onReading={(reading) => ask({ ...asked, reading })}
          onMeans={(name, setup) =>
            ask({
              ...asked,
              reading: preview.reading,
              names: [...asked.names.filter((one) => one.name !== name), { name, setup_id: setup }],
            })
          }
          onBring={() => bring.run(asked, preview.reading)}
        />
      )}
    </div>
  );
}

function Preview({
  preview,
  zone,
  onReading,
  onMeans,
  onBring,
}: {
  preview: ResultsPreview;
  zone: string;
  onReading: (reading: ResultTableReading) => void;
  onMeans: (name: string, setup: string) => void;
  onBring: () => void;
}) {
  const { reading, questions, fresh } = preview;
  const columns = reading.columns ?? [];
  const names = questions.filter((one) => one.asks === "name");
  const missing = questions.filter((one) => one.asks === "columns" || one.asks === "unit");
  const unit = (at: number) => {
    const [first = "", ...others] = preview.units[at] ?? [];
    return others.length === 0 ? undefined : (
      <Choice
        label={`Unit of ${columns[at]?.heading}`}
        value={columns[at]?.unit ?? ""}
        choices={[
          ...(columns[at]?.unit ? [] : [["", `${first} (not said)`] as [string, string]]),
          ...[first, ...others].map((name) => [name, name] as [string, string]),
        ]}
        onChange={(chosen) =>
          onReading({
            ...reading,
            columns: columns.map((one, index) => (index === at ? { ...one, unit: chosen } : one)),
          })
        }
      />
    );
  };
  return (
    <>
      {missing.map((one) => (
        <Question key={one.text} text={one.text} />
      ))}
      <details open={missing.length > 0 || undefined}>
        <summary className="font-semibold">
          Columns
          <span className="font-normal text-muted">: {taken(columns)}</span>
        </summary>
        <ColumnMap
          columns={columns}
          choices={fields}
          ignored="ignored"
          firstRows={preview.first_rows}
          onFields={(given) =>
            onReading({
              ...reading,
              columns: columns.map((one, at) => ({ ...one, field: given[at] ?? "ignored" })),
            })
          }
          beside={unit}
        />
      </details>
      <HowRead reading={reading} questions={questions} zone={zone} onReading={onReading} />
      {names.map((one) => (
        <Name key={one.name} of={one} onMeans={onMeans} />
      ))}
      <div className="max-w-96">
        <ChoiceField
          label="Signal read from"
          value={reading.instrument ?? "gateway"}
          choices={instruments}
          onChange={(instrument) => onReading({ ...reading, instrument })}
        />
      </div>
      <Understood preview={preview} zone={zone} />
      <div>
        <Button look="filled" disabled={fresh === 0 || questions.length > 0} onClick={onBring}>
          {fresh === 0 && questions.length === 0 ? "Nothing new to keep" : `Keep ${counted(fresh, "row")}`}
        </Button>
        {questions.length > 0 && (
          <p className="mt-1 text-sm text-muted">{counted(questions.length, "question")} to answer first.</p>
        )}
      </div>
    </>
  );
}

/** "date and time, position or setup, download; “Operator” not used". */
function taken(columns: { heading: string; field: ResultField }[]): string {
  const used = columns.filter((one) => one.field !== "ignored").map((one) => FIELDS[one.field]);
  const unused = columns.filter((one) => one.field === "ignored").map((one) => `“${one.heading}”`);
  return [
    ...(used.length > 0 ? [used.join(", ")] : []),
    ...(unused.length > 0 ? [`${unused.join(", ")} not used`] : []),
  ].join("; ");
}

function Question({ text }: { text: string }) {
  return (
    <p role="status" className="border-l-4 border-lamp pl-3">
      {text}
    </p>
  );
}

function Name({ of, onMeans }: { of: TableQuestion; onMeans: (name: string, setup: string) => void }) {
  return (
    <div className="flex flex-col gap-2">
      <Question text={of.text} />
      {of.maybe.length > 0 && (
        <div className="max-w-96">
          <ChoiceField
            label={`“${of.name}” is`}
            value=""
            choices={[
              ["", "Choose"],
              ...of.maybe.map((one) => [one.setup_id, one.label] as [string, string]),
            ]}
            onChange={(setup) => setup && onMeans(of.name, setup)}
          />
        </div>
      )}
    </div>
  );
}
