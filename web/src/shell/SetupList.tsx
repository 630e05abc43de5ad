import { Link } from "@tanstack/react-router";
import { useSite } from "../api/queries";
import type { PositionNode, SetupNode } from "../api/schema";
import { AimGlyph } from "../drawings/AimGlyph";
import { counted, length } from "../ui/format";
import { MOUNTS } from "../ui/words";
import { inUse, useChooseSetup, useChosenSetup, useSiteId } from "./useSiteContext";

/** The site's positions with their setups; the one being worked on stands out. */
export function SetupList() {
  const siteId = useSiteId();
  const view = useSite(siteId).data;
  const chosen = useChosenSetup();
  const units = view?.settings.units ?? "metric";
  const positions = inUse(view);
  return (
    <div className="flex flex-col gap-1 p-3 pb-6">
      <h2 className="px-2 pt-2 text-sm font-semibold text-muted">Positions</h2>
      <ul className="flex flex-col gap-1">
        {positions.map((node) => (
          <PositionEntry key={node.position.id} node={node} chosen={chosen?.setup.setup.id} units={units} />
        ))}
      </ul>
      {view && positions.length === 0 && (
        <p className="px-2 py-2">None yet. Begin with where the gateway stands today.</p>
      )}
      <Link
        to="/sites/$siteId/mount"
        params={{ siteId }}
        hash="new-position"
        className="mt-1 rounded-lg px-2 py-2 font-semibold text-action hover:underline"
      >
        Add a position
      </Link>
    </div>
  );
}

function PositionEntry({
  node,
  chosen,
  units,
}: {
  node: PositionNode;
  chosen: string | undefined;
  units: "metric" | "imperial";
}) {
  const { position, setups } = node;
  const current = setups.some((setup) => setup.setup.id === chosen);
  // A lock that a round only tried stays folded away until it is worked on.
  const isTried = (node: SetupNode) => node.setup.origin?.kind === "band_trial" && node.setup.id !== chosen;
  const shown = setups.filter((setup) => !isTried(setup));
  const tried = setups.filter(isTried);
  const place = [
    MOUNTS[position.mount],
    position.height_above_ground_m != null ? length(position.height_above_ground_m, units) : "",
  ];
  return (
    <li
      className={`rounded-xl border px-2 py-2 ${current ? "border-rule bg-surface" : "border-transparent"}`}
    >
      <p className="px-1 leading-snug font-bold">{position.name}</p>
      <p className="px-1 text-sm leading-snug text-muted">{place.filter(Boolean).join(", ")}</p>
      <ul className="mt-1 flex flex-col gap-0.5">
        {shown.map((setup) => (
          <SetupEntry key={setup.setup.id} node={setup} current={setup.setup.id === chosen} />
        ))}
      </ul>
      {tried.length > 0 && (
        <details className="px-1 text-sm">
          <summary className="min-h-8 py-1 text-muted">
            {counted(tried.length, "lock")} tried at Bands
          </summary>
          <ul className="flex flex-col gap-0.5 text-base">
            {tried.map((setup) => (
              <SetupEntry key={setup.setup.id} node={setup} current={false} />
            ))}
          </ul>
        </details>
      )}
      {setups.length === 0 && <p className="px-1 text-sm text-muted">No setup yet</p>}
    </li>
  );
}

function SetupEntry({ node, current }: { node: SetupNode; current: boolean }) {
  const choose = useChooseSetup();
  const { setup } = node;
  return (
    <li>
      <button
        type="button"
        aria-current={current}
        onClick={() => choose(setup.id)}
        className="flex min-h-9 w-full items-center gap-2 rounded-lg px-1.5 py-1 text-left hover:bg-lamp-wash aria-[current=true]:bg-lamp-wash"
      >
        <AimGlyph azimuth={setup.azimuth_deg ?? null} external={setup.antenna === "external"} />
        <span className="min-w-0">
          <span className="block leading-tight">{node.aim}</span>
          <span className="block text-sm leading-tight text-muted">
            {node.tests > 0 || node.samples > 0 ? counted(node.tests, "test") : "nothing recorded"}
          </span>
        </span>
      </button>
    </li>
  );
}
