import { useLocation } from "@tanstack/react-router";
import { useState } from "react";
import { useSite } from "../../api/queries";
import { AimRose } from "../../drawings/AimRose";
import { inUse, useChosenSetup, useSiteId } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { counted } from "../../ui/format";
import { ReturnNotice } from "../ReturnNotice";
import { SetupOutlook } from "../SetupOutlook";
import { StageHeader } from "../StageHeader";
import { Archived } from "./Archived";
import { GatewayPlace } from "./GatewayPlace";
import { PointsFile } from "./PointsFile";
import { PositionForm } from "./PositionForm";
import { SetupActions } from "./SetupActions";
import { SetupForm } from "./SetupForm";

/** Positions and setups: where an antenna could stand, and how it is aimed and plugged in there. */
export function MountStage() {
  const siteId = useSiteId();
  const view = useSite(siteId).data;
  const chosen = useChosenSetup();
  const adding = useLocation({ select: (location) => location.hash }) === "new-position";
  const [editing, setEditing] = useState(false);
  if (!view) return null;
  const positions = inUse(view);
  const fresh = adding || positions.length === 0;
  const setups = positions.reduce((sum, node) => sum + node.setups.length, 0);
  const title = fresh
    ? positions.length === 0
      ? "Begin with where the gateway stands today."
      : "Where else could the antenna stand?"
    : setups < 2
      ? "Add a second setup, so that there is something to compare."
      : `${counted(positions.length, "position")}, ${counted(setups, "setup")} to compare.`;

  if (fresh) {
    return (
      <>
        <StageHeader
          title={title}
          detail="A position is a place on the property: a sill, a gable, a roof mast, a pole. Its setups are what is tried there."
        />
        <div className="mt-6 max-w-xl">
          <PositionForm siteId={siteId} units={view.settings.units ?? "metric"} />
          <PointsFile siteId={siteId} units={view.settings.units ?? "metric"} />
        </div>
      </>
    );
  }

  const node = chosen?.position ?? positions[0];
  if (!node) return null;
  return (
    <>
      <StageHeader title={title} detail={chosen ? `Now: ${chosen.setup.label}.` : undefined} />
      <ReturnNotice site={view} />
      <div className="mt-6 grid gap-x-10 gap-y-8 xl:grid-cols-[minmax(0,1fr)_16rem]">
        <div className="min-w-0">
          {chosen ? (
            <SetupForm key={chosen.setup.setup.id} node={chosen.setup} />
          ) : (
            <p className="text-lg">
              <strong>{node.position.name}</strong> has no setup yet. Add one to say how the antenna is aimed
              there.
            </p>
          )}
          <SetupActions siteId={siteId} position={node} chosen={chosen?.setup} />
        </div>
        <div className="flex flex-col gap-4">
          <AimRose
            rays={node.setups
              .filter((setup) => setup.setup.azimuth_deg != null)
              .map(({ setup }) => ({
                id: setup.id,
                azimuth: setup.azimuth_deg ?? 0,
                chosen: setup.id === chosen?.setup.setup.id,
              }))}
          />
          <div className="border-t border-rule pt-3">
            <h2 className="text-lg font-bold">{node.position.name}</h2>
            {node.position.notes && <p className="mt-1 text-muted">{node.position.notes}</p>}
            {!editing && (
              <Button look="plain" onClick={() => setEditing(true)}>
                Edit the position
              </Button>
            )}
          </div>
        </div>
      </div>
      {chosen && <GatewayPlace siteId={siteId} setupId={chosen.setup.setup.id} />}
      {chosen && <SetupOutlook siteId={siteId} setupId={chosen.setup.setup.id} label={chosen.setup.label} />}
      {editing && (
        <section className="mt-8 max-w-xl border-t border-rule pt-5" aria-label="Position">
          <h2 className="mb-3 text-lg font-bold">The position</h2>
          <PositionForm
            key={node.position.id}
            siteId={siteId}
            units={view.settings.units ?? "metric"}
            node={node}
            onDone={() => setEditing(false)}
          />
        </section>
      )}
      <Archived view={view} />
    </>
  );
}
