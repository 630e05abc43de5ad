import { type FormEvent, useMemo, useState } from "react";
import { ApiError, newId } from "../../api/client";
import type { Mast, MastCell, Technology } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField, TextArea, TextField } from "../../ui/Field";
import { useDraft } from "../../ui/useDraft";
import { pointText, putMast, readPoints } from "./queries";

interface CellDraft {
  technology: Technology;
  band: string;
  channel: string;
  width: string;
  pci: string;
  node: string;
  local: string;
  bearing: string;
  power: string;
}

interface Draft {
  name: string;
  operator: string;
  place: string;
  height: string;
  cells: CellDraft[];
  notes: string;
}

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
const WRONG = Number.NaN;
/** Empty is none; what is no number is told from it, so that it is not lost silently. */
function number(typed: string): number | null {
  const plain = typed.trim().replace("−", "-").replace(",", ".");
  if (plain === "") return null;
  const value = Number(plain.replace(/[^0-9.-].*$/, ""));
  return plain.match(/[0-9]/) ? value : WRONG;
}

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

const FIELDS: readonly [keyof Omit<CellDraft, "technology">, string, string][] = [
  ["band", "Band", "3"],
  ["channel", "Channel number", "1300"],
  ["width", "Width, MHz", "20"],
  ["pci", "PCI", "211"],
  ["node", "Base station", "6699"],
  ["local", "Local cell", "2"],
  ["bearing", "Bearing, ° T", "320"],
  ["power", "Power, dBm", "46"],
];
const POINTERS: Record<string, string> = {
  band: "band",
  width: "bandwidth_mhz",
  pci: "pci",
  bearing: "bearing_deg",
  power: "power_dbm",
};

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
  const initial = useMemo<Draft>(
    () => ({
      name: mast?.name ?? "",
      operator: mast?.operator ?? network,
      place: mast ? pointText(mast.place) : "",
      height: text(mast?.height_m),
      cells: (mast?.cells ?? []).map(cellDraft),
      notes: mast?.notes ?? "",
    }),
    [mast, network],
  );
  const [draft, change, clear] = useDraft(`mast:${mast?.id ?? `new:${siteId}`}`, initial);
  const [problem, setProblem] = useState<ApiError>();
  const [placeError, setPlaceError] = useState<string>();
  const [numberErrors, setNumberErrors] = useState<Record<string, string>>({});
  const set = (part: Partial<Draft>) => change((now) => ({ ...now, ...part }));
  const setCell = (at: number, part: Partial<CellDraft>) =>
    set({ cells: draft.cells.map((one, index) => (index === at ? { ...one, ...part } : one)) });

  const save = async (event: FormEvent) => {
    event.preventDefault();
    setProblem(undefined);
    setPlaceError(undefined);
    const wrong: Record<string, string> = {};
    const read = (key: string, typed: string) => {
      const value = number(typed);
      if (Number.isNaN(value)) wrong[key] = "A number, or nothing.";
      return value;
    };
    const cells = draft.cells.map((one, at) => ({
      technology: one.technology,
      band: read(`${at}band`, one.band),
      channel: read(`${at}channel`, one.channel),
      bandwidth_mhz: read(`${at}width`, one.width),
      pci: read(`${at}pci`, one.pci),
      node: read(`${at}node`, one.node),
      local_cell: read(`${at}local`, one.local),
      bearing_deg: read(`${at}bearing`, one.bearing),
      power_dbm: read(`${at}power`, one.power),
    }));
    const height_m = read("height", draft.height);
    setNumberErrors(wrong);
    if (Object.keys(wrong).length > 0) return;
    try {
      const [place] = await readPoints(draft.place);
      if (!place) {
        setPlaceError("Latitude and longitude are needed, for instance 61.4213, 8.2087.");
        return;
      }
      await putMast(siteId, {
        id: mast?.id ?? newId(),
        site_id: siteId,
        name: draft.name,
        operator: draft.operator,
        place,
        height_m,
        cells,
        notes: draft.notes,
      });
      clear();
      onDone();
    } catch (error) {
      if (!(error instanceof ApiError)) throw error;
      if (error.field("/text")) setPlaceError(error.field("/text"));
      else setProblem(error);
    }
  };

  return (
    <form onSubmit={(event) => void save(event)} className="flex flex-col gap-4" noValidate>
      <TextField
        label="Name"
        value={draft.name}
        onChange={(name) => set({ name })}
        error={problem?.field("/name")}
      />
      <div className="grid gap-4 sm:grid-cols-2">
        <TextField
          label="Latitude, longitude"
          hint="61.4213, 8.2087 or 61°25′17″N 8°12′31″E"
          value={draft.place}
          onChange={(place) => set({ place })}
          error={placeError ?? problem?.field("/place")}
        />
        <TextField
          label="Antennas above ground, m"
          hint="Empty: the site's usual mast height."
          value={draft.height}
          onChange={(height) => set({ height })}
          error={numberErrors.height ?? problem?.field("/height_m")}
          inputMode="decimal"
        />
      </div>
      <TextField
        label="Operator"
        hint="Masts of other operators count as interference only."
        value={draft.operator}
        onChange={(operator) => set({ operator })}
        error={problem?.field("/operator")}
      />
      <fieldset className="flex flex-col gap-4">
        <legend className="mb-2 font-bold">Cells</legend>
        {draft.cells.map((cell, at) => (
          // biome-ignore lint/suspicious/noArrayIndexKey: a cell in the making has no name of its own
          <div key={at} className="rounded-lg border border-rule p-3">
            <div className="flex flex-wrap items-end justify-between gap-3">
              <div className="w-40">
                <ChoiceField
                  label="Technology"
                  value={cell.technology}
                  choices={[
                    ["lte", "LTE"],
                    ["nr", "NR"],
                  ]}
                  onChange={(technology) => setCell(at, { technology })}
                />
              </div>
              <Button
                look="plain"
                onClick={() => set({ cells: draft.cells.filter((_, index) => index !== at) })}
              >
                Take this cell out
              </Button>
            </div>
            <div className="mt-3 grid grid-cols-2 gap-3 sm:grid-cols-4">
              {FIELDS.map(([key, label, example]) => (
                <TextField
                  key={key}
                  label={label}
                  value={cell[key]}
                  placeholder={example}
                  inputMode="decimal"
                  onChange={(value) => setCell(at, { [key]: value })}
                  error={
                    numberErrors[`${at}${key}`] ??
                    (POINTERS[key] ? problem?.field(`/cells/${at}/${POINTERS[key]}`) : undefined)
                  }
                />
              ))}
            </div>
          </div>
        ))}
        <div>
          <Button
            onClick={() => set({ cells: [...draft.cells, { ...(draft.cells.at(-1) ?? EMPTY), pci: "" }] })}
          >
            Add a cell
          </Button>
        </div>
      </fieldset>
      <TextArea label="Notes" value={draft.notes} onChange={(notes) => set({ notes })} />
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="font-semibold text-starved">
          {problem.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button look="filled" type="submit">
          Keep the mast
        </Button>
        <Button
          onClick={() => {
            clear();
            onDone();
          }}
        >
          Leave it
        </Button>
      </div>
    </form>
  );
}
