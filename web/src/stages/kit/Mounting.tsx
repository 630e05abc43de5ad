import type { Passage } from "../../api/schema";
import { ChoiceField } from "../../ui/Field";
import { MOUNTS } from "../../ui/words";
import { Section } from "../StageHeader";
import { LengthField, Slider } from "./ChainEditor";
import type { Editing } from "./editing";
import { choicesOf } from "./queries";
import type { GatewayPlace, PartKind, PassageWay } from "./types";
import { GATEWAY_PLACES, PASSAGES } from "./words";

/** Where everything goes: mount, height, the gateway's place, the way in, and what feeds an outdoor unit. */
export function Mounting({ editing }: { editing: Editing }) {
  const { site, kits, catalogue, spec, judged, set, field } = editing;
  const positions = site.positions.filter((node) => !node.position.archived_at);
  const position = positions.find((node) => node.position.id === spec.position_id)?.position;
  const gateway = catalogue.find(({ part }) => part.id === spec.gateway)?.part;
  const isUnit = gateway?.spec.kind === "gateway" && gateway.spec.outdoor != null && !spec.antenna;
  const height = spec.height_above_ground_m ?? position?.height_above_ground_m ?? kits.settings.height_m ?? 6;
  const picker = (
    label: string,
    kind: PartKind,
    chosen: string | null,
    pick: (id: string | null) => void,
  ) => (
    <ChoiceField
      label={label}
      value={chosen ?? ""}
      choices={[
        ["", kind === "mount" ? "Not chosen" : "None"],
        ...choicesOf(catalogue, [kind], chosen)
          .filter(
            ({ part }) =>
              part.spec.kind !== "arrestor" || part.spec.protects === "ethernet" || part.id === chosen,
          )
          .map(({ part }): [string, string] => [part.id, part.name]),
      ]}
      onChange={(id) => pick(id === "" ? null : id)}
    />
  );
  const way: PassageWay = spec.passage.way;
  const passage = (next: PassageWay): Passage =>
    next === "hole" ? { way: "hole", diameter_mm: 25 } : { way: next };
  return (
    <Section title="Where it goes">
      <div className="grid items-start gap-4 sm:grid-cols-2">
        <ChoiceField
          label="Position"
          value={spec.position_id ?? ""}
          choices={[
            ["", "Not chosen yet"],
            ...positions.map(({ position }): [string, string] => [position.id, position.name]),
          ]}
          hint={`Held as: ${MOUNTS[judged.assessment.mount].toLowerCase()}.`}
          onChange={(id) => set({ position_id: id === "" ? null : id })}
        />
        {picker("Mount", "mount", spec.mount ?? null, (mount) => set({ mount }))}
        <ChoiceField
          label="The gateway stands in"
          value={spec.gateway_place}
          choices={Object.entries(GATEWAY_PLACES) as [GatewayPlace, string][]}
          onChange={(gateway_place) => set({ gateway_place })}
        />
        <div className="flex items-end gap-3">
          <div className="flex-1">
            <ChoiceField
              label="The cable comes in"
              value={way}
              choices={Object.entries(PASSAGES) as [PassageWay, string][]}
              onChange={(next) => set({ passage: passage(next) })}
            />
          </div>
          {spec.passage.way === "hole" && (
            <LengthField
              label="Hole, mm"
              value={spec.passage.diameter_mm}
              onChange={(mm) => set({ passage: { way: "hole", diameter_mm: mm ?? 0 } })}
              error={field("/passage/diameter_mm")}
            />
          )}
        </div>
        {isUnit && (
          <>
            {picker("Ethernet cable", "ethernet", spec.ethernet ?? null, (ethernet) =>
              set({ ethernet, ethernet_m: spec.ethernet_m ?? kits.settings.cable_m ?? 10 }),
            )}
            <LengthField
              label="Its length, m"
              value={spec.ethernet_m ?? null}
              onChange={(ethernet_m) => set({ ethernet_m })}
              error={field("/ethernet_m")}
            />
            {picker("Power injector", "injector", spec.injector ?? null, (injector) => set({ injector }))}
            {picker("Its surge arrestor", "arrestor", spec.ethernet_arrestor ?? null, (ethernet_arrestor) =>
              set({ ethernet_arrestor }),
            )}
          </>
        )}
      </div>
      <div className="mt-3 flex flex-col gap-1">
        <Slider
          label="Height"
          low={1}
          high={15}
          step={0.5}
          value={height}
          unit="m"
          onChange={(height_above_ground_m) => set({ height_above_ground_m })}
        />
        {height > 10 && (
          <p className="text-sm text-muted">
            The rural model ends at 10 m: nothing more is promised above, though a clear view may bring it.
          </p>
        )}
        {isUnit && (
          <Slider
            label="Ethernet length"
            low={1}
            high={100}
            step={1}
            value={spec.ethernet_m ?? 10}
            unit="m"
            onChange={(ethernet_m) => set({ ethernet_m })}
          />
        )}
      </div>
    </Section>
  );
}
