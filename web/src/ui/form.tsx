import { useMutation } from "@tanstack/react-query";
import {
  type ComponentProps,
  type FormEvent,
  type ReactNode,
  useLayoutEffect,
  useRef,
  useState,
} from "react";
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
import { Button } from "./Button";
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
  /** What its fields are called. */
  labels: Map<string, string>;
  /** It was changed meanwhile on another screen. */
  conflict: Conflict<D> | undefined;
}

/** What was stored meanwhile, as the form shows it, and the two ways on. */
export interface Conflict<D> {
  newer: D;
  keepMine: () => void;
  takeNewer: () => void;
}

/**
 * What was stored when typing began: as it is now until then, through a reload too, like the draft itself.
 */
function useSeen<E extends object>(draft: string | undefined, entity: E | undefined, dirty: boolean) {
  const seen = useRef(entity);
  const key = draft && entity ? `${draft}:seen` : undefined;
  useLayoutEffect(() => {
    if (key === undefined) return;
    if (!dirty) forgetDraft(key);
    else if (keptDraft(key) === undefined) keepDraft(key, seen.current);
  }, [dirty, key]);
  // What a save answered stands until something else comes.
  const last = useRef(entity);
  if (!dirty && last.current !== entity) {
    last.current = entity;
    seen.current = entity;
  }
  return {
    get: () => (dirty && key !== undefined ? keptDraft<E>(key) : undefined) ?? seen.current,
    now: (value: E) => {
      seen.current = value;
      if (key !== undefined && keptDraft(key) !== undefined) keepDraft(key, value);
    },
  };
}

const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

/**
 * A form whose values outlive a reload until they are saved (under `draft`, where one is given), and take over what is
 * stored as long as nothing was typed. What the server refuses is shown beside the field it names, else under the form.
 */
export function useDraftForm<D extends FieldValues, E extends object = never>({
  draft,
  initial,
  save,
  stored: entity,
  draftOf,
}: {
  draft?: string;
  initial: D;
  /** Stores the values; `seen`: what was stored when they began to be typed. Answers what is stored now, where it knows. */
  save: (values: D, seen: E | undefined) => Promise<unknown>;
  /** What `initial` is made from, and how: then a save over what was changed meanwhile is refused, and both are shown. */
  stored?: E | undefined;
  draftOf?: (stored: E) => D;
}): DraftForm<D> {
  const form = useForm<D>({ defaultValues: initial as DefaultValues<D>, reValidateMode: "onSubmit" });
  const pointers = useRef(new Map<string, Path<D>>()).current;
  const labels = useRef(new Map<string, string>()).current;
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
  const seen = useSeen(draft, entity, dirty);
  const [newer, setNewer] = useState<E>();
  const saved = (values: D, of: string | undefined, answer: unknown) => {
    setNewer(undefined);
    if (entity !== undefined && answer !== undefined) seen.now(answer as E);
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
    const there = error instanceof ApiError ? error.problem.newer : undefined;
    setNewer(entity === undefined ? undefined : (there as E | undefined));
    if (entity !== undefined && there) return;
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
    mutationFn: ({ values }: { values: D; of: string | undefined }) => save(values, seen.get()),
    onSettled: ended,
    onSuccess: (answer, { values, of }) => saved(values, of, answer),
    onError: refused,
  });
  // Back at what is stored, nothing is wrong any more.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only the step back counts
  useLayoutEffect(() => {
    if (dirty) return;
    form.clearErrors();
    setNewer(undefined);
    saving.reset();
  }, [dirty]);
  const submit = (event?: FormEvent) => {
    event?.preventDefault();
    if (going.current) return;
    going.current = true;
    // Reading numbers sets their values: those are saved, not the ones from before.
    void form.handleSubmit(() => saving.mutate({ values: form.getValues(), of: draft }), ended)();
  };
  const conflict = newer &&
    draftOf && {
      newer: draftOf(newer),
      keepMine: () => {
        seen.now(newer);
        submit();
      },
      takeNewer: () => {
        const values = draftOf(newer);
        if (draft !== undefined) forgetDraft(draft);
        replaced.current = shown.current.initial;
        stored.current = values;
        form.reset(values);
      },
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
    labels,
    conflict,
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
      {/* In a conflict there are two ways on, and they stand beside what differs. */}
      {!of.conflict && buttons}
    </form>
  );
}

