import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { Attach, SiteView, SweepAxis } from "../../api/schema";
import { Button } from "../../ui/Button";
import { ChoiceField, TextField } from "../../ui/Field";

const ATTACHES: [Attach, string][] = [
  ["kept_attached", "Stay attached: only the antenna changes"],
  ["restarted_to_rescan", "Restart it after each turn: it may find better cells"],
];
const AXES: [SweepAxis, string][] = [
  ["azimuth", "Round the compass (azimuth)"],
  ["tilt", "Up and down (tilt)"],
  ["ports", "Nothing: test two port maps alternately (A B B A)"],
];

/** Where, what is turned, and what the gateway does meanwhile. */
export function Begin({ site, onBegun }: { site: SiteView; onBegun: (id: string) => void }) {
  const siteId = site.site.id;
  const positions = site.positions.filter((one) => !one.position.archived_at).map((one) => one.position);
  const [position, setPosition] = useState(positions.at(-1)?.id ?? "");
  const [axis, setAxis] = useState<SweepAxis>("azimuth");
  const [attach, setAttach] = useState<Attach>("kept_attached");
  const [expected, setExpected] = useState("");
  const [problem, setProblem] = useState("");
  if (positions.length === 0)
    return <p className="mt-4 text-lg">A sweep needs a place to stand: add a position under Mount first.</p>;
  const begin = async () => {
    const typed = expected.trim() === "" ? null : Number(expected.replace(",", "."));
    if (typed !== null && !Number.isFinite(typed)) {
      setProblem("Write the bearing as a number of degrees, 143 for instance, or leave it empty.");
      return;
    }
    const id = newId();
    try {
      await answered(
        api.POST("/api/sites/{id}/sweeps", {
          params: { path: { id: siteId } },
          body: { id, position_id: position, axis, attach, expected_deg: typed },
        }),
      );
      refresh(siteId);
      onBegun(id);
    } catch (error) {
      setProblem(error instanceof Error ? error.message : "It did not work.");
    }
  };
  return (
    <form
      aria-label="Begin a sweep"
      className="mt-5 flex max-w-xl flex-col gap-4"
      onSubmit={(event) => {
        event.preventDefault();
        void begin();
      }}
    >
      <ChoiceField
        label="At"
        value={position}
        choices={positions.map((one): [string, string] => [one.id, one.name])}
        onChange={setPosition}
      />
      <ChoiceField label="Turn it" value={axis} choices={AXES} onChange={setAxis} />
      <ChoiceField label="The gateway meanwhile" value={attach} choices={ATTACHES} onChange={setAttach} />
      {axis !== "ports" && (
        <TextField
          label={
            axis === "azimuth" ? "Mast expected at, degrees from true north" : "Mast expected at, degrees up"
          }
          hint="Left empty, the survey's best mast for this position is taken; without one the sweep goes all round."
          value={expected}
          onChange={setExpected}
          inputMode="decimal"
        />
      )}
      {problem && (
        <p role="alert" className="font-semibold text-starved">
          {problem}
        </p>
      )}
      <p className="text-muted">
        Before you climb: somebody near, ladder tied, dry and calm weather, far from power lines. Keep off a
        transmitting antenna's face. Local rules and a licensed installer have the last word.
      </p>
      <div>
        <Button look="filled" type="submit">
          Begin the sweep
        </Button>
      </div>
    </form>
  );
}
