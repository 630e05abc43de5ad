import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useMemo, useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { Mount, PositionNode, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { EntryField, type EntryValue, entryOf, readEntry } from "../../ui/EntryField";
import { ChoiceField, TextArea, TextField } from "../../ui/Field";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { MOUNTS } from "../../ui/words";
import { type PlaceText, placeText, readPlace } from "../sites/coordinates";

interface Draft extends PlaceText {
  name: string;
  mount: Mount;
  height: EntryValue;
  floor: string;
  room: string;
  facing: EntryValue;
  window: string;
  notes: string;
}

const INSIDE: readonly Mount[] = ["indoor", "window", "attic"];
/** Where a gateway is first tried as it is. */
const onStockAntennas = (mount: Mount) => mount === "indoor" || mount === "window" || mount === "other";

const choices = Object.entries(MOUNTS) as [Mount, string][];

/** A new position, or the one given. */
export function PositionForm({
  siteId,
  units,
  node,
  onDone,
}: {
  siteId: string;
  units: Units;
  node?: PositionNode;
  onDone?: () => void;
}) {
  const position = node?.position;
  const initial = useMemo<Draft>(
    () => ({
      name: position?.name ?? "",
      mount: position?.mount ?? "indoor",
      height: entryOf(position?.height_above_ground_m),
      floor: position?.spot?.floor ?? "",
      room: position?.spot?.room ?? "",
      facing: entryOf(position?.spot?.facing_deg),
      window: position?.spot?.window ?? "",
      notes: position?.notes ?? "",
      ...placeText(position?.place),
    }),
    [position],
  );
  const [draft, change, clear] = useDraft(`position:${position?.id ?? `new:${siteId}`}`, initial);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const [placeError, setPlaceError] = useState<string>();
  const navigate = useNavigate();
  const notice = useNotice();
  const set = (part: Partial<Draft>) => change({ ...draft, ...part });

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const height = await readEntry("length", "lte", draft.height);
    const facing = await readEntry("bearing", "lte", draft.facing);
    const { place, error } = readPlace(draft);
    setPlaceError(error);
    set({ height, facing });
    if (error || height.error || facing.error) return;
    const body = {
      name: draft.name,
      mount: draft.mount,
      notes: draft.notes,
      spot: {
        floor: draft.floor,
        room: draft.room,
        // A full turn is north again.
        facing_deg: facing.value === 360 ? 0 : facing.value,
        window: draft.window,
      },
      place,
      height_above_ground_m: height.value,
    };
    try {
      if (position) {
        await answered(api.PUT("/api/positions/{id}", { params: { path: { id: position.id } }, body }));
        notice("The position is saved.");
      } else {
        const id = newId();
        const path = { params: { path: { id: siteId } } };
        await answered(api.POST("/api/sites/{id}/positions", { ...path, body: { ...body, id } }));
        // A first setup comes with it, as it stands: stock antennas, to be changed at once or later.
        const setup = newId();
        const spec = {
          id: setup,
          name: "",
          antenna: onStockAntennas(draft.mount) ? ("internal" as const) : ("external" as const),
        };
        await answered(api.POST("/api/positions/{id}/setups", { params: { path: { id } }, body: spec }));
        await navigate({ to: "/sites/$siteId/mount", params: { siteId }, search: { setup }, hash: "" });
      }
      clear();
      refresh(siteId);
      onDone?.();
    } catch (failed) {
      setProblem(failed as ApiError);
    }
  };

  return (
    <form onSubmit={(event) => void save(event)} className="flex flex-col gap-4" noValidate>
      <TextField
        label="Name"
        hint="For instance East gable, Kitchen sill"
        value={draft.name}
        onChange={(name) => set({ name })}
        error={problem?.field("/name")}
      />
      <div className="grid gap-4 sm:grid-cols-2">
        <ChoiceField
          label="Mount"
          value={draft.mount}
          choices={choices}
          onChange={(mount) => set({ mount })}
        />
        <EntryField
          label="Height above ground"
          quantity="length"
          hint={units === "imperial" ? "Feet work too: 21 ft" : ""}
          entry={draft.height}
          onChange={(height) => set({ height })}
          serverError={problem?.field("/height_above_ground_m")}
        />
        <TextField
          label="Latitude (optional)"
          value={draft.latitude}
          onChange={(latitude) => set({ latitude })}
          error={placeError ?? problem?.field("/place")}
        />
        <TextField
          label="Longitude (optional)"
          value={draft.longitude}
          onChange={(longitude) => set({ longitude })}
        />
      </div>
      {INSIDE.includes(draft.mount) && (
        <fieldset className="grid gap-4 sm:grid-cols-4">
          <legend className="mb-1 font-semibold">Where in the house</legend>
          <TextField label="Floor" value={draft.floor} onChange={(floor) => set({ floor })} />
          <TextField label="Room" value={draft.room} onChange={(room) => set({ room })} />
          <TextField label="Near which window" value={draft.window} onChange={(window) => set({ window })} />
          <EntryField
            label="Facing"
            quantity="bearing"
            hint="From true north"
            entry={draft.facing}
            onChange={(facing) => set({ facing })}
            serverError={problem?.field("/spot/facing_deg")}
          />
        </fieldset>
      )}
      <TextArea
        label="Notes"
        value={draft.notes}
        onChange={(notes) => set({ notes })}
        error={problem?.field("/notes")}
      />
      {draft.mount !== "indoor" && draft.mount !== "window" && <ClimbingCaution mount={draft.mount} />}
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="font-semibold text-starved">
          {problem.message}
        </p>
      )}
      <div className="flex gap-3">
        <Button type="submit" look="filled">
          {position ? "Save the position" : "Add the position"}
        </Button>
        {onDone && <Button onClick={onDone}>Cancel</Button>}
      </div>
    </form>
  );
}

/** The usual cautions, where they apply. */
function ClimbingCaution({ mount }: { mount: Mount }) {
  return (
    <p className="border-l-4 border-lamp pl-3 text-sm">
      {mount === "attic"
        ? "Attic: step on joists only, mind the heat, wiring and old insulation. "
        : "Ladders and roofs: never alone, never in wind, ice or storm. A mast must not be able to fall on an overhead line. Mast and surge arrestor are bonded to ground by the local electrical code, by a licensed electrician where it says so. "}
      Local codes and licensed trades come before anything this program says.
    </p>
  );
}
