import { type FormEvent, useMemo, useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { AntennaSwitch, PortLink, SetupNode } from "../../api/schema";
import { useChooseSetup, useSiteId } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { EntryField, type EntryValue, entryOf, readEntry } from "../../ui/EntryField";
import { ChoiceField, TextField } from "../../ui/Field";
import { counted } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useDraft } from "../../ui/useDraft";
import { ANTENNAS } from "../../ui/words";
import { useKits } from "../kit/queries";

interface Draft {
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
}

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

/** How the antenna is aimed and plugged in. A setup that has runs is not changed: saving makes a new one. */
export function SetupForm({ node }: { node: SetupNode }) {
  const { setup } = node;
  const siteId = useSiteId();
  const choose = useChooseSetup();
  const notice = useNotice();
  const initial = useMemo<Draft>(
    () => ({
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
    }),
    [setup],
  );
  const [draft, change, clear, dirty] = useDraft(`setup:${setup.id}`, initial);
  const [problem, setProblem] = useState<ApiError | null>(null);
  const kits = useKits(siteId).data;
  const kitChoices: [string, string][] = [
    ["", "Not one of the kits here"],
    ...(kits?.kits ?? [])
      .filter((one) => !one.kit.archived_at || one.kit.id === draft.kitId)
      .map((one): [string, string] => [one.kit.id, one.kit.name]),
  ];
  const set = (part: Partial<Draft>) => change({ ...draft, ...part });

  const save = async (event: FormEvent) => {
    event.preventDefault();
    const [azimuth, tilt, gatewayAzimuth, height] = await Promise.all([
      readEntry("bearing", "lte", draft.azimuth),
      readEntry("tilt", "lte", draft.tilt),
      readEntry("bearing", "lte", draft.gatewayAzimuth),
      readEntry("length", "lte", draft.height),
    ]);
    set({ azimuth, tilt, gatewayAzimuth, height });
    if (azimuth.error || tilt.error || gatewayAzimuth.error || height.error) return;
    // 360 and 0 are the same direction; the range ends before 360.
    const turned = (value: number | null) => (value === null ? null : value % 360);
    const body = {
      // Kept as they are: what is not on this form must not be lost by it.
      polarisation: setup.polarisation ?? null,
      lock: setup.lock ?? {},
      new_id: newId(),
      name: draft.name,
      antenna: draft.antenna,
      azimuth_deg: turned(azimuth.value),
      tilt_deg: tilt.value,
      gateway_place: draft.gatewayPlace,
      gateway_azimuth_deg: turned(gatewayAzimuth.value),
      ports: readPorts(draft.ports),
      kit_id: draft.kitId || null,
      height_above_ground_m: height.value,
      kit_note: draft.kit,
      lock_note: draft.lock,
    };
    try {
      const saved = await answered(api.PUT("/api/setups/{id}", { params: { path: { id: setup.id } }, body }));
      setProblem(null);
      clear();
      refresh(siteId);
      choose(saved.id);
      notice(
        saved.id === setup.id ? "The setup is saved." : "A new setup was made; the old one keeps its runs.",
      );
    } catch (failed) {
      setProblem(failed as ApiError);
    }
  };

  const ports = problem?.problem.errors.find((error) => error.pointer.startsWith("/ports"))?.detail;
  return (
    <form
      onSubmit={(event) => void save(event)}
      className="flex flex-col gap-4"
      noValidate
      aria-label="Setup"
    >
      <p className="text-muted">{node.origin}</p>
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <ChoiceField
          label="Antenna"
          value={draft.antenna}
          choices={choices}
          onChange={(antenna) => set({ antenna })}
        />
        <ChoiceField
          label="Kit"
          value={draft.kitId}
          choices={kitChoices}
          onChange={(kitId) => set({ kitId })}
        />
        <EntryField
          label="Azimuth, true north"
          quantity="bearing"
          entry={draft.azimuth}
          onChange={(azimuth) => set({ azimuth })}
          serverError={problem?.field("/azimuth_deg")}
        />
        <EntryField
          label="Tilt, up positive"
          quantity="tilt"
          entry={draft.tilt}
          onChange={(tilt) => set({ tilt })}
          serverError={problem?.field("/tilt_deg")}
        />
        <TextField
          label="Leads to ports"
          hint="1: EXT 1, 2: EXT 2"
          value={draft.ports}
          onChange={(text) => set({ ports: text })}
          error={ports}
        />
        <EntryField
          label="Height above ground"
          quantity="length"
          hint="Where it differs from the position's"
          entry={draft.height}
          onChange={(height) => set({ height })}
          serverError={problem?.field("/height_above_ground_m")}
        />
        <TextField
          label="Gateway stands"
          hint="Leave it there while comparing"
          value={draft.gatewayPlace}
          onChange={(gatewayPlace) => set({ gatewayPlace })}
          error={problem?.field("/gateway_place")}
        />
        <EntryField
          label="Gateway faces"
          quantity="bearing"
          entry={draft.gatewayAzimuth}
          onChange={(gatewayAzimuth) => set({ gatewayAzimuth })}
          serverError={problem?.field("/gateway_azimuth_deg")}
        />
        <TextField
          label="Note on the kit"
          value={draft.kit}
          onChange={(kit) => set({ kit })}
          error={problem?.field("/kit_note")}
        />
        <TextField
          label="Note on the lock"
          hint={node.lock ? `Locked: ${node.lock}` : "No lock; locks are set at Bands"}
          value={draft.lock}
          onChange={(lock) => set({ lock })}
          error={problem?.field("/lock_note")}
        />
        <TextField
          label="Name (optional)"
          hint="Blank: named by its aim"
          value={draft.name}
          onChange={(name) => set({ name })}
          error={problem?.field("/name")}
        />
      </div>
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="font-semibold text-starved">
          {problem.message}
        </p>
      )}
      <div className="flex flex-wrap items-center gap-4">
        <Button type="submit" look={dirty ? "filled" : "outlined"} disabled={!dirty}>
          {node.runs > 0 ? "Save as a new setup" : "Save the setup"}
        </Button>
        {dirty && (
          <Button look="plain" onClick={clear}>
            Discard changes
          </Button>
        )}
        {node.runs > 0 && (
          <p className="text-sm text-muted">
            It has {counted(node.runs, "run")}, so it stays as it was; a changed copy is made.
          </p>
        )}
      </div>
    </form>
  );
}
