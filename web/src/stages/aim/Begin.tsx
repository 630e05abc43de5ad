import { answered, api, newId } from "../../api/client";
import { refresh } from "../../api/queries";
import type { Attach, SiteView, SweepAxis } from "../../api/schema";
import { Button } from "../../ui/Button";
import { CheckInput, ChoiceInput, Form, TextInput, useDraftForm } from "../../ui/form";
import { readNumber } from "../../ui/number";

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
  const initial = {
    position: positions.at(-1)?.id ?? "",
    axis: "azimuth" as SweepAxis,
    attach: "kept_attached" as Attach,
    expected: "",
    tests: false,
  };
  const save = async ({ position, axis, attach, expected, tests }: typeof initial) => {
    const id = newId();
    const speed_tests = tests && axis === "ports";
    const body = { id, position_id: position, axis, attach, expected_deg: readNumber(expected), speed_tests };
    await answered(api.POST("/api/sites/{id}/sweeps", { params: { path: { id: siteId } }, body }));
    refresh(siteId);
    onBegun(id);
  };
  const form = useDraftForm({ initial, save });
  const { axis } = form.values;
  if (positions.length === 0)
    return <p className="mt-4 text-lg">A sweep needs a place to stand: add a position under Mount first.</p>;
  const begin = (
    <>
      <p className="text-muted">
        Before you climb: somebody near, ladder tied, dry and calm weather, far from power lines. Keep off a
        transmitting antenna's face. Local rules and a licensed installer have the last word.
      </p>
      <div>
        <Button look="filled" type="submit">
          Begin the sweep
        </Button>
      </div>
    </>
  );
  return (
    <Form of={form} label="Begin a sweep" className="mt-5 flex max-w-xl flex-col gap-4" buttons={begin}>
      <ChoiceInput
        of={form}
        name="position"
        at="/position_id"
        label="At"
        choices={positions.map((one): [string, string] => [one.id, one.name])}
      />
      <ChoiceInput of={form} name="axis" at="/axis" label="Turn it" choices={AXES} />
      <ChoiceInput of={form} name="attach" label="The gateway meanwhile" choices={ATTACHES} />
      {axis === "ports" && (
        <CheckInput
          of={form}
          name="tests"
          at="/speed_tests"
          label="A speed test at each turn: eight to sixteen, and the data they take"
        />
      )}
      {axis !== "ports" && (
        <TextInput
          of={form}
          name="expected"
          at="/expected_deg"
          label={
            axis === "azimuth" ? "Mast expected at, degrees from true north" : "Mast expected at, degrees up"
          }
          hint="Left empty, the survey's best mast for this position is taken; without one the sweep goes all round."
          inputMode="decimal"
          check={(text: string) =>
            text.trim() !== "" && readNumber(text) === null
              ? "Write the bearing as a number of degrees, 143 for instance, or leave it empty."
              : undefined
          }
        />
      )}
    </Form>
  );
}
