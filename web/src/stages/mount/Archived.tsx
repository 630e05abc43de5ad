import { answered, api } from "../../api/client";
import { refresh } from "../../api/queries";
import type { SiteView } from "../../api/schema";
import { Button } from "../../ui/Button";

/** What was put away, with the way back. */
export function Archived({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const positions = view.positions.filter((node) => node.position.archived_at);
  const setups = view.positions
    .filter((node) => !node.position.archived_at)
    .flatMap((node) => node.setups)
    .filter((node) => node.setup.archived_at);
  if (positions.length + setups.length === 0) return null;
  const back = async (what: "position" | "setup", id: string) => {
    const path = { params: { path: { id } } };
    await answered(
      what === "setup"
        ? api.POST("/api/setups/{id}/restore", path)
        : api.POST("/api/positions/{id}/restore", path),
    );
    refresh(siteId);
  };
  return (
    <details className="mt-8 border-t border-rule pt-3">
      <summary className="font-semibold">Archived ({positions.length + setups.length})</summary>
      <ul className="mt-2 flex max-w-xl flex-col divide-y divide-rule">
        {positions.map(({ position }) => (
          <li key={position.id} className="flex items-center justify-between gap-4 py-1">
            {position.name}
            <Button look="plain" onClick={() => void back("position", position.id)}>
              Bring back
            </Button>
          </li>
        ))}
        {setups.map(({ setup, label }) => (
          <li key={setup.id} className="flex items-center justify-between gap-4 py-1">
            {label}
            <Button look="plain" onClick={() => void back("setup", setup.id)}>
              Bring back
            </Button>
          </li>
        ))}
      </ul>
    </details>
  );
}
