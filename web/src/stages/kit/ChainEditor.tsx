import { useState } from "react";
import type { CatalogueEntry, ChainPart, Joint, PartKind } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";
import { signed } from "../../ui/format";
import { readNumber } from "../../ui/number";
import { bandName } from "../../ui/words";
import { Section } from "../StageHeader";
import type { Editing } from "./editing";
import { choicesOf } from "./queries";
import { SaidAt } from "./Said";
import { PART_KINDS, SERIES } from "./words";

const CHAIN_KINDS: PartKind[] = ["jumper", "feed_line", "adapter", "arrestor"];

/** The lead from antenna to gateway, drawn downwards: every part, every joint, and the loss as it adds up. */
export function ChainEditor({ editing }: { editing: Editing }) {
  const { catalogue, spec, judged, set } = editing;
  const outlook = judged.assessment.outlook;
  const [at, setAt] = useState(0);
  const band = outlook.bands[Math.min(at, outlook.bands.length - 1)];
  const antenna = catalogue.find(({ part }) => part.id === spec.antenna)?.part;
  const steps = band?.budget.steps ?? [];
  const after = (what: "tail" | "joint" | "part", place?: number) =>
    steps.find((step) => step.what.of === what && (!("place" in step.what) || step.what.place === place));
  const joints = judged.assessment.chain.joints;
  const replace = (place: number, part: Partial<ChainPart>) =>
    set({ chain: spec.chain.map((one, index) => (index === place ? { ...one, ...part } : one)) });
  const insert = (place: number, parts: ChainPart[]) =>
    set({ chain: [...spec.chain.slice(0, place), ...parts, ...spec.chain.slice(place)] });
  const joint = (place: number) => (
    <JointRow
      key={`joint-${place}`}
      joint={joints[place]}
      soFar={after("joint", place)?.so_far_db}
      editing={editing}
      place={place}
      onInsert={(parts) => insert(place, parts)}
    />
  );
  return (
    <Section
      title="From the antenna to the gateway"
      aside={
        outlook.bands.length > 0 && (
          <fieldset className="flex items-center gap-2">
            <legend className="sr-only">Loss shown on</legend>
            <span className="text-sm text-muted">Loss on</span>
            {outlook.bands.map((one, index) => (
              <button
                key={`${one.band.technology}${one.band.band}-${one.budget.frequency_mhz}`}
                type="button"
                aria-pressed={one === band}
                onClick={() => setAt(index)}
                className="min-h-9 rounded-lg border border-edge px-2 text-sm font-semibold aria-pressed:border-action aria-pressed:bg-lamp-wash"
              >
                {bandName(one.band.technology, one.band.band)}
              </button>
            ))}
          </fieldset>
        )
      }
    >
      <ol className="flex flex-col">
        <PartRow
          first
          soFar={band?.budget.antenna_gain_dbi ?? undefined}
          soFarLabel={band?.budget.antenna_gain_dbi == null ? "" : "gain"}
          length={after("tail")?.loss_db}
        >
          <ChoiceField
            label="Antenna"
            value={spec.antenna ?? ""}
            choices={[
              ["", "The gateway's own"],
              ...labelled(choicesOf(catalogue, ["antenna"], spec.antenna)),
            ]}
            onChange={(id) => set({ antenna: id === "" ? null : id, ports: [] })}
          />
          {antenna?.spec.kind === "antenna" && (
            <AntennaCount editing={editing} elements={antenna.spec.elements} />
          )}
          <SaidAt judged={judged} at={(place) => place.at === "antenna"} />
        </PartRow>
        {spec.antenna !== null && (
          <>
            {spec.chain.map((placed, place) => {
              const entry = catalogue.find(({ part }) => part.id === placed.part_id);
              const kind = entry?.part.spec.kind ?? "adapter";
              return [
                joint(place),
                <PartRow
                  // biome-ignore lint/suspicious/noArrayIndexKey: the place in the chain is what a row is
                  key={`part-${place}`}
                  soFar={after("part", place)?.so_far_db}
                  thick={entry?.part.spec.kind === "feed_line" ? entry.part.spec.cable : undefined}
                >
                  <div className="flex flex-wrap items-end gap-3">
                    <div className="min-w-52 flex-1">
                      <ChoiceField
                        label={PART_KINDS[kind].one}
                        value={placed.part_id}
                        choices={labelled(choicesOf(catalogue, CHAIN_KINDS, placed.part_id))}
                        onChange={(part_id) => replace(place, { part_id })}
                      />
                    </div>
                    {kind === "feed_line" && (
                      <LengthField
                        label="Length, m"
                        value={placed.length_m ?? null}
                        onChange={(length_m) => replace(place, { length_m })}
                        error={editing.field(`/chain/${place}/length_m`)}
                      />
                    )}
                    <Button look="plain" onClick={() => replace(place, { turned: !placed.turned })}>
                      Turn round
                    </Button>
                    <Button
                      look="plain"
                      onClick={() => set({ chain: spec.chain.filter((_, index) => index !== place) })}
                    >
                      Take out
                    </Button>
                  </div>
                  {kind === "feed_line" && (
                    <Slider
                      label="Cable length"
                      low={1}
                      high={40}
                      step={0.5}
                      value={placed.length_m ?? 0}
                      unit="m"
                      onChange={(length_m) => replace(place, { length_m })}
                    />
                  )}
                  <SaidAt judged={judged} at={(one) => one.at === "part" && one.place === place} />
                </PartRow>,
              ];
            })}
            {joint(spec.chain.length)}
          </>
        )}
        <PartRow last>
          <ChoiceField
            label="Gateway"
            value={spec.gateway ?? ""}
            choices={[["", "Choose a gateway"], ...labelled(choicesOf(catalogue, ["gateway"], spec.gateway))]}
            onChange={(id) => set({ gateway: id === "" ? null : id, ports: [] })}
          />
          <SaidAt judged={judged} at={(place) => place.at === "gateway"} />
        </PartRow>
      </ol>
      {band && (
        <p className="mt-3 text-muted">
          {bandName(band.band.technology, band.band.band)}: feed line {signed(band.budget.feed_loss_db, 1)} dB
          {band.budget.net_gain_dbi != null && `, net gain ${signed(band.budget.net_gain_dbi, 1)} dBi`}, noise
          figure at the antenna {signed(band.budget.noise_figure_db, 1)} dB
          {band.budget.eirp_dbm != null && `, radiates at most ${signed(band.budget.eirp_dbm, 0)} dBm`}; the
          uplink pays {signed(band.uplink_feed_loss_db, 1)} dB.
        </p>
      )}
    </Section>
  );
}

