import { useState } from "react";
import { TextField } from "./Field";
import { readNumber } from "./number";

/** A number that is stored when it is left. */
export function StoredNumber({
  label,
  hint,
  value,
  low,
  onSave,
}: {
  label: string;
  hint: string;
  value: number | null;
  low: number;
  onSave: (value: number | null) => Promise<unknown>;
}) {
  const [typed, setTyped] = useState<string>();
  const [error, setError] = useState<string>();
  const save = () => {
    if (typed === undefined) return;
    const next = readNumber(typed);
    if (typed.trim() !== "" && !(next !== null && next >= low)) {
      setError(`A number of ${low} or more, or leave it empty.`);
      return;
    }
    onSave(next).then(
      () => {
        setTyped(undefined);
        setError(undefined);
      },
      (failed: Error) => setError(failed.message),
    );
  };
  return (
    <TextField
      label={label}
      hint={hint}
      error={error}
      inputMode="decimal"
      value={typed ?? (value === null ? "" : String(value))}
      onChange={setTyped}
      onBlur={save}
    />
  );
}
