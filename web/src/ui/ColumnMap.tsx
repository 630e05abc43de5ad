import type { ReactNode } from "react";
import { TableBox } from "./TableBox";

/** Columns of a file: what each is taken as, and its first cells. A field that is given to another column leaves the one it was of. */
export function ColumnMap<F extends string>({
  columns,
  choices,
  ignored,
  firstRows,
  onFields,
  beside,
}: {
  columns: { heading: string; field: F }[];
  choices: [F, string][];
  ignored: F;
  firstRows: string[][];
  onFields: (fields: F[]) => void;
  /** More to choose for a column, its unit for instance. */
  beside?: (at: number) => ReactNode;
}) {
  const taken = (at: number, field: F) =>
    onFields(columns.map((one, index) => (index === at ? field : one.field === field ? ignored : one.field)));
  return (
    <TableBox label="Columns of the file">
      <table className="w-full border-collapse text-left">
        <thead className="text-sm text-muted">
          <tr>
            <th className="py-1 pr-4 font-semibold">Column</th>
            <th className="pr-4 font-semibold">Taken as</th>
            <th className="font-semibold">First rows</th>
          </tr>
        </thead>
        <tbody>
          {columns.map((column, at) => (
            <tr key={column.heading} className="border-t border-rule">
              <td className="py-2 pr-4">{column.heading}</td>
              <td className="py-2 pr-4">
                <div className="flex flex-wrap gap-2">
                  <Choice
                    label={`Column ${column.heading} taken as`}
                    value={column.field}
                    choices={choices}
                    onChange={(field) => taken(at, field)}
                  />
                  {beside?.(at)}
                </div>
              </td>
              <td className="py-2 text-muted">
                {firstRows
                  .map((row) => row[at])
                  .filter(Boolean)
                  .join(" · ")}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </TableBox>
  );
}

/** A choice in a cell: its label is heard and not seen. */
export function Choice<F extends string>({
  label,
  value,
  choices,
  onChange,
}: {
  label: string;
  value: F;
  choices: [F, string][];
  onChange: (value: F) => void;
}) {
  return (
    <select
      aria-label={label}
      value={value}
      className="min-h-11 rounded-lg border border-edge bg-surface px-2"
      onChange={(event) => onChange(event.target.value as F)}
    >
      {choices.map(([each, words]) => (
        <option key={each} value={each}>
          {words}
        </option>
      ))}
    </select>
  );
}
