import { useNavigate } from "@tanstack/react-router";
import type { BaselineView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ClassMark } from "../../ui/ClassMark";
import { TextInput, useDraftForm } from "../../ui/form";
import { range, significant } from "../../ui/format";
import { TableBox } from "../../ui/TableBox";
import { INSTRUMENTS } from "../../ui/words";
import { Section } from "../StageHeader";

/** Operators side by side, so that the plan is chosen before the kit. */
export function Networks({ view, onAdd }: { view: BaselineView; onAdd: (network: string) => void }) {
  const navigate = useNavigate();
  const form = useDraftForm({ initial: { name: "" }, save: async ({ name }) => onAdd(name.trim()) });
  const show = (network: string) =>
    void navigate({
      to: ".",
      search: (before) => ({ ...before, network, carrier: undefined }),
      resetScroll: false,
    });
  return (
    <Section title="Which network">
      {view.network_said.map((said) => (
        <p key={said.text} className="mb-2 max-w-3xl leading-snug">
          {said.text}
        </p>
      ))}
      {view.baseline.networks.length > 0 && (
        <TableBox label="Networks">
          <table className="w-full text-left leading-snug">
            <thead>
              <tr className="border-b border-rule text-sm text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
                <th>Network</th>
                <th>Bands heard</th>
                <th>Best spot</th>
                <th className="text-right">Possible on an empty cell, Mbit/s</th>
                <th className="text-right">Measured, Mbit/s</th>
              </tr>
            </thead>
            <tbody>
              {view.baseline.networks.map((row) => (
                <tr
                  key={row.network}
                  className={`border-b border-rule align-top [&>td]:px-2 [&>td]:py-2 ${row.network === view.baseline.network ? "bg-lamp-wash" : ""}`}
                >
                  <td>
                    <button
                      type="button"
                      aria-pressed={row.network === view.baseline.network}
                      onClick={() => show(row.network)}
                      className="prints text-left font-bold underline-offset-4 hover:underline"
                    >
                      {row.network || "The one in use"}
                    </button>
                    {row.in_use && row.network && <span className="block text-sm text-muted">in use</span>}
                  </td>
                  <td>{row.bands.join(", ") || "–"}</td>
                  <td>
                    {row.best_spot} {row.class && <ClassMark of={row.class} />}
                    <span className="block text-sm text-muted">{INSTRUMENTS[row.instrument]}</span>
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {row.possible_down_mbps ? range(row.possible_down_mbps, significant) : "–"}
                    {row.possible_up_mbps && (
                      <span className="block text-sm text-muted">
                        {range(row.possible_up_mbps, significant)} up
                      </span>
                    )}
                  </td>
                  <td className="text-right whitespace-nowrap">
                    {row.download_mbps != null ? significant(row.download_mbps) : "–"}
                    {row.upload_mbps != null && (
                      <span className="block text-sm text-muted">{significant(row.upload_mbps)} up</span>
                    )}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </TableBox>
      )}
      <form onSubmit={form.submit} className="mt-3 flex flex-wrap items-end gap-3" noValidate>
        <TextInput
          of={form}
          name="name"
          label="Another operator"
          hint="Tried with a second card, a borrowed phone or a modem's scan"
          check={(name: string) =>
            name.trim() === "" ? "The operator's name is needed, as you call it." : undefined
          }
        />
        <Button type="submit" className="mb-6">
          Add its reading
        </Button>
      </form>
    </Section>
  );
}
