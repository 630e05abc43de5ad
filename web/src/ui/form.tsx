import { useMutation } from "@tanstack/react-query";
import { type ComponentProps, type FormEvent, type ReactNode, useLayoutEffect, useRef } from "react";
import {
  type DefaultValues,
  type FieldPath,
  type FieldValues,
  type Path,
  type PathValue,
  type UseFormReturn,
  useController,
  useForm,
} from "react-hook-form";
import { ApiError } from "../api/client";
import type { Quantity, Technology } from "../api/schema";
import { forgetDraft, keepDraft, keptDraft } from "./draft";
import { EntryField, type EntryValue, readEntry } from "./EntryField";
import { ChoiceField, TextArea, TextField } from "./Field";

/** A form: its values, what is wrong with them, and what saves them. */
export interface DraftForm<D extends FieldValues> {
  form: UseFormReturn<D>;
  values: D;
  set: (part: Partial<D> | ((before: D) => Partial<D>)) => void;
  /** Something was typed that is not stored. */
  dirty: boolean;
  /** Goes back to what is stored. */
  discard: () => void;
  submit: (event?: FormEvent) => void;
  /** It is being saved. */
  busy: boolean;
  /** What is wrong and stands beside no field. */
  problem: string | undefined;
  /** The server's last refusal, for fields that are no part of the form library. */
  refused: ApiError | undefined;
  /** Which field shows what the server says of a JSON Pointer. */
  pointers: Map<string, Path<D>>;
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/**
 * A form whose values outlive a reload until they are saved (under `draft`, where one is given), and take over what is
 * stored as long as nothing was typed. What the server refuses is shown beside the field it names, else under the form.
 */
export function useDraftForm<D extends FieldValues>({
  draft,
  initial,
  save,
}: {
  draft?: string;
  initial: D;
  save: (values: D) => Promise<unknown>;
}): DraftForm<D> {
  const form = useForm<D>({ defaultValues: initial as DefaultValues<D>, reValidateMode: "onSubmit" });
  const pointers = useRef(new Map<string, Path<D>>()).current;
  const stored = useRef(initial);
  const { isDirty: dirty, errors } = form.formState;

  // biome-ignore lint/correctness/useExhaustiveDependencies: another draft is another form
  useLayoutEffect(() => {
    stored.current = initial;
    form.reset(initial);
    const kept = draft === undefined ? undefined : keptDraft<D>(draft);
    if (kept !== undefined) form.reset(kept, { keepDefaultValues: true });
    return form.subscribe({
      formState: { values: true },
      callback: ({ values }) => {
        if (draft === undefined) return;
        if (same(values, stored.current)) forgetDraft(draft);
        else keepDraft(draft, values);
      },
    });
  }, [draft]);

  /** What was stored when a save went out: until something else comes back, the form shows what was saved. */
  const replaced = useRef<D | undefined>(undefined);
  useLayoutEffect(() => {
    if (dirty || same(stored.current, initial) || same(replaced.current, initial)) return;
    replaced.current = undefined;
    stored.current = initial;
    form.reset(initial);
  }, [initial, dirty, form]);

  const shown = useRef({ draft, initial });
  shown.current = { draft, initial };
  const discard = () => {
    if (draft !== undefined) forgetDraft(draft);
    stored.current = initial;
    form.reset(initial);
  };
  const saved = (values: D, of: string | undefined) => {
    if (of !== undefined) forgetDraft(of);
    // What is saved may have led to another form already: that one is left as it is.
    if (of !== shown.current.draft) return;
    const typed = form.getValues();
    replaced.current = shown.current.initial;
    stored.current = values;
    form.reset(values);
    // What was typed while it was being saved stays.
    if (!same(typed, values)) form.reset(typed, { keepDefaultValues: true });
  };
  const set: DraftForm<D>["set"] = (part) => {
    const changed = typeof part === "function" ? part(form.getValues()) : part;
    for (const [name, value] of Object.entries(changed))
      form.setValue(name as Path<D>, value as PathValue<D, Path<D>>, { shouldDirty: true });
  };
  /** The field whose pointer a pointer is, or lies below. */
  const fieldOf = (pointer: string) =>
    [...pointers.keys()]
      .filter((one) => pointer === one || pointer.startsWith(`${one}/`))
      .sort((a, b) => b.length - a.length)[0];
  const refused = (error: Error) => {
    const said = error instanceof ApiError ? error.problem.errors : [];
    const beside = said.filter(({ pointer }) => fieldOf(pointer) !== undefined);
    const rest = said.filter(({ pointer }) => fieldOf(pointer) === undefined);
    for (const { pointer, detail } of beside)
      form.setError(pointers.get(fieldOf(pointer) ?? "") as Path<D>, { type: "server", message: detail });
    const message = said.length === 0 ? error.message : rest.map(({ detail }) => detail).join(" ");
    if (message !== "") form.setError("root.server", { type: "server", message });
  };
  // A second press may come before the page has been told of the first, or while numbers are being read.
  const going = useRef(false);
  const ended = () => {
    going.current = false;
  };
  const saving = useMutation({
    mutationFn: ({ values }: { values: D; of: string | undefined }) => save(values),
    onSettled: ended,
    onSuccess: (_, { values, of }) => saved(values, of),
    onError: refused,
  });
  // Back at what is stored, nothing is wrong any more.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the step back counts
  useLayoutEffect(() => {
    if (dirty) return;
    form.clearErrors();
    saving.reset();
  }, [dirty]);
  const submit = (event?: FormEvent) => {
    event?.preventDefault();
    if (going.current) return;
    going.current = true;
    // Reading numbers sets their values: those are saved, not the ones from before.
    void form.handleSubmit(() => saving.mutate({ values: form.getValues(), of: draft }), ended)();
  };
  return {
    form,
    values: form.watch(),
    set,
    dirty,
    discard,
    submit,
    busy: saving.isPending,
    problem: errors.root?.server?.message,
    refused: saving.error instanceof ApiError ? saving.error : undefined,
    pointers,
  };
}

/** A form with what is wrong with all of it, above its buttons. */
export function Form<D extends FieldValues>({
  of,
  buttons,
  children,
  className = "flex flex-col gap-4",
  label,
}: {
  of: DraftForm<D>;
  buttons: ReactNode;
  children: ReactNode;
  className?: string;
  label?: string;
}) {
  return (
    <form onSubmit={of.submit} className={className} noValidate aria-label={label}>
      {children}
      <FormProblem of={of} />
      {buttons}
    </form>
  );
}

/** What is wrong and stands beside no field. */
export function FormProblem<D extends FieldValues>({ of: { problem } }: { of: DraftForm<D> }) {
  if (!problem) return null;
  return (
    <p role="alert" className="col-span-full mt-2 font-semibold text-starved">
      {problem}
    </p>
  );
}

interface Bound<D extends FieldValues> {
  of: DraftForm<D>;
  name: FieldPath<D>;
  /** JSON Pointer by which the server names it. */
  at?: string | undefined;
  /** What is wrong with what was typed, before the server is asked. */
  check?: (value: never) => string | undefined | Promise<string | undefined>;
}

const textOf = (value: unknown) => (value as EntryValue | null)?.text ?? value;

/** A field's value and what is wrong with it, until something else is typed. */
function useBound<D extends FieldValues>({ of, name, at, check }: Bound<D>) {
  useLayoutEffect(() => {
    if (at === undefined) return;
    of.pointers.set(at, name);
    return () => void of.pointers.delete(at);
  }, [of.pointers, at, name]);
  const { field, fieldState } = useController({
    control: of.form.control,
    name,
    rules: { validate: async (value) => (await check?.(value as never)) ?? true },
  });
  const change = (value: unknown) => {
    if (fieldState.error && textOf(value) !== textOf(field.value)) of.form.clearErrors(name);
    field.onChange(value);
  };
  return { value: field.value, ref: field.ref, error: fieldState.error?.message, change };
}

type Without<P> = Omit<P, "value" | "onChange" | "error" | "name">;

export function TextInput<D extends FieldValues>({
  of,
  name,
  at,
  check,
  ...rest
}: Bound<D> & Without<ComponentProps<typeof TextField>>) {
  const { value, change, error, ref } = useBound({ of, name, at, check } as Bound<D>);
  return <TextField {...rest} ref={ref} value={value ?? ""} onChange={change} error={error} />;
}

export function AreaInput<D extends FieldValues>({
  of,
  name,
  at,
  check,
  ...rest
}: Bound<D> & Without<ComponentProps<typeof TextArea>>) {
  const { value, change, error } = useBound({ of, name, at, check } as Bound<D>);
  return <TextArea {...rest} value={value ?? ""} onChange={change} error={error} />;
}

export function ChoiceInput<D extends FieldValues, T extends string>({
  of,
  name,
  at,
  ...rest
}: Bound<D> & { label: string; hint?: ReactNode; choices: readonly (readonly [T, string])[] }) {
  const { value, change, error } = useBound({ of, name, at });
  return <ChoiceField {...rest} value={value as T} onChange={change} error={error} />;
}

/** A field within a table: its name is for those who listen, what is wrong is told beneath the row. */
export function CellInput<D extends FieldValues>({ of, name, at, label }: Bound<D> & { label: string }) {
  const { value, change, error, ref } = useBound({ of, name, at });
  return (
    <input
      ref={ref}
      aria-label={label}
      aria-invalid={error !== undefined || undefined}
      inputMode="decimal"
      className={`min-h-11 w-full rounded-lg border bg-surface px-3 ${error ? "border-starved" : "border-edge"}`}
      value={value ?? ""}
      onChange={(event) => change(event.target.value)}
    />
  );
}

/** A number with its unit, read by the core when it is left and when the form is saved. */
export function EntryInput<D extends FieldValues>({
  of,
  name,
  at,
  technology = "lte",
  ...rest
}: Bound<D> & { label: string; quantity: Quantity; technology?: Technology; hint?: string }) {
  const check = async (entry: EntryValue) => {
    const read = await readEntry(rest.quantity, technology, entry);
    of.form.setValue(name, read as PathValue<D, FieldPath<D>>, { shouldDirty: true });
    return read.asReported ? undefined : read.error;
  };
  const { value, change, error } = useBound({ of, name, at, check } as Bound<D>);
  return <EntryField {...rest} technology={technology} entry={value} onChange={change} serverError={error} />;
}

export function CheckInput<D extends FieldValues>({ of, name, label }: Bound<D> & { label: ReactNode }) {
  const { value, change } = useBound({ of, name });
  return (
    <label className="flex min-h-11 items-center gap-3">
      <input
        type="checkbox"
        className="size-5 accent-(--action)"
        checked={value === true}
        onChange={(event) => change(event.target.checked)}
      />
      {label}
    </label>
  );
}
