import { useEffect, useId, useRef, useState } from "react";
import { ApiError, answered, api } from "../api/client";
import type { Entry, Note, Quantity, Technology } from "../api/schema";
import { FieldFrame, fieldProps } from "./Field";
import { signed, withUnit } from "./format";

const UNITS: Record<Quantity, string> = {
  rsrp: "dBm",
  rsrq: "dB",
  sinr: "dB",
  rssi: "dBm",
  rate: "Mbit/s",
  latency: "ms",
  length: "m",
  bearing: "°",
  tilt: "°",
  bandwidth: "MHz",
};

const NOTES: Record<Note, string> = {
  made_negative: "minus sign added",
  decimal_comma: "comma read as decimal sign",
  converted: "converted",
  bytes_to_bits: "bytes turned into bits",
};

/** What stands in a number field, and what the core made of it. */
export interface EntryValue {
  text: string;
  value: number | null;
  error?: string | undefined;
  note?: string | undefined;
  /** Outside the reporting range and kept on purpose. */
  asReported?: boolean;
}

export const entryOf = (value: number | null | undefined): EntryValue => ({
  text: value == null ? "" : signed(value, Number.isInteger(value) ? 0 : 1),
  value: value ?? null,
});

function said(entry: Entry, unit: string): string | undefined {
  if (entry.notes.length === 0) return undefined;
  const value = withUnit(String(Math.round(entry.value * 100) / 100).replace("-", "−"), unit);
  return `Read as ${value}: ${entry.notes.map((note) => NOTES[note]).join(", ")}.`;
}

const minus = (value: number) => String(value).replace("-", "−");

/** Reads the text by the core's rules. */
export async function readEntry(
  quantity: Quantity,
  technology: Technology,
  typed: EntryValue,
): Promise<EntryValue> {
  const { text } = typed;
  if (text.trim() === "") return { text, value: null };
  try {
    const entry = await answered(api.POST("/api/calc/entry", { body: { quantity, technology, text } }));
    const unit = UNITS[quantity];
    const read = { text, value: entry.value, note: said(entry, unit) };
    if (entry.in_range) return read;
    const range = `${minus(entry.range.low)} to ${withUnit(minus(entry.range.high), unit)}`;
    return { ...read, asReported: typed.asReported ?? false, error: `Values run from ${range}.` };
  } catch (error) {
    const words =
      error instanceof ApiError ? (error.field("/text") ?? error.message) : "This could not be read.";
    return { text, value: null, error: words };
  }
}

const CAN_BE_KEPT: readonly Quantity[] = ["rsrp", "rsrq", "sinr", "rssi"];

/** A number field that forgives: a missing minus, a decimal comma, pasted units. */
export function EntryField({
  label,
  quantity,
  technology = "lte",
  entry,
  onChange,
  hint,
  serverError,
}: {
  label: string;
  quantity: Quantity;
  technology?: Technology;
  entry: EntryValue;
  onChange: (entry: EntryValue) => void;
  hint?: string;
  serverError?: string | undefined;
}) {
  const id = useId();
  const [reading, setReading] = useState(false);
  const latest = useRef(entry);
  latest.current = entry;
  const before = useRef(technology);

  const read = async (what: EntryValue) => {
    setReading(true);
    const answer = await readEntry(quantity, technology, what);
    setReading(false);
    // Typing may have gone on meanwhile; then this answer is of the past.
    if (latest.current.text === what.text) onChange(answer);
  };

  // The reporting range follows the technology: read again when it changes.
  useEffect(() => {
    if (before.current === technology) return;
    before.current = technology;
    if (latest.current.text.trim() !== "") void read(latest.current);
  });

  const kept = entry.asReported === true;
  const error = kept ? undefined : (entry.error ?? serverError);
  const shown = entry.note ?? hint;
  return (
    <FieldFrame label={`${label}, ${UNITS[quantity]}`} hint={shown} error={error} id={id}>
      <input
        {...fieldProps(id, { hint: shown, error })}
        inputMode="text"
        autoComplete="off"
        value={entry.text}
        aria-busy={reading || undefined}
        onChange={(event) =>
          onChange({ text: event.target.value, value: null, asReported: entry.asReported })
        }
        onBlur={() => void read(entry)}
      />
      {entry.asReported !== undefined &&
        entry.value !== null &&
        CAN_BE_KEPT.includes(quantity) &&
        entry.text !== "" && (
          <label className="mt-1 flex min-h-8 items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="size-5 accent-(--action)"
              checked={kept}
              onChange={(event) => onChange({ ...entry, asReported: event.target.checked })}
            />
            Keep as reported
          </label>
        )}
    </FieldFrame>
  );
}
