import type { Metric } from "../../../api/schema";
import { EntryField } from "../../../ui/EntryField";
import { ChoiceField, TextField } from "../../../ui/Field";
import { type CarrierDraft, METRIC_FIELDS } from "./draft";

const METRIC_LABELS: Record<Metric, string> = {
  rsrp: "Signal power (RSRP)",
  sinr: "Signal-to-noise (SINR)",
  rsrq: "Signal quality (RSRQ)",
  rssi: "Total power (RSSI)",
};

const TECHNOLOGIES = [
  ["lte", "LTE (4G)"],
  ["nr", "NR (5G)"],
] as const;

/** One carrier's fields. */
export function CarrierFields({
  carrier,
  number,
  onChange,
}: {
  carrier: CarrierDraft;
  number: number;
  onChange: (part: (before: CarrierDraft) => CarrierDraft) => void;
}) {
  const lte = carrier.technology === "lte";
  return (
    <fieldset className="flex flex-col gap-3 border-t border-rule pt-3">
      <legend className="pr-2 text-lg font-bold">Carrier {number}</legend>
      <div className="grid grid-cols-2 gap-3 sm:grid-cols-5">
        <ChoiceField
          label="Technology"
          value={carrier.technology}
          choices={TECHNOLOGIES}
          onChange={(technology) => onChange((before) => ({ ...before, technology }))}
        />
        <TextField
          label="Band"
          hint={lte ? "B3 or 3" : "n78 or 78"}
          value={carrier.band}
          onChange={(band) => onChange((before) => ({ ...before, band }))}
        />
        <EntryField
          label="Width"
          quantity="bandwidth"
          entry={carrier.bandwidth}
          onChange={(bandwidth) => onChange((before) => ({ ...before, bandwidth }))}
        />
        <TextField
          label={lte ? "EARFCN" : "NR-ARFCN"}
          value={carrier.channel}
          onChange={(channel) => onChange((before) => ({ ...before, channel }))}
        />
        <TextField
          label="PCI"
          value={carrier.pci}
          onChange={(pci) => onChange((before) => ({ ...before, pci }))}
        />
      </div>
      <div className="grid grid-cols-2 gap-3">
        {METRIC_FIELDS.map((metric) => (
          <EntryField
            key={metric}
            label={METRIC_LABELS[metric]}
            quantity={metric}
            technology={carrier.technology}
            entry={carrier.values[metric]}
            onChange={(entry) =>
              onChange((before) => ({ ...before, values: { ...before.values, [metric]: entry } }))
            }
          />
        ))}
      </div>
    </fieldset>
  );
}
