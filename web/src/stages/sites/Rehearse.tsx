import { useNavigate } from "@tanstack/react-router";
import { answered, api, newId } from "../../api/client";
import type { RehearsalKind } from "../../api/schema";
import { Button } from "../../ui/Button";
import { useAction } from "../../ui/useAction";

const KINDS: readonly (readonly [RehearsalKind, string, string])[] = [
  ["clean_mast", "One clean mast", "The plain case: learn the steps."],
  ["interferer", "An interferer beside the mast", "Strongest and cleanest part ways."],
  ["hopping", "A gateway that hops", "Two cells answer alternately; their points are kept apart."],
];

/** Practice without a ladder: invented sites whose truth is hidden until the antenna is set. */
export function Rehearse() {
  const navigate = useNavigate();
  const begin = useAction(undefined, async (kind: RehearsalKind) => {
    const body = { id: newId(), position_id: newId(), kind };
    const site = await answered(api.POST("/api/rehearsals", { body }));
    await navigate({ to: "/sites/$siteId/aim", params: { siteId: site.id } });
  });
  return (
    <section aria-label="Rehearse" className="mt-10">
      <h2 className="text-lg font-bold">Rehearse without a ladder</h2>
      <p className="text-muted">A simulated gateway, an antenna turned on the screen, a score at the end.</p>
      <ul className="mt-3 grid gap-3 sm:grid-cols-3">
        {KINDS.map(([kind, name, detail]) => (
          <li key={kind} className="flex flex-col rounded-lg border border-rule p-3">
            <p className="font-semibold">{name}</p>
            <p className="mb-2 flex-1 text-muted">{detail}</p>
            <Button onClick={() => begin.run(kind)} aria-label={`Rehearse: ${name}`}>
              Begin
            </Button>
          </li>
        ))}
      </ul>
    </section>
  );
}
