import { useCallback, useMemo } from "react";
import { useFieldArray } from "react-hook-form";
import { FieldError, newId } from "../../api/client";
import type { Mast, MastCell, Technology } from "../../api/schema";
import { Button } from "../../ui/Button";
import { AreaInput, ChoiceInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { readNumber } from "../../ui/number";
import { pointText, putMast, readPoints } from "./queries";

type CellDraft = {
  technology: Technology;
  band: string;
  channel: string;
  width: string;
  pci: string;
  node: string;
  local: string;
  bearing: string;
  power: string;
};

type Draft = {
  name: string;
  operator: string;
  place: string;
  height: string;
  cells: CellDraft[];
  notes: string;
};

const EMPTY: CellDraft = {
  technology: "lte",
  band: "",
  channel: "",
  width: "",
  pci: "",
  node: "",
  local: "",
  bearing: "",
  power: "",
};

const text = (value: number | null | undefined) => (value == null ? "" : String(value));
/** Empty is none; what is no number is told from it, so that it is not lost silently. */
const number = (typed: string, unit?: string): number | null =>
  typed.trim() === "" ? null : (readNumber(typed, unit) ?? Number.NaN);

function cellDraft(cell: MastCell): CellDraft {
  return {
    technology: cell.technology,
    band: text(cell.band),
    channel: text(cell.channel),
    width: text(cell.bandwidth_mhz),
    pci: text(cell.pci),
    node: text(cell.node),
    local: text(cell.local_cell),
    bearing: text(cell.bearing_deg),
    power: text(cell.power_dbm),
  };
}

const cellOf = (cell: CellDraft): MastCell => ({
  technology: cell.technology,
  band: number(cell.band),
  channel: number(cell.channel),
  bandwidth_mhz: number(cell.width, "MHz"),
  pci: number(cell.pci),
  node: number(cell.node),
  local_cell: number(cell.local),
  bearing_deg: number(cell.bearing, "°"),
  power_dbm: number(cell.power, "dBm"),
});

const TECHNOLOGIES: readonly (readonly [Technology, string])[] = [
  ["lte", "LTE"],
  ["nr", "NR"],
];

const notNumber = (typed: string) => (Number.isNaN(number(typed)) ? "A number, or nothing." : undefined);

/** Fields of a cell: name, what the server calls it, label, example. */
const FIELDS: readonly [keyof Omit<CellDraft, "technology">, string, string, string][] = [
  ["band", "band", "Band", "3"],
  ["channel", "channel", "Channel number", "1300"],
  ["width", "bandwidth_mhz", "Width, MHz", "20"],
  ["pci", "pci", "PCI", "211"],
  ["node", "node", "Base station", "6699"],
  ["local", "local_cell", "Local cell", "2"],
  ["bearing", "bearing_deg", "Bearing, ° T", "320"],
  ["power", "power_dbm", "Power, dBm", "46"],
];

/** A mast by hand. */
export function MastForm({
  siteId,
  mast,
  network,
  onDone,
}: {
  siteId: string;
  mast: Mast | undefined;
  network: string;
  onDone: () => void;
}) {
  const draftOf = useCallback(
    (mast: Mast | undefined): Draft => ({
      name: mast?.name ?? "",
      operator: mast?.operator ?? network,
      place: mast ? pointText(mast.place) : "",
      height: text(mast?.height_m),
      cells: (mast?.cells ?? []).map(cellDraft),
      notes: mast?.notes ?? "",
    }),
    [network],
  );
  const initial = useMemo(() => draftOf(mast), [draftOf, mast]);
  const save = async (draft: Draft, seen: Mast | undefined) => {
    const [place] = await readPoints(draft.place, "/place");
    if (!place)
      throw new FieldError("/place", "Latitude and longitude are needed, for instance 61.4213, 8.2087.");
    const stored = {
      id: mast?.id ?? newId(),
      site_id: siteId,
      name: draft.name,
      operator: draft.operator,
      place,
      height_m: number(draft.height),
      cells: draft.cells.map(cellOf),
      notes: draft.notes,
    };
    await putMast(siteId, stored, { seen });
    onDone();
  };
  const form = useDraftForm({
    draft: `mast:${mast?.id ?? `new:${siteId}`}`,
    initial,
    save,
    stored: mast,
    draftOf,
  });
  const cells = useFieldArray({ control: form.form.control, name: "cells" });
  const last = form.values.cells.at(-1) ?? EMPTY;
  const buttons = (
    <div className="flex gap-3">
      <Button look="filled" type="submit">
        Save the mast
      </Button>
      <Button
        onClick={() => {
          form.discard();
          onDone();
        }}
      >
        Cancel
      </Button>
    </div>
  );

  return (
    <Form of={form} buttons={buttons}>
      <TextInput of={form} name="name" at="/name" label="Name" />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextInput
          of={form}
          name="place"
          at="/place"
          label="Latitude, longitude"
          hint="61.4213, 8.2087 or 61°25′17″N 8°12′31″E"
        />
        <TextInput
          of={form}
          name="height"
          at="/height_m"
          label="Antennas above ground, m"
          hint="Empty: the site's usual mast height."
          inputMode="decimal"
          check={notNumber}
        />
      </div>
      <TextInput
        of={form}
        name="operator"
        at="/operator"
        label="Operator"
        hint="Masts of other operators count as interference only."
      />
      <fieldset className="flex flex-col gap-4">
        <legend className="mb-2 font-bold">Cells</legend>
        {/* The list's own keys are made after a kept draft is taken up: the values say how many there are. */}
        {form.values.cells.map((_, at) => (
          <div key={cells.fields[at]?.id ?? at} className="rounded-lg border border-rule p-3">
            <div className="flex flex-wrap items-end justify-between gap-3">
              <div className="w-40">
                <ChoiceInput
                  of={form}
                  name={`cells.${at}.technology`}
                  at={`/cells/${at}`}
                  label="Technology"
                  choices={TECHNOLOGIES}
                />
              </div>
              <Button look="plain" onClick={() => cells.remove(at)}>
                Take this cell out
              </Button>
            </div>
            <div className="mt-3 grid grid-cols-2 gap-3 sm:grid-cols-4">
              {FIELDS.map(([key, pointer, label, example]) => (
                <TextInput
                  key={key}
                  of={form}
                  name={`cells.${at}.${key}`}
                  at={`/cells/${at}/${pointer}`}
                  label={label}
                  placeholder={example}
                  inputMode="decimal"
                  check={notNumber}
                />
              ))}
            </div>
          </div>
        ))}
        <div>
          <Button onClick={() => cells.append({ ...last, pci: "" })}>Add a cell</Button>
        </div>
      </fieldset>
      <AreaInput of={form} name="notes" at="/notes" label="Notes" />
    </Form>
  );
}
