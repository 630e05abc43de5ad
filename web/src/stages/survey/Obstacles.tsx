import { useEffect, useState } from "react";
import { answered, api, FieldError, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { GeoPoint, Landmark, Obstacle, ObstacleKind, SurveyView, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { AreaInput, ChoiceInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { length } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { readNumber } from "../../ui/number";
import { useAction } from "../../ui/useAction";
import { Section } from "../StageHeader";
import type { PlanMode } from "./PlanView";
import { pointText, readPoints } from "./queries";
import { KINDS } from "./words";

/** What can be changed of an obstacle; whether it is archived is said by each press. */
const obstacleValues = ({ name, kind, outline, width_m, height_m }: Obstacle) => {
  return { name, kind, outline, width_m: width_m ?? null, height_m };
};

/** Stores an obstacle; `seen`: as it was when the change was begun. */
async function putObstacle(
  siteId: string,
  one: Obstacle,
  { archived = false, seen }: { archived?: boolean; seen?: Obstacle | undefined } = {},
): Promise<void> {
  await answered(
    api.PUT("/api/sites/{id}/obstacles/{obstacle}", {
      params: { path: { id: siteId, obstacle: one.id } },
      body: { ...obstacleValues(one), archived, seen: seen && obstacleValues(seen) },
    }),
  );
  refresh(siteId);
}

async function putLandmark(siteId: string, one: Landmark, archived?: boolean): Promise<void> {
  const { id, name, place } = one;
  // One that is new was not seen before.
  const seen = archived === undefined ? undefined : { name, place };
  await answered(
    api.PUT("/api/sites/{id}/landmarks/{landmark}", {
      params: { path: { id: siteId, landmark: id } },
      body: { name, place, archived: archived ?? false, seen },
    }),
  );
  refresh(siteId);
}

/** Stores something, archived or in use. */
type Put = (archived: boolean) => Promise<void>;

const MODES: readonly [PlanMode, string][] = [
  ["outline", "Draw trees or a building"],
  ["line", "Draw a belt or hedge as a line"],
  ["landmark", "Add a landmark"],
];

const HINTS: Record<PlanMode, string> = {
  look: "",
  outline: "Press the corners on the plan, one after the other; three at least. Or type them below.",
  line: "Press along the middle of the belt; two points at least. Or type them below.",
  tie: "",
  landmark: "Press what you see from the roof: a silo, a spire. Or type its place below.",
};

/** Trees, buildings and landmarks: drawn on the plan or typed. */
export function Obstacles({
  siteId,
  view,
  units,
  mode,
  onMode,
  drawn,
  onDrawn,
}: {
  siteId: string;
  view: SurveyView;
  units: Units;
  mode: PlanMode;
  onMode: (mode: PlanMode) => void;
  drawn: GeoPoint[];
  onDrawn: (points: GeoPoint[]) => void;
}) {
  const [editing, setEditing] = useState<Obstacle>();
  const notice = useNotice();
  const bringBack = useAction(siteId, (put: Put) => put(false), { queue: true });
  const away = useAction(siteId, async (name: string, put: Put) => {
    await put(true);
    notice(`${name} was archived.`, () => bringBack.run(put));
  });
  const done = () => {
    setEditing(undefined);
    onMode("look");
  };
  return (
    <Section title="Trees, buildings, landmarks">
      <div id="things" className="flex flex-wrap gap-3">
        {MODES.map(([one, words]) => (
          <Button
            key={one}
            aria-pressed={mode === one}
            look={mode === one ? "filled" : "outlined"}
            onClick={() => {
              setEditing(undefined);
              onMode(mode === one ? "look" : one);
              if (mode !== one) document.getElementById("plan")?.scrollIntoView({ block: "nearest" });
            }}
          >
            {words}
          </Button>
        ))}
      </div>
      {mode !== "look" && mode !== "tie" && (
        <ObstacleForm
          key={editing?.id ?? mode}
          siteId={siteId}
          mode={mode}
          editing={editing}
          drawn={drawn}
          onDrawn={onDrawn}
          onDone={done}
        />
      )}
      <ul className="mt-3 flex flex-col">
        {view.obstacles.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1">
            <span className="font-semibold">{one.name}</span>
            <span className="text-muted">
              {KINDS[one.kind]}, {length(one.height_m, units)} high
              {one.width_m != null && `, ${length(one.width_m, units)} wide`}
            </span>
            <Button
              look="plain"
              aria-label={`Change ${one.name}`}
              onClick={() => {
                onMode(one.width_m == null ? "outline" : "line");
                setEditing(one);
                onDrawn(one.outline);
              }}
            >
              Change
            </Button>
            <Button
              look="plain"
              aria-label={`Archive ${one.name}`}
              onClick={() =>
                away.run(one.name, (archived) => putObstacle(siteId, one, { archived, seen: one }))
              }
            >
              Archive
            </Button>
          </li>
        ))}
        {view.landmarks.map((one) => (
          <li key={one.id} className="flex flex-wrap items-baseline gap-x-4 border-t border-rule py-1">
            <span className="font-semibold">{one.name}</span>
            <span className="text-muted">landmark to aim by</span>
            <Button
              look="plain"
              aria-label={`Archive ${one.name}`}
              onClick={() => away.run(one.name, (gone) => putLandmark(siteId, one, gone))}
            >
              Archive
            </Button>
          </li>
        ))}
      </ul>
    </Section>
  );
}

/** Empty or no number becomes a value beyond every range, so that the server names the range beside the field. */
const metres = (text: string): number => {
  return readNumber(text, "m") ?? 9999;
};

function ObstacleForm({
  siteId,
  mode,
  editing,
  drawn,
  onDrawn,
  onDone,
}: {
  siteId: string;
  mode: PlanMode;
  editing: Obstacle | undefined;
  drawn: GeoPoint[];
  onDrawn: (points: GeoPoint[]) => void;
  onDone: () => void;
}) {
  const cornersAt = mode === "landmark" ? "/place" : "/outline";
  const draftOf = (one: Obstacle | undefined) => ({
    name: one?.name ?? "",
    kind: one?.kind ?? ("trees_in_leaf" as ObstacleKind),
    height: one ? String(one.height_m) : "",
    width: one?.width_m == null ? "10" : String(one.width_m),
    corners: one ? one.outline.map(pointText).join("\n") : "",
  });
  const initial = draftOf(editing);
  const save = async (draft: typeof initial, seen: Obstacle | undefined) => {
    const points = await readPoints(draft.corners, cornersAt);
    const { name, kind } = draft;
    if (mode === "landmark") {
      const [place] = points;
      if (!place) throw new FieldError(cornersAt, "A place is needed, for instance 61.4213, 8.2087.");
      await putLandmark(siteId, { id: newId(), site_id: siteId, name, place });
    } else
      await putObstacle(
        siteId,
        {
          id: editing?.id ?? newId(),
          site_id: siteId,
          name,
          kind,
          outline: points,
          width_m: mode === "line" ? metres(draft.width) : null,
          height_m: metres(draft.height),
        },
        { seen },
      );
    onDone();
  };
  const form = useDraftForm({ initial, save, stored: editing, draftOf });
  const { set } = form;
  // What is drawn on the plan stands in the field, to be put right by hand.
  // biome-ignore lint/correctness/useExhaustiveDependencies: only what is drawn counts
  useEffect(() => set({ corners: drawn.map(pointText).join("\n") }), [drawn]);
  const buttons = (
    <div className="flex flex-wrap gap-3">
      <Button look="filled" type="submit">
        Save
      </Button>
      {drawn.length > 0 && mode !== "landmark" && (
        <Button onClick={() => onDrawn(drawn.slice(0, -1))}>Take the last point back</Button>
      )}
      <Button onClick={onDone}>Cancel</Button>
    </div>
  );
  return (
    <Form
      of={form}
      buttons={buttons}
      className="mt-3 flex max-w-2xl flex-col gap-3 rounded-lg border border-rule bg-surface p-4"
    >
      <p>{HINTS[mode]}</p>
      <TextInput
        of={form}
        name="name"
        at="/name"
        label="Name"
        placeholder={mode === "landmark" ? "the silo" : "Spruce belt"}
      />
      {mode !== "landmark" && (
        <div className="grid gap-3 sm:grid-cols-3">
          <ChoiceInput
            of={form}
            name="kind"
            label="What it is"
            choices={Object.entries(KINDS) as [ObstacleKind, string][]}
          />
          <TextInput
            of={form}
            name="height"
            at="/height_m"
            label="Height above ground, m"
            inputMode="decimal"
          />
          {mode === "line" && (
            <TextInput of={form} name="width" at="/width_m" label="Width, m" inputMode="decimal" />
          )}
        </div>
      )}
      <AreaInput
        of={form}
        name="corners"
        at={cornersAt}
        label={mode === "landmark" ? "Its place" : "Its corners, one a line"}
        hint="Latitude, longitude"
        rows={mode === "landmark" ? 1 : 4}
      />
    </Form>
  );
}
