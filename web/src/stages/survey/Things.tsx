import { type FormEvent, useEffect, useState } from "react";
import { ApiError, answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { GeoPoint, Landmark, Obstacle, ObstacleKind, SurveyView, Units } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField, TextArea, TextField } from "../../ui/Field";
import { length } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { Section } from "../StageHeader";
import type { PlanMode } from "./PlanView";
import { pointText, readPoints } from "./queries";
import { KINDS } from "./words";

async function putObstacle(siteId: string, one: Obstacle, archived = false): Promise<void> {
  const { id, name, kind, outline, width_m, height_m } = one;
  await answered(
    api.PUT("/api/sites/{id}/obstacles/{obstacle}", {
      params: { path: { id: siteId, obstacle: id } },
      body: { name, kind, outline, width_m, height_m, archived },
    }),
  );
  refresh(siteId);
}

async function putLandmark(siteId: string, one: Landmark, archived = false): Promise<void> {
  const { id, name, place } = one;
  await answered(
    api.PUT("/api/sites/{id}/landmarks/{landmark}", {
      params: { path: { id: siteId, landmark: id } },
      body: { name, place, archived },
    }),
  );
  refresh(siteId);
}

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
export function Things({
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
  const tell = (error: unknown) => notice(error instanceof Error ? error.message : "It did not work.");
  const away = async (name: string, put: (archived: boolean) => Promise<void>) => {
    try {
      await put(true);
      notice(`${name} was archived.`, () => void put(false).catch(tell));
    } catch (error) {
      tell(error);
    }
  };
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
        <ThingForm
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
              onClick={() => void away(one.name, (gone) => putObstacle(siteId, one, gone))}
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
              onClick={() => void away(one.name, (gone) => putLandmark(siteId, one, gone))}
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
  const value = Number(text.trim().replace(",", ".").replace(/\s*m$/, ""));
  return text.trim() === "" || Number.isNaN(value) ? 9999 : value;
};

function ThingForm({
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
  const [name, setName] = useState(editing?.name ?? "");
  const [kind, setKind] = useState<ObstacleKind>(editing?.kind ?? "trees_in_leaf");
  const [height, setHeight] = useState(editing ? String(editing.height_m) : "");
  const [width, setWidth] = useState(editing?.width_m == null ? "10" : String(editing.width_m));
  const [typed, setTyped] = useState("");
  const [problem, setProblem] = useState<ApiError>();
  useEffect(() => setTyped(drawn.map(pointText).join("\n")), [drawn]);
  const save = async (event: FormEvent) => {
    event.preventDefault();
    setProblem(undefined);
    try {
      const points = await readPoints(typed);
      if (mode === "landmark") {
        const [place] = points;
        if (!place) {
          setProblem(missing("A place is needed, for instance 61.4213, 8.2087."));
          return;
        }
        await putLandmark(siteId, { id: newId(), site_id: siteId, name, place });
      } else
        await putObstacle(siteId, {
          id: editing?.id ?? newId(),
          site_id: siteId,
          name,
          kind,
          outline: points,
          width_m: mode === "line" ? metres(width) : null,
          height_m: metres(height),
        });
      onDone();
    } catch (error) {
      if (error instanceof ApiError) setProblem(error);
      else throw error;
    }
  };
  return (
    <form
      onSubmit={(event) => void save(event)}
      noValidate
      className="mt-3 flex max-w-2xl flex-col gap-3 rounded-lg border border-rule bg-surface p-4"
    >
      <p>{HINTS[mode]}</p>
      <TextField
        label="Name"
        value={name}
        onChange={setName}
        placeholder={mode === "landmark" ? "the silo" : "Spruce belt"}
        error={problem?.field("/name")}
      />
      {mode !== "landmark" && (
        <div className="grid gap-3 sm:grid-cols-3">
          <ChoiceField
            label="What it is"
            value={kind}
            choices={Object.entries(KINDS) as [ObstacleKind, string][]}
            onChange={setKind}
          />
          <TextField
            label="Height above ground, m"
            value={height}
            onChange={setHeight}
            inputMode="decimal"
            error={problem?.field("/height_m")}
          />
          {mode === "line" && (
            <TextField
              label="Width, m"
              value={width}
              onChange={setWidth}
              inputMode="decimal"
              error={problem?.field("/width_m")}
            />
          )}
        </div>
      )}
      <TextArea
        label={mode === "landmark" ? "Its place" : "Its corners, one a line"}
        hint="Latitude, longitude"
        rows={mode === "landmark" ? 1 : 4}
        value={typed}
        onChange={setTyped}
        error={problem?.field("/text") ?? problem?.field("/outline") ?? problem?.field("/place")}
      />
      {problem && problem.problem.errors.length === 0 && (
        <p role="alert" className="font-semibold text-starved">
          {problem.message}
        </p>
      )}
      <div className="flex flex-wrap gap-3">
        <Button look="filled" type="submit">
          Save
        </Button>
        {drawn.length > 0 && mode !== "landmark" && (
          <Button onClick={() => onDrawn(drawn.slice(0, -1))}>Take the last point back</Button>
        )}
        <Button onClick={onDone}>Cancel</Button>
      </div>
    </form>
  );
}

function missing(detail: string): ApiError {
  return new ApiError({
    type: "problems/invalid",
    title: "Not understood",
    status: 422,
    detail,
    errors: [{ pointer: "/text", detail }],
  });
}
