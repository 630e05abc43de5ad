import { useId } from "react";
import { answered, api } from "../../../api/client";
import { listProblem, readList } from "../../../api/lists";
import { catalogueChanged } from "../../../api/queries";
import type { CatalogueEntry, Part, PatternPoint } from "../../../api/schema";
import { Button } from "../../../ui/Button";
import { AreaInput, ChoiceInput, type DraftForm, Form, TextInput, useDraftForm } from "../../../ui/form";
import { useNotice } from "../../../ui/notices";
import { readNumber } from "../../../ui/number";
import { useAction } from "../../../ui/useAction";
import { PART_KINDS } from "../words";
import { FIELDS, outdoorFields, type PartField } from "./fields";

type Json = Record<string, unknown>;

const at = (spec: Json, path: string[]): unknown =>
  path.reduce<unknown>((value, key) => (value as Json | null | undefined)?.[key], spec);

function put(spec: Json, [key = "", ...rest]: string[], value: unknown): Json {
  return { ...spec, [key]: rest.length === 0 ? value : put((spec[key] as Json) ?? {}, rest, value) };
}

const shown = (field: PartField, value: unknown): string => {
  if (field.type === "number") return value == null ? "" : String(value).replace("-", "−");
  return String(value ?? "");
};

type Draft = {
  name: string;
  price: string;
  stock: string;
  notes: string;
  texts: Record<string, string>;
  pattern: PatternPoint[];
};

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
  // A dot would be a level of its own in the form.
  const key = (field: PartField) => field.path.join("_");
  const draftOf = (part: Part): Draft => ({
    name: part.name,
    price: part.price == null ? "" : String(part.price),
    stock: part.stock == null ? "" : String(part.stock),
    notes: part.notes ?? "",
    texts: Object.fromEntries(
      fields.map((field) => [
        key(field),
        field.type === "list"
          ? (entry.lists[field.path.join(".")] ?? "")
          : shown(field, at(part.spec as unknown as Json, field.path)),
      ]),
    ),
    pattern: part.spec.kind === "antenna" ? (part.spec.pattern ?? []) : [],
  });
  const initial = draftOf(part);
  const notice = useNotice();
  const save = async (draft: Draft, seen: Part | undefined) => {
    let changed = spec;
    for (const field of fields)
      changed = put(changed, field.path, await readField(field, draft.texts[key(field)] ?? ""));
    if (part.spec.kind === "antenna") changed = put(changed, ["pattern"], draft.pattern);
    const stock = readNumber(draft.stock);
    const body = {
      ...part,
      name: draft.name,
      price: readNumber(draft.price),
      stock: stock === null ? null : Math.round(stock),
      notes: draft.notes,
      spec: changed,
    } as unknown as Part;
    const path = { params: { path: { id: part.id } } };
    await answered(api.PUT("/api/catalogue/{id}", { ...path, body: { ...body, seen } }));
    catalogueChanged();
    notice(`${draft.name.trim()} is in the catalogue.`);
    onDone();
  };
  const form = useDraftForm({ draft: `part-2:${part.id}`, initial, save, stored: part, draftOf });
  const buttons = (
    <div className="flex flex-wrap gap-3">
      <Button type="submit" look="filled">
        Save the part
      </Button>
      <Button
        onClick={() => {
          form.discard();
          onDone();
        }}
      >
        {form.dirty ? "Leave it as it was" : "Close"}
      </Button>
    </div>
  );
  return (
    <Form of={form} buttons={buttons}>
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <TextInput
          of={form}
          name="name"
          at="/name"
          label={`Name of this ${PART_KINDS[part.spec.kind].one.toLowerCase()}`}
        />
        <TextInput
          of={form}
          name="price"
          at="/price"
          label="Price"
          hint="In the site's currency; without one it is not suggested"
          inputMode="decimal"
          check={(text: string) =>
            text.trim() !== "" && readNumber(text) === null ? "A price, or nothing." : undefined
          }
        />
        {fields.map((field) => (
          <OneField key={key(field)} form={form} field={field} name={`texts.${key(field)}`} />
        ))}
        <TextInput
          of={form}
          name="stock"
          at="/stock"
          label="In your own stock, pieces"
          hint="Empty where no stock is kept"
          inputMode="numeric"
          check={(text: string) =>
            text.trim() !== "" && !((readNumber(text) ?? -1) >= 0)
              ? "A number of pieces, or nothing."
              : undefined
          }
        />
      </div>
      {part.spec.kind === "antenna" && (
        <Pattern points={form.values.pattern} onChange={(pattern) => form.set({ pattern })} />
      )}
      <AreaInput of={form} name="notes" at="/notes" label="Notes" />
    </Form>
  );
}

/** What is wrong with what was typed for a field. */
function wrong(field: PartField, text: string): string | undefined | Promise<string | undefined> {
  if (field.type === "list") return listProblem(field.list, text);
  if (field.type !== "number" || readNumber(text) !== null) return undefined;
  return field.optional && text.trim() === "" ? undefined : "A number is needed here.";
}

/** What was typed for a field and is not wrong, as it is stored. */
function readField(field: PartField, text: string): unknown {
  if (field.type === "list") return readList(field.list, text);
  if (field.type === "number") return readNumber(text);
  if (field.type === "yes") return text === "true";
  return text === "" ? null : text;
}

function OneField({
  form,
  field,
  name,
}: {
  form: DraftForm<Draft>;
  field: PartField;
  name: `texts.${string}`;
}) {
  const bound = {
    of: form,
    name,
    at: `/spec/${field.path.join("/")}`,
    label: field.label,
    check: (text: string) => wrong(field, text),
  };
  if (field.type === "yes")
    return (
      <label className="flex min-h-11 items-center gap-3 sm:mt-6">
        <input
          type="checkbox"
          className="size-5 accent-action"
          checked={form.form.getValues(name) === "true"}
          onChange={(event) => form.set({ [name]: String(event.target.checked) } as never)}
        />
        {field.label}
      </label>
    );
  if (field.type === "choice") return <ChoiceInput {...bound} choices={field.choices} />;
  if (field.type === "list")
    return (
      <div className="sm:col-span-2">
        <AreaInput {...bound} hint={field.hint} rows={field.rows ?? 1} />
      </div>
    );
  return <TextInput {...bound} hint={field.hint} inputMode="decimal" />;
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
  const read = useAction(
    undefined,
    async (file: File) =>
      onChange(await answered(api.POST("/api/calc/pattern-text", { body: { text: await file.text() } }))),
    { beside: true },
  );
  const { problem } = read;
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
          if (file) read.run(file);
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
