import { type FormEvent, useId, useState } from "react";
import { ApiError, answered, api } from "../../../api/client";
import type { CatalogueEntry, Part, PatternPoint } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { ChoiceField, TextArea, TextField } from "../../../ui/Field";
import { useNotice } from "../../../ui/notices";
import { useDraft } from "../../../ui/useDraft";
import { typed } from "../draft";
import { catalogueChanged } from "../queries";
import { PART_KINDS } from "../words";
import { FIELDS, outdoorFields, type PartField } from "./fields";

type Json = Record<string, unknown>;

const at = (spec: Json, path: string[]): unknown =>
  path.reduce<unknown>((value, key) => (value as Json | null | undefined)?.[key], spec);

function put(spec: Json, [key = "", ...rest]: string[], value: unknown): Json {
  return { ...spec, [key]: rest.length === 0 ? value : put((spec[key] as Json) ?? {}, rest, value) };
}

const shown = (field: PartField, value: unknown): string => {
  if (field.type === "list") return field.write((value ?? []) as never);
  if (field.type === "number") return value == null ? "" : String(value).replace("-", "−");
  return String(value ?? "");
};

interface Draft {
  name: string;
  price: string;
  stock: string;
  notes: string;
  texts: Record<string, string>;
  pattern: PatternPoint[];
}

/** One part, every field open to change. */
export function PartForm({ entry, onDone }: { entry: CatalogueEntry; onDone: () => void }) {
  const { part } = entry;
  const spec = part.spec as unknown as Json;
  const fields = [
    ...FIELDS[part.spec.kind].filter(
      (field) => at(spec, field.path.slice(0, 1)) !== undefined || field.path[0] !== "antenna_end",
    ),
    ...(part.spec.kind === "gateway" && part.spec.outdoor ? outdoorFields : []),
  ].filter(
    (field) =>
      !(part.spec.kind === "arrestor" && part.spec.protects === "ethernet" && field.path[0] !== "lan_mbps"),
  );
  const key = (field: PartField) => field.path.join(".");
  const initial: Draft = {
    name: part.name,
    price: part.price == null ? "" : String(part.price),
    stock: part.stock == null ? "" : String(part.stock),
    notes: part.notes ?? "",
    texts: Object.fromEntries(fields.map((field) => [key(field), shown(field, at(spec, field.path))])),
    pattern: part.spec.kind === "antenna" ? (part.spec.pattern ?? []) : [],
  };
  const [draft, change, clear, dirty] = useDraft(`part:${part.id}`, initial);
  const [problems, setProblems] = useState<Record<string, string>>({});
  const [problem, setProblem] = useState<string>();
  const notice = useNotice();
  const text = (field: PartField) => draft.texts[key(field)] ?? "";
  const setText = (field: PartField, value: string) =>
    change((now) => ({ ...now, texts: { ...now.texts, [key(field)]: value } }));
  const save = async (event: FormEvent) => {
    event.preventDefault();
    const found: Record<string, string> = {};
    let changed = spec;
    for (const field of fields) {
      const value = text(field);
      if (field.type === "list") {
        const list = field.read(value);
        if (typeof list === "string") found[key(field)] = list;
        else changed = put(changed, field.path, list);
      } else if (field.type === "number") {
        const read = typed(value);
        if (read === null && !(field.optional && value.trim() === ""))
          found[key(field)] = "A number is needed here.";
        else changed = put(changed, field.path, read);
      } else if (field.type === "yes") changed = put(changed, field.path, value === "true");
      else changed = put(changed, field.path, value === "" ? null : value);
    }
    if (part.spec.kind === "antenna") changed = put(changed, ["pattern"], draft.pattern);
    const price = typed(draft.price);
    const stock = typed(draft.stock);
    if (draft.price.trim() !== "" && price === null) found.price = "A price, or nothing.";
    if (draft.stock.trim() !== "" && (stock === null || stock < 0))
      found.stock = "A number of pieces, or nothing.";
    setProblems(found);
    setProblem(undefined);
    if (Object.keys(found).length > 0) return;
    const body = {
      ...part,
      name: draft.name,
      price,
      stock: stock === null ? null : Math.round(stock),
      notes: draft.notes,
      spec: changed,
    } as unknown as Part;
    try {
      await answered(api.PUT("/api/catalogue/{id}", { params: { path: { id: part.id } }, body }));
      clear();
      catalogueChanged();
      notice(`${draft.name.trim()} is in the catalogue.`);
      onDone();
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      setProblem(error.message);
      const named = error.problem.errors.map((one): [string, string] => [
        one.pointer.replace(/^\/(spec\/)?/, "").replaceAll("/", "."),
        one.detail,
      ]);
      setProblems(Object.fromEntries(named));
    }
  };
  // A list's own entries are told at the list.
  const error = (field: PartField) =>
    problems[key(field)] ??
    Object.entries(problems).find(
      ([name]) => field.type === "list" && name.startsWith(`${key(field)}.`),
    )?.[1];
  return (
    <form onSubmit={(event) => void save(event)} className="flex flex-col gap-4" noValidate>
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <TextField
          label={`Name of this ${PART_KINDS[part.spec.kind].one.toLowerCase()}`}
          value={draft.name}
          onChange={(name) => change((now) => ({ ...now, name }))}
          error={problems.name}
        />
        <TextField
          label="Price"
          hint="In the site's currency; without one it is not suggested"
          inputMode="decimal"
          value={draft.price}
          onChange={(price) => change((now) => ({ ...now, price }))}
          error={problems.price}
        />
        {fields.map((field) => (
          <OneField
            key={key(field)}
            field={field}
            value={text(field)}
            error={error(field)}
            onChange={(value) => setText(field, value)}
          />
        ))}
        <TextField
          label="In your own stock, pieces"
          hint="Empty where no stock is kept"
          inputMode="numeric"
          value={draft.stock}
          onChange={(stock) => change((now) => ({ ...now, stock }))}
          error={problems.stock}
        />
      </div>
      {part.spec.kind === "antenna" && (
        <Pattern points={draft.pattern} onChange={(pattern) => change((now) => ({ ...now, pattern }))} />
      )}
      <TextArea
        label="Notes"
        value={draft.notes}
        onChange={(notes) => change((now) => ({ ...now, notes }))}
      />
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      <div className="flex flex-wrap gap-3">
        <Button type="submit" look="filled">
          Save the part
        </Button>
        <Button
          onClick={() => {
            clear();
            onDone();
          }}
        >
          {dirty ? "Leave it as it was" : "Close"}
        </Button>
      </div>
    </form>
  );
}

