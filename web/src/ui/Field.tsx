import { type ComponentProps, type ReactNode, useId } from "react";

interface Labelled {
  label: string;
  hint?: ReactNode;
  error?: string | undefined;
}

const INPUT =
  "w-full rounded-lg border bg-surface px-3 py-2 min-h-11 max-lg:min-h-14 text-base text-ink placeholder:text-muted disabled:opacity-60";

/** Label above, hint and error below, tied together for those who listen. */
export function FieldFrame({
  label,
  hint,
  error,
  id,
  children,
}: Labelled & { id: string; children: ReactNode }) {
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-sm font-semibold">
        {label}
      </label>
      {children}
      {hint !== undefined && hint !== "" && (
        <p id={`${id}-hint`} className="text-sm text-muted">
          {hint}
        </p>
      )}
      {error !== undefined && (
        <p id={`${id}-error`} role="alert" className="text-sm font-semibold text-starved">
          {error}
        </p>
      )}
    </div>
  );
}

export function fieldProps(id: string, { hint, error }: Pick<Labelled, "hint" | "error">) {
  const described = [hint ? `${id}-hint` : "", error ? `${id}-error` : ""].filter(Boolean).join(" ");
  return {
    id,
    "aria-invalid": error !== undefined || undefined,
    "aria-describedby": described || undefined,
    className: `${INPUT} ${error !== undefined ? "border-starved" : "border-edge"}`,
  };
}

export function TextField({
  label,
  hint,
  error,
  value,
  onChange,
  ...rest
}: Labelled & { value: string; onChange: (text: string) => void } & Omit<
    ComponentProps<"input">,
    "onChange" | "value"
  >) {
  const id = useId();
  return (
    <FieldFrame label={label} hint={hint} error={error} id={id}>
      <input
        {...rest}
        {...fieldProps(id, { hint, error })}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </FieldFrame>
  );
}

export function TextArea({
  label,
  hint,
  error,
  value,
  onChange,
  rows = 2,
}: Labelled & { value: string; onChange: (text: string) => void; rows?: number }) {
  const id = useId();
  return (
    <FieldFrame label={label} hint={hint} error={error} id={id}>
      <textarea
        {...fieldProps(id, { hint, error })}
        rows={rows}
        value={value}
        onChange={(event) => onChange(event.target.value)}
      />
    </FieldFrame>
  );
}

/** A choice from a fixed list; the browser's own select, which every keyboard and phone knows. */
export function ChoiceField<T extends string>({
  label,
  hint,
  error,
  value,
  choices,
  onChange,
}: Labelled & { value: T; choices: readonly (readonly [T, string])[]; onChange: (value: T) => void }) {
  const id = useId();
  return (
    <FieldFrame label={label} hint={hint} error={error} id={id}>
      <select
        {...fieldProps(id, { hint, error })}
        value={value}
        onChange={(event) => onChange(event.target.value as T)}
      >
        {choices.map(([key, words]) => (
          <option key={key} value={key}>
            {words}
          </option>
        ))}
      </select>
    </FieldFrame>
  );
}
