import { useMemo } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { AntennaSwitch, PortLink, Setup, SetupNode, SetupSpec } from "../../api/schema";
import { useChooseSetup, useSiteId } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { type EntryValue, entryOf } from "../../ui/EntryField";
import { ChoiceInput, EntryInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { counted } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { typedAzimuth } from "../../ui/number";
import { ANTENNAS } from "../../ui/words";
import { useKits } from "../kit/queries";

type Draft = {
  name: string;
  antenna: AntennaSwitch;
  azimuth: EntryValue;
  tilt: EntryValue;
  gatewayPlace: string;
  gatewayAzimuth: EntryValue;
  ports: string;
  kitId: string;
  height: EntryValue;
  kit: string;
  lock: string;
};

const choices = Object.entries(ANTENNAS) as [AntennaSwitch, string][];
const portsText = (ports: PortLink[] | undefined) =>
  (ports ?? []).map(({ lead, port }) => `${lead}: ${port}`).join(", ");

/** "1: EXT 1, 2: EXT 2" into leads and ports; what has no number takes the next one. */
function readPorts(text: string): PortLink[] {
  return text
    .split(",")
    .map((part) => part.trim())
    .filter(Boolean)
    .map((part, index) => {
      const found = /^(\d+)\s*[:=→-]\s*(.+)$/.exec(part);
      return found
        ? { lead: Math.min(255, Number(found[1])), port: found[2] ?? "" }
        : { lead: index + 1, port: part };
    });
}

const draftOf = (setup: SetupSpec): Draft => ({
  name: setup.name ?? "",
  antenna: setup.antenna,
  azimuth: entryOf(setup.azimuth_deg),
  tilt: entryOf(setup.tilt_deg),
  gatewayPlace: setup.gateway_place ?? "",
  gatewayAzimuth: entryOf(setup.gateway_azimuth_deg),
  ports: portsText(setup.ports),
  kitId: setup.kit_id ?? "",
  height: entryOf(setup.height_above_ground_m),
  kit: setup.kit_note ?? "",
  lock: setup.lock_note ?? "",
});

/** The values of a setup, without what it was made from and when. */
function specOf({ id, position_id, made_from, origin, created_at, archived_at, ...spec }: Setup): SetupSpec {
  return spec;
}

/** How the antenna is aimed and plugged in. A setup that has runs is not changed: saving makes a new one. */
export function SetupForm({ node }: { node: SetupNode }) {
  const { setup } = node;
  const siteId = useSiteId();
  const choose = useChooseSetup();
  const notice = useNotice();
  const initial = useMemo(() => draftOf(setup), [setup]);
  const save = async (draft: Draft, seen: SetupSpec | undefined) => {
    const body = {
      // Kept as they are: what is not on this form must not be lost by it.
      polarisation: setup.polarisation ?? null,
      lock: setup.lock ?? {},
      new_id: newId(),
      name: draft.name,
      antenna: draft.antenna,
      azimuth_deg: typedAzimuth(draft.azimuth.value),
      tilt_deg: draft.tilt.value,
      gateway_place: draft.gatewayPlace,
      gateway_azimuth_deg: typedAzimuth(draft.gatewayAzimuth.value),
      ports: readPorts(draft.ports),
      kit_id: draft.kitId || null,
      height_above_ground_m: draft.height.value,
      kit_note: draft.kit,
      lock_note: draft.lock,
      seen,
    };
    const saved = await answered(api.PUT("/api/setups/{id}", { params: { path: { id: setup.id } }, body }));
    refresh(siteId);
    choose(saved.id);
    notice(
      saved.id === setup.id ? "The setup is saved." : "A new setup was made; the old one keeps its runs.",
    );
    return specOf(saved);
  };
  const stored = useMemo(() => specOf(setup), [setup]);
  const form = useDraftForm({ draft: `setup:${setup.id}`, initial, save, stored, draftOf });
  const kits = useKits(siteId).data;
  const kitChoices: [string, string][] = [
    ["", "Not one of the kits here"],
    ...(kits?.kits ?? [])
      .filter((one) => !one.kit.archived_at || one.kit.id === form.values.kitId)
      .map((one): [string, string] => [one.kit.id, one.kit.name]),
  ];
  const buttons = (
    <div className="flex flex-wrap items-center gap-4">
      <Button type="submit" look={form.dirty ? "filled" : "outlined"} disabled={!form.dirty}>
        {node.runs > 0 ? "Save as a new setup" : "Save the setup"}
      </Button>
      {form.dirty && (
        <Button look="plain" onClick={form.discard}>
          Discard changes
        </Button>
      )}
      {node.runs > 0 && (
        <p className="text-sm text-muted">
          It has {counted(node.runs, "run")}, so it stays as it was; a changed copy is made.
        </p>
      )}
    </div>
  );
  const number = (name: "azimuth" | "tilt" | "height" | "gatewayAzimuth", at: string) => ({
    of: form,
    name,
    at,
  });

  return (
    <Form of={form} label="Setup" buttons={buttons}>
      <p className="text-muted">{node.origin}</p>
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <ChoiceInput of={form} name="antenna" label="Antenna" choices={choices} />
        <ChoiceInput of={form} name="kitId" label="Kit" choices={kitChoices} />
        <EntryInput {...number("azimuth", "/azimuth_deg")} label="Azimuth, true north" quantity="bearing" />
        <EntryInput {...number("tilt", "/tilt_deg")} label="Tilt, up positive" quantity="tilt" />
        <TextInput of={form} name="ports" at="/ports" label="Leads to ports" hint="1: EXT 1, 2: EXT 2" />
        <EntryInput
          {...number("height", "/height_above_ground_m")}
          label="Height above ground"
          quantity="length"
          hint="Where it differs from the position's"
        />
        <TextInput
          of={form}
          name="gatewayPlace"
          at="/gateway_place"
          label="Gateway stands"
          hint="Leave it there while comparing"
        />
        <EntryInput
          {...number("gatewayAzimuth", "/gateway_azimuth_deg")}
          label="Gateway faces"
          quantity="bearing"
        />
        <TextInput of={form} name="kit" at="/kit_note" label="Note on the kit" />
        <TextInput
          of={form}
          name="lock"
          at="/lock_note"
          label="Note on the lock"
          hint={node.lock ? `Locked: ${node.lock}` : "No lock; locks are set at Bands"}
        />
        <TextInput of={form} name="name" at="/name" label="Name (optional)" hint="Blank: named by its aim" />
      </div>
    </Form>
  );
}
