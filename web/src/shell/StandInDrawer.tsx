import { useState } from "react";
import { answered, api } from "../api/client";
import { keys, queryClient, useStandIn } from "../api/queries";
import type { Pose, SiteView } from "../api/schema";
import { AimGlyph } from "../drawings/AimGlyph";
import { Button } from "../ui/Button";
import { bearing } from "../ui/format";
import { wholeTurn } from "../ui/number";
import { useAction } from "../ui/useAction";
import { saveSettings } from "./useSiteContext";

/** Hands must turn a real antenna; here they turn the stand-in. Only shown where the site has one. */
export function StandInDrawer({ view }: { view: SiteView }) {
  const siteId = view.site.id;
  const pose = useStandIn(siteId, true);
  // What was turned to but not yet heard of again; it gives way to what the stand-in says next.
  const [turned, setTurned] = useState<{ pose: Pose; over: Pose } | null>(null);
  const follows = view.settings.stand_in_follows ?? true;
  const shown = turned && turned.over === pose.data ? turned.pose : pose.data;

  const put = useAction(
    undefined,
    async (next: Pose) => {
      if (follows) await saveSettings(view, { stand_in_follows: false });
      await answered(api.PUT("/api/sites/{id}/stand-in", { params: { path: { id: siteId } }, body: next }));
      await queryClient.invalidateQueries({ queryKey: keys.standIn(siteId) });
    },
    { queue: true },
  );
  const turn = (change: Partial<Pose>) => {
    if (!shown || !pose.data) return;
    const next = { ...shown, ...change };
    setTurned({ pose: next, over: pose.data });
    put.run(next);
  };
  const follow = useAction(undefined, async (stand_in_follows: boolean) => {
    await saveSettings(view, { stand_in_follows });
    await queryClient.invalidateQueries({ queryKey: keys.standIn(siteId) });
  });
  const step = (degrees: number) => turn({ azimuth_deg: wholeTurn((shown?.azimuth_deg ?? 0) + degrees) });

  return (
    <details className="border-t border-rule px-5 py-3" open>
      <summary className="font-semibold">Simulated antenna</summary>
      {pose.isError && <p className="mt-2 text-sm">{pose.error.message}</p>}
      {shown && (
        <div className="mt-2 flex flex-col gap-3">
          <div className="flex items-center gap-3">
            <AimGlyph azimuth={shown.azimuth_deg} external={shown.antenna === "external"} size={44} />
            <div>
              <p className="text-xl leading-tight font-bold">{bearing(shown.azimuth_deg)}</p>
              <p className="text-sm text-muted">
                {shown.antenna === "external" ? "external panel" : "stock antennas"},{" "}
                {shown.mount.replace("_", " ")}
              </p>
            </div>
          </div>
          <div className="grid grid-cols-2 gap-2">
            <Button onClick={() => step(-5)} aria-label="Turn 5 degrees left">
              ◀ 5°
            </Button>
            <Button onClick={() => step(5)} aria-label="Turn 5 degrees right">
              5° ▶
            </Button>
          </div>
          <label className="flex min-h-8 items-center gap-2 text-sm">
            <input
              type="checkbox"
              className="size-5 accent-(--action)"
              checked={follows}
              onChange={(event) => follow.run(event.target.checked)}
            />
            Follow the setup being worked on
          </label>
        </div>
      )}
    </details>
  );
}
