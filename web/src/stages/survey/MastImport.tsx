import { useState } from "react";
import { answered, api } from "../../api/client";
import type { MastColumn, MastField, MastsPreview } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ColumnMap } from "../../ui/ColumnMap";
import { FileField } from "../../ui/FileField";
import { counted } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";
import { FIELDS } from "./words";

const choices = Object.entries(FIELDS) as [MastField, string][];

/** A file of masts: read, its columns mapped in a preview, brought in. */
export function MastImport({ siteId, onDone }: { siteId: string; onDone: () => void }) {
  const [file, setFile] = useState<{ file_name: string; text: string }>();
  const notice = useNotice();
  const params = { path: { id: siteId } };
  const look = useAction(
    undefined,
    (given: { file_name: string; text: string }, columns: MastColumn[]): Promise<MastsPreview> =>
      answered(api.POST("/api/sites/{id}/masts/preview", { params, body: { ...given, columns } })),
    { beside: true },
  );
  const preview = look.answer;
  const choose = async (picked: File) => {
    const given = { file_name: picked.name, text: await picked.text() };
    setFile(given);
    look.run(given, []);
  };
  const bring = useAction(
    siteId,
    async () => {
      if (!file || !preview) return;
      const done = await answered(
        api.POST("/api/sites/{id}/masts/import", {
          params,
          body: { ...file, columns: preview.columns },
        }),
      );
      const known = done.known > 0 ? `, ${done.known} were here already` : "";
      const refused = done.refused > 0 ? `, ${done.refused} left out: a field cannot be` : "";
      notice(`${counted(done.added, "mast")} brought in${known}${refused}.`);
      onDone();
    },
    { beside: true },
  );
  const problem = look.problem ?? bring.problem;
  const fresh = preview?.masts.filter((one) => !one.known).length ?? 0;
  return (
    <div className="flex flex-col gap-5">
      <FileField
        label="File of masts"
        accept=".csv,.tsv,.txt,.geojson,.json,.kml,.xml"
        onChoose={(picked) => void choose(picked)}
      />
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      {preview && file && (
        <>
          <p className="text-lg">
            {preview.kind}, {counted(preview.rows, "row")}: {counted(preview.masts.length, "mast")}
            {preview.older > 0 && `; ${counted(preview.older, "row")} of technologies before LTE left out`}.
          </p>
          <ColumnMap
            columns={preview.columns}
            choices={choices}
            ignored="ignored"
            firstRows={preview.first_rows}
            onFields={(fields) =>
              look.run(
                file,
                preview.columns.map((one, at) => ({ ...one, field: fields[at] ?? "ignored" })),
              )
            }
          />
          {preview.problems.length > 0 && (
            <div>
              <p className="font-semibold">
                {counted(preview.problems.length, "row")} cannot be read and will be left out:
              </p>
              <ul className="mt-1">
                {preview.problems.slice(0, 8).map((one) => (
                  <li key={`${one.line}${one.reason}`}>
                    Line {one.line}: {one.reason}
                  </li>
                ))}
              </ul>
            </div>
          )}
          {preview.masts.some((one) => one.slips.length > 0) && (
            <ul className="border-l-4 border-starved pl-3">
              {preview.masts
                .filter((one) => one.slips.length > 0)
                .slice(0, 8)
                .map((one) => (
                  <li key={one.mast.id}>
                    <strong>{one.mast.name}</strong>: {one.slips.map((slip) => slip.text).join(" ")}
                  </li>
                ))}
            </ul>
          )}
          <div>
            <Button look="filled" disabled={fresh === 0} onClick={() => bring.run()}>
              {fresh === 0 ? "Nothing new to bring in" : `Bring ${counted(fresh, "mast")} in`}
            </Button>
          </div>
        </>
      )}
    </div>
  );
}
