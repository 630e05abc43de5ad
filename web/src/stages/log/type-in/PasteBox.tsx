import { useState } from "react";
import { answered, api } from "../../../api/client";
import type { Pasted, PasteTarget } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { TextArea } from "../../../ui/Field";
import { TableBox } from "../../../ui/TableBox";
import { useAction } from "../../../ui/useAction";
import { bandName, CONFIDENCES } from "../../../ui/words";

const TARGETS: Record<PasteTarget, string> = {
  rsrp: "RSRP, dBm",
  rsrq: "RSRQ, dB",
  sinr: "SINR, dB",
  rssi: "RSSI, dBm",
  band: "band",
  channel: "channel number",
  bandwidth: "bandwidth, MHz",
  pci: "PCI",
  cell_identity: "cell identity",
  mode: "connection",
  rank: "rank",
  cqi: "CQI",
  mcs: "MCS",
  timing_advance: "timing advance",
  transmit_power: "transmit power, dBm",
};

/** Takes a status page as it comes off the clipboard and shows what was understood, field by field. */
export function PasteBox({ onRead }: { onRead: (pasted: Pasted) => void }) {
  const [text, setText] = useState("");
  const read = useAction(
    undefined,
    async () => {
      const answer = await answered(api.POST("/api/calc/paste", { body: { text } }));
      if (answer.carriers.length > 0) onRead(answer);
      return answer;
    },
    { beside: true },
  );
  return (
    <div className="flex flex-col gap-3">
      <TextArea
        label="Paste the status page"
        hint="Text, a table, JSON, HTML or a modem's answers, in any wording. The fields below are filled from it."
        value={text}
        onChange={setText}
        rows={4}
        error={read.problem}
      />
      <Button className="self-start" disabled={text.trim() === ""} onClick={() => read.run()}>
        Read it
      </Button>
      {read.answer && <Understood pasted={read.answer} />}
    </div>
  );
}

function Understood({ pasted }: { pasted: Pasted }) {
  const nameOf = (index: number | null | undefined) => {
    const carrier = index == null ? undefined : pasted.carriers[index];
    return carrier ? bandName(carrier.technology, carrier.band) : "all";
  };
  return (
    <div role="status" className="border-l-4 border-structure pl-3">
      {pasted.fields.length === 0 ? (
        <p className="font-semibold">
          Nothing was understood. Copy the part with RSRP or SINR, or type the numbers in below.
        </p>
      ) : (
        <TableBox label="What was understood">
          <table className="w-full text-left text-sm leading-snug">
            <thead>
              <tr className="border-b border-rule text-muted [&>th]:px-2 [&>th]:py-1 [&>th]:font-semibold">
                <th>On the page</th>
                <th>Read as</th>
                <th>Carrier</th>
                <th>How sure</th>
              </tr>
            </thead>
            <tbody>
              {pasted.fields.map((field, index) => (
                <tr
                  // biome-ignore lint/suspicious/noArrayIndexKey: a page may say the same twice
                  key={index}
                  className="border-b border-rule align-top [&>td]:px-2 [&>td]:py-1"
                >
                  <td className="break-all">
                    {field.label} <strong>{field.text}</strong>
                  </td>
                  <td>{TARGETS[field.target]}</td>
                  <td>{nameOf(field.carrier)}</td>
                  <td>
                    {CONFIDENCES[field.confidence]}
                    {field.note && <span className="block text-muted">{field.note}</span>}
                  </td>
                </tr>
              ))}
            </tbody>
          </table>
        </TableBox>
      )}
      {pasted.not_understood.length > 0 && (
        <details className="mt-2 text-sm" open={pasted.fields.length === 0}>
          <summary className="font-semibold">
            Not understood: {pasted.not_understood.length} part{pasted.not_understood.length === 1 ? "" : "s"}
          </summary>
          <ul className="mt-1 max-h-40 overflow-y-auto text-muted">
            {pasted.not_understood.map((part, index) => (
              // biome-ignore lint/suspicious/noArrayIndexKey: a page may say the same twice
              <li key={index} className="break-all">
                {part}
              </li>
            ))}
          </ul>
        </details>
      )}
    </div>
  );
}
