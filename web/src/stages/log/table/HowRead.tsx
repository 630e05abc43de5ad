import { useState } from "react";
import type { ResultTableReading, TableAsks, TableQuestion } from "../../../api/schema";
import { ChoiceField, TextField } from "../../../ui/Field";

/** Where a table can be read in two ways: what it tells itself or was answered, and what is still asked. */
export function HowRead({
  reading,
  questions,
  zone,
  onReading,
}: {
  reading: ResultTableReading;
  questions: TableQuestion[];
  zone: string;
  onReading: (reading: ResultTableReading) => void;
}) {
  const asked = (asks: TableAsks) => questions.find((one) => one.asks === asks)?.text;
  return (
    <div className="grid items-start gap-4 sm:grid-cols-2">
      <Either
        label="Decimal sign"
        value={reading.decimal}
        asked={asked("decimal")}
        choices={[
          ["point", "Point: 266.5"],
          ["comma", "Comma: 266,5"],
        ]}
        onChange={(decimal) => onReading({ ...reading, decimal })}
      />
      <Either
        label="Dates"
        value={reading.date_order}
        asked={asked("date_order")}
        choices={[
          ["day_first", "Day first: 31/12"],
          ["month_first", "Month first: 12/31"],
        ]}
        onChange={(date_order) => onReading({ ...reading, date_order })}
      />
      <Either
        label="Times"
        value={reading.zone}
        asked={asked("zone")}
        choices={[
          ["house", `The house's time (${zone})`],
          ["utc", "UTC"],
        ]}
        onChange={(chosen) => onReading({ ...reading, zone: chosen })}
      />
      <BandAsked
        band={reading.band ?? ""}
        asked={asked("band")}
        onBand={(band) => onReading({ ...reading, band })}
      />
    </div>
  );
}

function Either<T extends string>({
  label,
  value,
  asked,
  choices,
  onChange,
}: {
  label: string;
  value: T | null | undefined;
  asked: string | undefined;
  choices: [T, string][];
  onChange: (value: T) => void;
}) {
  // What is neither told nor asked makes no difference in this table.
  if (!value && !asked) return null;
  const open: [T | "", string][] = value ? choices : [["", "Choose"], ...choices];
  return (
    <ChoiceField<T | "">
      label={label}
      value={value ?? ""}
      error={asked}
      choices={open}
      onChange={(chosen) => chosen && onChange(chosen)}
    />
  );
}

function BandAsked({
  band,
  asked,
  onBand,
}: {
  band: string;
  asked: string | undefined;
  onBand: (band: string) => void;
}) {
  const [text, setText] = useState(band);
  if (!asked && !band) return null;
  return (
    <TextField
      label="Band of the signal"
      value={text}
      error={asked}
      onChange={setText}
      onBlur={() => text !== band && onBand(text)}
      onKeyDown={(event) => event.key === "Enter" && text !== band && onBand(text)}
    />
  );
}
