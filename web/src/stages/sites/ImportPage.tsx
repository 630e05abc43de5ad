import { useNavigate } from "@tanstack/react-router";
import { useId, useState } from "react";
import { answered, api, newId } from "../../api/client";
import { keys, queryClient } from "../../api/queries";
import type { ImportReport } from "../../api/schema";
import { Button } from "../../ui/Button";
import { counted } from "../../ui/format";
import { useAction } from "../../ui/useAction";
import { ImportProgress } from "./ImportProgress";
import { Page } from "./Page";

const BINARY = {
  headers: { "content-type": "application/octet-stream" },
  bodySerializer: (body: unknown) => body as Blob,
};

/** Brings an exported site in: previewed first, all or nothing. */
export function ImportPage() {
  const navigate = useNavigate();
  const id = useId();
  const [file, setFile] = useState<File | null>(null);
  const [watch, setWatch] = useState<string | null>(null);
  const watched = async <T,>(ask: (watch: string) => Promise<T>): Promise<T> => {
    const begun = newId();
    setWatch(begun);
    try {
      return await ask(begun);
    } finally {
      setWatch(null);
    }
  };
  const preview = useAction(
    undefined,
    (chosen: File): Promise<ImportReport> => {
      setFile(chosen);
      bringIn.reset();
      return watched((watch) =>
        answered(
          api.POST("/api/import/preview", { ...BINARY, params: { query: { watch } }, body: chosen as never }),
        ),
      );
    },
    { beside: true },
  );
  const bringIn = useAction(
    undefined,
    async (copy: boolean) => {
      const done = await watched((watch) =>
        answered(
          api.POST("/api/import", { ...BINARY, params: { query: { copy, watch } }, body: file as never }),
        ),
      );
      await queryClient.invalidateQueries({ queryKey: keys.sites });
      if (done.site_id) await navigate({ to: "/sites/$siteId/verdict", params: { siteId: done.site_id } });
    },
    { beside: true },
  );
  const { answer: report } = preview;
  const problem = preview.problem ?? bringIn.problem;

  return (
    <Page
      title="Import a site"
      lead="A file that was exported here or elsewhere: zip with CSV tables, or JSON."
    >
      <div className="mt-8 flex flex-col gap-2">
        <label htmlFor={id} className="font-semibold">
          File
        </label>
        <input
          id={id}
          type="file"
          accept=".zip,.json,application/zip,application/json"
          disabled={watch !== null}
          className="rounded-lg border border-edge bg-surface p-2 file:mr-4 file:rounded-lg file:border file:border-edge file:bg-ground file:px-3 file:py-1.5 file:font-semibold"
          onChange={(event) => {
            const chosen = event.target.files?.[0];
            if (chosen) preview.run(chosen);
          }}
        />
      </div>
      {watch && <ImportProgress watch={watch} />}
      {problem && (
        <p role="alert" className="mt-6 font-semibold text-starved">
          {problem}
        </p>
      )}
      {report &&
        (report.problems.length > 0 ? (
          <Problems report={report} />
        ) : (
          <Plan report={report} onImport={bringIn.run} busy={bringIn.busy} />
        ))}
    </Page>
  );
}

function Problems({ report }: { report: ImportReport }) {
  return (
    <section className="mt-8">
      <h2 className="text-xl font-bold">
        {counted(report.problems.length, "row")} cannot be taken, so nothing would be.
      </h2>
      <p className="text-muted">Mend these in the file and choose it again.</p>
      <table className="mt-4 w-full text-left">
        <thead>
          <tr className="border-b border-rule">
            <th className="py-1 pr-4">File</th>
            <th className="py-1 pr-4">Line</th>
            <th className="py-1">Reason</th>
          </tr>
        </thead>
        <tbody>
          {report.problems.map((row) => (
            <tr key={`${row.file}-${row.line}-${row.reason}`} className="border-b border-rule align-top">
              <td className="py-1 pr-4">{row.file}</td>
              <td className="py-1 pr-4">{row.line ?? "–"}</td>
              <td className="py-1">{row.reason}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function Plan({
  report,
  onImport,
  busy,
}: {
  report: ImportReport;
  onImport: (copy: boolean) => void;
  busy: boolean;
}) {
  const parts = [
    counted(report.positions, "position"),
    counted(report.setups, "setup"),
    counted(report.runs, "run"),
    counted(report.samples, "sample"),
    counted(report.speed_tests, "speed test"),
    counted(report.attachments, "picture"),
  ];
  const nothingNew = report.new === 0 && report.conflicts === 0;
  return (
    <section className="mt-8">
      <h2 className="text-xl font-bold">{report.site_name}</h2>
      <p className="mt-1">{parts.join(", ")}.</p>
      <p className="mt-3">
        {nothingNew
          ? "All of it is here already, just the same."
          : `${counted(report.new, "row")} are new here${report.same > 0 ? `, ${report.same} are here already just the same` : ""}.`}
        {report.conflicts > 0 &&
          ` ${counted(report.conflicts, "row")} are here with other content; import it as a copy beside what is here.`}
      </p>
      <div className="mt-5 flex gap-3">
        {report.conflicts === 0 && !nothingNew && (
          <Button look="filled" disabled={busy} onClick={() => onImport(false)}>
            Import
          </Button>
        )}
        <Button
          look={report.conflicts > 0 ? "filled" : "outlined"}
          disabled={busy}
          onClick={() => onImport(true)}
        >
          Import as a copy
        </Button>
      </div>
    </section>
  );
}
