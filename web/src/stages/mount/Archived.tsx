import { answered, api } from "../../api/client";
import type { SiteView } from "../../api/schema";
import { Button } from "../../ui/Button";
import { useAction } from "../../ui/useAction";

/** What was put away, with the way back. */
export function Archived({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const positions = view.positions.filter((node) => node.position.archived_at);
  const setups = view.positions
    .filter((node) => !node.position.archived_at)
    .flatMap((node) => node.setups)
    .filter((node) => node.setup.archived_at);
  const back = useAction(siteId, (what: "position" | "setup", id: string) => {
    const path = { params: { path: { id } } };
    return answered(
      what === "setup"
        ? api.POST("/api/setups/{id}/restore", path)
        : api.POST("/api/positions/{id}/restore", path),
    );
  });
  if (positions.length + setups.length === 0) return null;
  return (
    <details className="mt-8 border-t border-rule pt-3">
      <summary className="font-semibold">Archived ({positions.length + setups.length})</summary>
      <ul className="mt-2 flex max-w-xl flex-col divide-y divide-rule">
        {positions.map(({ position }) => (
          <li key={position.id} className="flex items-center justify-between gap-4 py-1">
            {position.name}
            <Button look="plain" onClick={() => back.run("position", position.id)}>
              Bring back
            </Button>
          </li>
        ))}
        {setups.map(({ setup, label }) => (
          <li key={setup.id} className="flex items-center justify-between gap-4 py-1">
            {label}
            <Button look="plain" onClick={() => back.run("setup", setup.id)}>
              Bring back
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