const labelled = (entries: CatalogueEntry[]): [string, string][] =>
  entries.map(({ part }) => [part.id, part.name]);

/** The rail on the left with the part beside it; the figure on the right is the loss up to here. */
function PartRow({
  first = false,
  last = false,
  thick,
  soFar,
  soFarLabel = "so far",
  length,
  children,
}: {
  first?: boolean;
  last?: boolean;
  thick?: string | undefined;
  soFar?: number | undefined;
  soFarLabel?: string;
  length?: number | undefined;
  children: React.ReactNode;
}) {
  const widths: Record<string, string> = { class400: "w-1.5", class600: "w-2", rg213: "w-1.5" };
  return (
    <li className="grid grid-cols-[1.75rem_minmax(0,1fr)_4rem] sm:grid-cols-[1.75rem_minmax(0,1fr)_5.5rem] gap-x-3">
      <span className="relative flex justify-center" aria-hidden="true">
        <span
          className={`absolute ${first ? "top-4" : "top-0"} ${last ? "bottom-[calc(100%-1.5rem)]" : "bottom-0"} ${thick ? (widths[thick] ?? "w-1") : "w-0.5"} bg-structure`}
        />
        {(first || last) && (
          <span className="relative mt-3 size-5 rounded border-2 border-structure bg-ground" />
        )}
      </span>
      <div className="flex flex-col gap-2 pb-3">{children}</div>
      <span className="pt-7 text-right">
        {soFar !== undefined && (
          <>
            <span className="font-bold">{signed(soFar, 1)}</span>{" "}
            <span className="text-sm text-muted">
              {soFarLabel === "gain" ? "dBi" : "dB"}
              <span className="block">{soFarLabel === "gain" ? "gain" : "lost so far"}</span>
            </span>
          </>
        )}
        {length !== undefined && length > 0 && (
          <span className="block text-sm text-muted">its leads {signed(length, 1)} dB</span>
        )}
      </span>
    </li>
  );
}

function end(connector: { series: keyof typeof SERIES; gender: "male" | "female" }): string {
  return `${SERIES[connector.series]} ${connector.gender}`;
}

