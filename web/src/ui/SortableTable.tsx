import {
  type ColumnDef,
  createSortedRowModel,
  rowSortingFeature,
  tableFeatures,
  useTable,
} from "@tanstack/react-table";
import { type ReactNode, useMemo } from "react";
import { TableBox } from "./TableBox";

const features = tableFeatures({ rowSortingFeature, sortedRowModel: createSortedRowModel() });

/** A column: what stands in it, and by what its rows are put in order. */
export interface Column<R> {
  name: string;
  /** Rows without a value come last. A column without it is not sorted by. */
  sort?: (row: R) => number | string | null | undefined;
  cell: (row: R) => ReactNode;
  align?: "right";
  /** The name is for those who listen only. */
  unseen?: boolean;
}

const compare = (a: unknown, b: unknown) =>
  typeof a === "number" && typeof b === "number" ? a - b : String(a).localeCompare(String(b));

/** A table whose rows are put in order by a press on a column's name: up, down, and back as they came. */
export function SortableTable<R extends object>({
  label,
  rows,
  columns,
  rowKey,
  className,
}: {
  label: string;
  rows: readonly R[];
  columns: readonly Column<R>[];
  rowKey: (row: R) => string;
  className?: string;
}) {
  const known = columns.map(({ name }) => name).join("|");
  // biome-ignore lint/correctness/useExhaustiveDependencies: order goes by names; cells are drawn from the newest columns
  const defs = useMemo(
    () =>
      columns.map(
        ({ name, sort }): ColumnDef<typeof features, R> => ({
          id: name,
          accessorFn: (row) => sort?.(row) ?? undefined,
          enableSorting: sort !== undefined,
          sortFn: (a, b, id) => compare(a.getValue(id), b.getValue(id)),
          sortUndefined: "last",
          sortDescFirst: false,
        }),
      ),
    [known],
  );
  const table = useTable({ features, columns: defs, data: rows as R[], getRowId: rowKey });
  const heads = table.getHeaderGroups()[0]?.headers ?? [];
  return (
    <TableBox label={label} {...(className === undefined ? {} : { className })}>
      <table className="w-full border-collapse text-left">
        <thead className="text-sm text-muted">
          <tr>
            {heads.map((head, at) => {
              const column = columns[at];
              const sorted = head.column.getIsSorted();
              const right = column?.align === "right" ? "text-right" : "";
              if (!column || column.unseen)
                return (
                  <th key={head.id} scope="col">
                    <span className="sr-only">{column?.name}</span>
                  </th>
                );
              return (
                <th
                  key={head.id}
                  scope="col"
                  aria-sort={sorted === "asc" ? "ascending" : sorted === "desc" ? "descending" : undefined}
                  className={`py-1 pr-4 font-semibold ${right}`}
                >
                  {column.sort ? (
                    <button
                      type="button"
                      onClick={head.column.getToggleSortingHandler()}
                      className="prints min-h-9 text-left whitespace-nowrap text-inherit underline-offset-4 hover:underline"
                      title={`Put in order by ${column.name}`}
                    >
                      {column.name}
                      {sorted && (
                        <span aria-hidden="true" className="ml-1 print:hidden">
                          {sorted === "asc" ? "▲" : "▼"}
                        </span>
                      )}
                    </button>
                  ) : (
                    column.name
                  )}
                </th>
              );
            })}
          </tr>
        </thead>
        <tbody>
          {table.getRowModel().rows.map((row) => (
            <tr key={row.id} className="border-t border-rule align-top">
              {columns.map((column) => (
                <td key={column.name} className={`py-2 pr-4 ${column.align === "right" ? "text-right" : ""}`}>
                  {column.cell(row.original)}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </TableBox>
  );
}