/** What is wrong and stands beside no field. */
export function FormProblem<D extends FieldValues>({ of }: { of: DraftForm<D> }) {
  const { problem } = of;
  if (of.conflict) return <FormConflict of={of} conflict={of.conflict} />;
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
  label?: ReactNode;
  /** JSON Pointer by which the server names it. */
  at?: string | undefined;
  /** What is wrong with what was typed, before the server is asked. */
  check?: (value: never) => string | undefined | Promise<string | undefined>;
}

/** What was stored meanwhile beside what was typed. */
function FormConflict<D extends FieldValues>({ of, conflict }: { of: DraftForm<D>; conflict: Conflict<D> }) {
  const rows = Object.entries(conflict.newer).flatMap(([name, there]) => {
    const mine = textOf(of.values[name]);
    const theirs = textOf(there);
    return same(mine, theirs) ? [] : [{ name, label: of.labels.get(name) ?? name, mine, theirs }];
  });
  return (
    <div role="alert" className="col-span-full mt-2 border-l-4 border-starved pl-4">
      <p className="font-semibold">
        This was changed meanwhile, on another screen. Nothing was overwritten, and nothing you typed is lost.
      </p>
      <table className="mt-2 w-full text-left">
        <thead>
          <tr className="text-muted">
            <th className="pr-4 font-normal">Field</th>
            <th className="pr-4 font-normal">Stored now</th>
            <th className="font-normal">Yours</th>
          </tr>
        </thead>
        <tbody>
          {rows.map(({ name, label, mine, theirs }) => (
            <tr key={name} className="border-t border-rule align-top">
              <th className="py-1 pr-4 font-semibold">{label}</th>
              <td className="py-1 pr-4">{inWords(theirs)}</td>
              <td className="py-1">{inWords(mine)}</td>
            </tr>
          ))}
        </tbody>
      </table>
      <div className="mt-3 flex flex-wrap gap-3">
        <Button look="filled" onClick={conflict.keepMine}>
          Save mine
        </Button>
        <Button onClick={conflict.takeNewer}>Take what is stored</Button>
      </div>
    </div>
  );
}

const inWords = (value: unknown) =>
  value === "" || value == null ? "nothing" : typeof value === "object" ? "something else" : String(value);

const textOf = (value: unknown) => (value as EntryValue | null)?.text ?? value;

/** A field's value and what is wrong with it, until something else is typed. */
function useBound<D extends FieldValues>({ of, name, at, check, label }: Bound<D>) {
  if (typeof label === "string") of.labels.set(name, label);
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
  const { value, change, error, ref } = useBound({ of, name, at, check, label: rest.label } as Bound<D>);
  return <TextField {...rest} ref={ref} value={value ?? ""} onChange={change} error={error} />;
}

export function AreaInput<D extends FieldValues>({
  of,
  name,
  at,
  check,
  ...rest
}: Bound<D> & Without<ComponentProps<typeof TextArea>>) {
  const { value, change, error } = useBound({ of, name, at, check, label: rest.label } as Bound<D>);
  return <TextArea {...rest} value={value ?? ""} onChange={change} error={error} />;
}

export function ChoiceInput<D extends FieldValues, T extends string>({
  of,
  name,
  at,
  ...rest
}: Bound<D> & { label: string; hint?: ReactNode; choices: readonly (readonly [T, string])[] }) {
  const { value, change, error } = useBound({ of, name, at, label: rest.label });
  return <ChoiceField {...rest} value={value as T} onChange={change} error={error} />;
}

/** A field within a table: its name is for those who listen, what is wrong is told beneath the row. */
export function CellInput<D extends FieldValues>({ of, name, at, label }: Bound<D> & { label: string }) {
  const { value, change, error, ref } = useBound({ of, name, at, label });
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
  const { value, change, error } = useBound({ of, name, at, check, label: rest.label } as Bound<D>);
  return <EntryField {...rest} technology={technology} entry={value} onChange={change} serverError={error} />;
}

export function CheckInput<D extends FieldValues>({ of, name, at, label }: Bound<D> & { label: ReactNode }) {
  const { value, change, error } = useBound({ of, name, at, label } as Bound<D>);
  return (
    <div>
      <label className="flex min-h-11 items-center gap-3">
        <input
          type="checkbox"
          className="size-5 shrink-0 accent-(--action)"
          checked={value === true}
          onChange={(event) => change(event.target.checked)}
        />
        {label}
      </label>
      {error && (
        <p role="alert" className="text-sm font-semibold text-starved">
          {error}
        </p>
      )}
    </div>
  );
}