/** Where two ends meet: a round mark when they mate, a cross when they do not. */
function JointRow({
  joint,
  soFar,
  editing,
  place,
  onInsert,
}: {
  joint: Joint | undefined;
  soFar: number | undefined;
  editing: Editing;
  place: number;
  onInsert: (parts: ChainPart[]) => void;
}) {
  const { catalogue, judged, spec } = editing;
  const fine = !joint || joint.mating.mating === "mates";
  const fix = judged.fixes.find((one) => one.place === place);
  const next = spec.chain[place];
  return (
    <li className="grid grid-cols-[1.75rem_minmax(0,1fr)_4rem] sm:grid-cols-[1.75rem_minmax(0,1fr)_5.5rem] gap-x-3">
      <span className="relative flex justify-center" aria-hidden="true">
        <span className="absolute inset-y-0 w-0.5 bg-structure" />
        <svg viewBox="0 0 20 20" className="relative mt-1 size-5" aria-hidden="true">
          <circle
            cx="10"
            cy="10"
            r="7"
            className={fine ? "fill-ground stroke-structure" : "fill-starved stroke-starved"}
            strokeWidth="2.5"
          />
          {!fine && <path d="M6.5 6.5 L13.5 13.5 M13.5 6.5 L6.5 13.5" stroke="white" strokeWidth="2.4" />}
        </svg>
      </span>
      <div className="flex flex-col gap-1 pb-2">
        <div className="flex flex-wrap items-center gap-x-4 text-sm text-muted">
          {joint && (
            <span>
              {fine ? "" : "Does not mate: "}
              {end(joint.from)} on {end(joint.to)}
              {joint.outdoors && ", in the open"}
            </span>
          )}
          {next && place > 0 && judged.assessment.in_open && (
            <label className="flex min-h-9 items-center gap-2">
              <input
                type="checkbox"
                className="size-4 accent-action"
                checked={next.outdoors ?? false}
                onChange={(event) =>
                  editing.set({
                    chain: spec.chain.map((one, at) =>
                      at === place ? { ...one, outdoors: event.target.checked } : one,
                    ),
                  })
                }
              />
              this joint is outdoors
            </label>
          )}
          <label className="flex items-center gap-1">
            <span className="sr-only">Put in a part here</span>
            <select
              className="min-h-9 w-36 rounded-lg border border-transparent bg-transparent px-1 font-semibold text-action hover:border-edge"
              value=""
              onChange={(event) => {
                const part_id = event.target.value;
                const line =
                  catalogue.find(({ part }) => part.id === part_id)?.part.spec.kind === "feed_line";
                const length_m = line ? (editing.kits.settings.cable_m ?? 10) : null;
                if (part_id) onInsert([{ part_id, length_m, turned: false, outdoors: false }]);
              }}
            >
              <option value="">+ put in a part</option>
              {choicesOf(catalogue, CHAIN_KINDS, null).map(({ part }) => (
                <option key={part.id} value={part.id}>
                  {part.name}
                </option>
              ))}
            </select>
          </label>
        </div>
        <SaidAt judged={judged} at={(one) => one.at === "joint" && one.place === place} />
        {fix && (
          <Button className="self-start" onClick={() => onInsert(fix.parts)}>
            Put in: {fix.names.join(", then ")}
          </Button>
        )}
      </div>
      <span className="pt-1 text-right text-sm text-muted">
        {soFar !== undefined && `${signed(soFar, 1)} dB`}
      </span>
    </li>
  );
}

function AntennaCount({ editing, elements }: { editing: Editing; elements: number }) {
  const { spec, set } = editing;
  const count = spec.antenna_count || 1;
  return (
    <div className="flex flex-wrap items-end gap-3">
      {elements === 1 && (
        <>
          <ChoiceField
            label="How many"
            value={String(count)}
            choices={[
              ["1", "One"],
              ["2", "Two, as a pair"],
            ]}
            onChange={(text) =>
              set({
                antenna_count: Number(text),
                crossed_deg: text === "2" ? (spec.crossed_deg ?? 90) : null,
              })
            }
          />
          {count === 2 && (
            <LengthField
              label="Angle between them, °"
              value={spec.crossed_deg ?? null}
              onChange={(crossed_deg) => set({ crossed_deg })}
              error={editing.field("/crossed_deg")}
            />
          )}
        </>
      )}
      {elements * count > 2 && (
        <ChoiceField
          label="Leads brought down"
          value={String(spec.leads)}
          choices={[
            ["0", "All"],
            ["2", "Two"],
            ["4", "Four"],
          ]}
          onChange={(text) => set({ leads: Number(text), ports: [] })}
        />
      )}
    </div>
  );
}

/** A number field that keeps what is being typed. */
export function LengthField({
  label,
  value,
  onChange,
  error,
}: {
  label: string;
  value: number | null;
  onChange: (value: number | null) => void;
  error?: string | undefined;
}) {
  const [text, setText] = useState<string>();
  return (
    <div className="w-36">
      <TextField
        label={label}
        inputMode="decimal"
        value={text ?? (value === null ? "" : String(value).replace("-", "−"))}
        onChange={(next) => {
          setText(next);
          onChange(readNumber(next));
        }}
        onBlur={() => setText(undefined)}
        error={error}
      />
    </div>
  );
}

/** A slider with its value in words beside it. */
export function Slider({
  label,
  low,
  high,
  step,
  value,
  unit,
  onChange,
}: {
  label: string;
  low: number;
  high: number;
  step: number;
  value: number;
  unit: string;
  onChange: (value: number) => void;
}) {
  return (
    <label className="flex max-w-xl flex-wrap items-center gap-x-3">
      <span className="w-full text-sm font-semibold sm:w-28">{label}</span>
      <input
        type="range"
        min={low}
        max={high}
        step={step}
        value={value}
        onChange={(event) => onChange(Number(event.target.value))}
        className="h-11 min-w-0 flex-1 accent-action"
      />
      <span className="w-16 text-right">
        {signed(value, value % 1 === 0 ? 0 : 1)} {unit}
      </span>
    </label>
  );
}
