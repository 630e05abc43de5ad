import { answered, api } from "../../api/client";
import type { CellKey, SweepView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { counted } from "../../ui/format";
import { useAction } from "../../ui/useAction";

/** Asks which cell is aimed at, where several answered; the fit follows at once. */
export function WhichCell({ siteId, view }: { siteId: string; view: SweepView }) {
  const chosen = view.sweep.cell != null;
  const choose = useAction(siteId, (cell: CellKey) =>
    answered(
      api.PUT("/api/sites/{id}/sweeps/{sweep}/cell", {
        params: { path: { id: siteId, sweep: view.sweep.id } },
        body: { cell },
      }),
    ),
  );
  if (view.which_cell.length < 2) return null;
  const [aimed] = view.which_cell;
  return (
    <section className="my-3 rounded-xl border border-edge bg-surface p-4" aria-label="Which cell">
      <p className="font-bold">{chosen ? `You aim at ${aimed?.words}.` : "Which cell do you aim at?"}</p>
      <p className="text-muted">
        Several cells answered. Each has a curve of its own; the other points are left out.
      </p>
      <div className="mt-3 flex flex-col gap-2">
        {view.which_cell.map((one, place) => (
          <Button
            key={one.words}
            disabled={choose.busy}
            aria-pressed={place === 0}
            onClick={() => choose.run(one.cell)}
          >
            {one.words}, {counted(one.bearings, "bearing")}
            {place === 0 && " (shown)"}
          </Button>
        ))}
      </div>
    </section>
  );
}
