import type { JudgedKit } from "../../api/schema";
import { signed, withUnit } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { Section } from "../StageHeader";

/** Parts with their quantities and prices. */
export function PartsTable({ judged, currency }: { judged: JudgedKit; currency: string }) {
  const { parts, effort } = judged.assessment;
  return (
    <TableBox label="Parts list">
      <table className="w-full leading-snug">
        <thead>
          <tr className="border-b border-rule text-left text-sm text-muted [&>th]:py-1 [&>th]:pr-4 [&>th]:font-semibold">
            <th>Pieces</th>
            <th>Part</th>
            <th>Each</th>
            <th>In stock</th>
            <th className="text-right">{currency}</th>
          </tr>
        </thead>
        <tbody>
          {parts.map((line, index) => (
            <tr
              // biome-ignore lint/suspicious/noArrayIndexKey: the same part may stand twice
              key={`${line.part_id}-${index}`}
              className="border-b border-rule [&>td]:py-1.5 [&>td]:pr-4"
            >
              <td>{line.pieces} ×</td>
              <td>{line.name}</td>
              <td>{line.length_m != null && withUnit(signed(line.length_m, 1), "m")}</td>
              <td>{line.stock ?? ""}</td>
              <td className="text-right">{line.price == null ? "no price" : signed(line.price, 2)}</td>
            </tr>
          ))}
          <tr className="font-bold [&>td]:py-1.5 [&>td]:pr-4">
            <td colSpan={4}>Together{effort.unpriced > 0 && `, ${effort.unpriced} without a price`}</td>
            <td className="text-right">{signed(effort.price, 2)}</td>
          </tr>
        </tbody>
      </table>
    </TableBox>
  );
}

export function effortWords(judged: JudgedKit): string {
  const { hours, holes, reversible } = judged.assessment.effort;
  const drilled = holes === 0 ? "nothing drilled" : `${holes} hole${holes === 1 ? "" : "s"}`;
  return `About ${signed(hours, hours < 10 ? 1 : 0)} hours for one person, ${drilled}, ${reversible ? "can be undone" : "leaves traces"}.`;
}

export function Cost({ judged, currency }: { judged: JudgedKit; currency: string }) {
  return (
    <Section title="What it takes">
      <p className="mb-2">{effortWords(judged)}</p>
      <PartsTable judged={judged} currency={currency} />
    </Section>
  );
}
