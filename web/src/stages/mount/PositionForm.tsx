import { useNavigate } from "@tanstack/react-router";
import { useMemo } from "react";
import { answered, api } from "../../api/client";
import { refresh } from "../../api/queries";
import type { Mount, Position, PositionNode, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { type EntryValue, entryOf } from "../../ui/EntryField";
import { AreaInput, ChoiceInput, EntryInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { useNotice } from "../../ui/notices";
import { typedAzimuth } from "../../ui/number";
import { MOUNTS } from "../../ui/words";
import { type PlaceText, placeOf, placeText } from "../sites/coordinates";
import { PlaceInputs } from "../sites/PlaceInputs";
import { addPosition } from "./adding";

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

const choices = Object.entries(MOUNTS) as [Mount, string][];

const draftOf = (position: Position | undefined): Draft => ({
  name: position?.name ?? "",
  mount: position?.mount ?? "indoor",
  height: entryOf(position?.height_above_ground_m),
  floor: position?.spot?.floor ?? "",
  room: position?.spot?.room ?? "",
  facing: entryOf(position?.spot?.facing_deg),
  window: position?.spot?.window ?? "",
  notes: position?.notes ?? "",
  ...placeText(position?.place),
});

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
  const initial = useMemo(() => draftOf(position), [position]);
  const navigate = useNavigate();
  const notice = useNotice();
  const save = async (draft: Draft, seen: Position | undefined) => {
    const body = {
      name: draft.name,
      mount: draft.mount,
      notes: draft.notes,
      spot: {
        floor: draft.floor,
        room: draft.room,
        facing_deg: typedAzimuth(draft.facing.value),
        window: draft.window,
      },
      place: placeOf(draft),
      height_above_ground_m: draft.height.value,
    };
    if (position) {
      const path = { params: { path: { id: position.id } } };
      const saved = await answered(api.PUT("/api/positions/{id}", { ...path, body: { ...body, seen } }));
      notice("The position is saved.");
      refresh(siteId);
      onDone?.();
      return saved;
    }
    const setup = await addPosition(siteId, body);
    await navigate({ to: "/sites/$siteId/mount", params: { siteId }, search: { setup }, hash: "" });
    refresh(siteId);
    onDone?.();
  };
  const form = useDraftForm({
    draft: `position:${position?.id ?? `new:${siteId}`}`,
    initial,
    save,
    stored: position,
    draftOf,
  });
  const { mount } = form.values;
  const buttons = (
    <div className="flex gap-3">
      <Button type="submit" look="filled">
        {position ? "Save the position" : "Add the position"}
      </Button>
      {onDone && <Button onClick={onDone}>Cancel</Button>}
    </div>
  );

  return (
    <Form of={form} buttons={buttons}>
      <TextInput of={form} name="name" at="/name" label="Name" hint="For instance East gable, Kitchen sill" />
      <div className="grid gap-4 sm:grid-cols-2">
        <ChoiceInput of={form} name="mount" label="Mount" choices={choices} />
        <EntryInput
          of={form}
          name="height"
          at="/height_above_ground_m"
          label="Height above ground"
          quantity="length"
          hint={units === "imperial" ? "Feet work too: 21 ft" : ""}
        />
        <PlaceInputs of={form} optional />
      </div>
      {INSIDE.includes(mount) && (
        <fieldset className="grid gap-4 sm:grid-cols-4">
          <legend className="mb-1 font-semibold">Where in the house</legend>
          <TextInput of={form} name="floor" at="/spot/floor" label="Floor" />
          <TextInput of={form} name="room" at="/spot/room" label="Room" />
          <TextInput of={form} name="window" at="/spot/window" label="Near which window" />
          <EntryInput
            of={form}
            name="facing"
            at="/spot/facing_deg"
            label="Facing"
            quantity="bearing"
            hint="From true north"
          />
        </fieldset>
      )}
      <AreaInput of={form} name="notes" at="/notes" label="Notes" />
      {mount !== "indoor" && mount !== "window" && <ClimbingCaution mount={mount} />}
    </Form>
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