function OneField({
  field,
  value,
  error,
  onChange,
}: {
  field: PartField;
  value: string;
  error: string | undefined;
  onChange: (value: string) => void;
}) {
  if (field.type === "yes") {
    return (
      <label className="flex min-h-11 items-center gap-3 sm:mt-6">
        <input
          type="checkbox"
          className="size-5 accent-action"
          checked={value === "true"}
          onChange={(event) => onChange(String(event.target.checked))}
        />
        {field.label}
      </label>
    );
  }
  if (field.type === "choice")
    return (
      <ChoiceField
        label={field.label}
        value={value}
        choices={field.choices}
        onChange={onChange}
        error={error}
      />
    );
  if (field.type === "list")
    return (
      <div className="sm:col-span-2">
        <TextArea
          label={field.label}
          hint={field.hint}
          value={value}
          rows={field.rows ?? 1}
          onChange={onChange}
          error={error}
        />
      </div>
    );
  return (
    <TextField
      label={field.label}
      hint={field.hint}
      inputMode="decimal"
      value={value}
      onChange={onChange}
      error={error}
    />
  );
}

/** A measured pattern from a CSV file, in place of the one that the beamwidth draws. */
function Pattern({
  points,
  onChange,
}: {
  points: PatternPoint[];
  onChange: (points: PatternPoint[]) => void;
}) {
  const id = useId();
  const [problem, setProblem] = useState<string>();
  const read = async (file: File) => {
    try {
      onChange(await answered(api.POST("/api/calc/pattern-text", { body: { text: await file.text() } })));
      setProblem(undefined);
    } catch (error) {
      if (error instanceof ApiError) setProblem(error.field("/text") ?? error.message);
    }
  };
  return (
    <div className="flex flex-col gap-1">
      <label htmlFor={id} className="text-sm font-semibold">
        Measured pattern in azimuth, CSV
      </label>
      <input
        id={id}
        type="file"
        accept=".csv,.txt,text/csv"
        className="min-h-11 py-2"
        onChange={(event) => {
          const file = event.target.files?.[0];
          if (file) void read(file);
          event.target.value = "";
        }}
      />
      <p className="text-sm text-muted">
        Two columns, angle in degrees and gain in dB.{" "}
        {points.length > 0
          ? `${points.length} points are kept.`
          : "Without one, beamwidth and front-to-back ratio draw it."}
      </p>
      {points.length > 0 && (
        <Button look="plain" className="self-start" onClick={() => onChange([])}>
          Forget the pattern
        </Button>
      )}
      {problem && (
        <p role="alert" className="text-sm font-semibold text-starved">
          {problem}
        </p>
      )}
    </div>
  );
}
