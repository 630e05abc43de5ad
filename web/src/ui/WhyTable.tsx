import type { WhyRow } from "../api/schema";
import { TableBox } from "./TableBox";

/** Where a figure comes from: gains and losses from the mast to the expected download, with what each rests on. */
export function WhyTable({ rows, of }: { rows: WhyRow[]; of?: string }) {
  if (rows.length === 0) return null;
  return (
    <details className="mt-3 max-w-3xl">
      <summary className="cursor-pointer py-2 font-semibold">
        Show where {of ? `the figures of the ${of}` : "these figures"} come from
      </summary>
      <TableBox label="Where these figures come from">
        <table className="w-full border-collapse text-left leading-snug">
          <thead className="text-sm text-muted">
            <tr className="[&>th]:py-1 [&>th]:pr-3 [&>th]:font-semibold">
              <th>Step</th>
              <th className="text-right">Value</th>
              <th>Rests on</th>
              <th className="text-right">Part of the range</th>
            </tr>
          </thead>
          <tbody>
            {rows.map((row) => (
              <tr
                key={row.what}
                className={`border-t border-rule align-top [&>td]:py-1.5 [&>td]:pr-3 ${row.is_sum ? "font-bold" : ""}`}
              >
                <td>{row.what}</td>
                <td className="text-right whitespace-nowrap">{row.figure}</td>
                <td className="font-normal text-muted sm:whitespace-nowrap">{row.rests_on}</td>
                <td className="text-right font-normal text-muted">{row.doubt}</td>
              </tr>
            ))}
          </tbody>
        </table>
      </TableBox>
    </details>
  );
}
