import { useNavigate } from "@tanstack/react-router";
import { answered, api, newId } from "../../api/client";
import type { PositionNode, SetupNode } from "../../api/schema";
import { useChooseSetup } from "../../shell/useSiteContext";
import { Button } from "../../ui/Button";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";

/** Adding, duplicating and archiving, each with its way back. */
export function SetupActions({
  siteId,
  position: node,
  chosen,
}: {
  siteId: string;
  position: PositionNode;
  chosen: SetupNode | undefined;
}) {
  const notice = useNotice();
  const choose = useChooseSetup();
  const navigate = useNavigate();
  const { position } = node;

  const add = useAction(siteId, async () => {
    const id = newId();
    const body = { id, name: "", antenna: "external" as const };
    await answered(api.POST("/api/positions/{id}/setups", { params: { path: { id: position.id } }, body }));
    choose(id);
  });
  const duplicateSetup = useAction(siteId, async () => {
    if (!chosen) return;
    const id = newId();
    const {
      id: from,
      position_id: _position,
      created_at: _made,
      archived_at: _away,
      made_from: _parent,
      origin: _origin,
      ...spec
    } = chosen.setup;
    const body = { ...spec, id, made_from: from };
    await answered(api.POST("/api/positions/{id}/setups", { params: { path: { id: position.id } }, body }));
    choose(id);
    notice("A copy without runs. Change what you want to try.");
  });
  const setAway = async (what: "setups" | "positions", id: string, away: boolean) => {
    const path = { params: { path: { id } } };
    if (what === "setups") {
      await answered(
        away ? api.POST("/api/setups/{id}/archive", path) : api.POST("/api/setups/{id}/restore", path),
      );
    } else {
      await answered(
        away ? api.POST("/api/positions/{id}/archive", path) : api.POST("/api/positions/{id}/restore", path),
      );
    }
  };
  const bringBack = useAction(siteId, (what: "setups" | "positions", id: string) => setAway(what, id, false));
  const archive = useAction(siteId, async (what: "setups" | "positions", id: string, name: string) => {
    await setAway(what, id, true);
    notice(`${name} is archived. Nothing is lost.`, () => bringBack.run(what, id));
  });
  const duplicatePosition = useAction(siteId, async () => {
    const id = newId();
    const { name, mount, notes, place, height_above_ground_m } = position;
    const body = { id, name: `${name}, copy`, mount, notes, place, height_above_ground_m };
    await answered(api.POST("/api/sites/{id}/positions", { params: { path: { id: siteId } }, body }));
    const setup = newId();
    if (chosen) {
      const { antenna, azimuth_deg, tilt_deg, kit_id, kit_note, lock, lock_note, ports, gateway_place } =
        chosen.setup;
      const spec = {
        id: setup,
        name: "",
        antenna,
        azimuth_deg,
        tilt_deg,
        kit_id,
        kit_note,
        lock,
        lock_note,
        ports,
        gateway_place,
      };
      await answered(api.POST("/api/positions/{id}/setups", { params: { path: { id } }, body: spec }));
    }
    await navigate({ to: "/sites/$siteId/mount", params: { siteId }, search: chosen ? { setup } : {} });
  });

  return (
    <div className="mt-8 flex flex-wrap gap-x-5 gap-y-1 border-t border-rule pt-3">
      <Button look="plain" onClick={add.run}>
        Add a setup here
      </Button>
      {chosen && (
        <>
          <Button look="plain" onClick={duplicateSetup.run}>
            Duplicate the setup
          </Button>
          <Button look="plain" onClick={() => archive.run("setups", chosen.setup.id, chosen.label)}>
            Archive the setup
          </Button>
        </>
      )}
      <Button look="plain" onClick={duplicatePosition.run}>
        Duplicate the position
      </Button>
      <Button look="plain" onClick={() => archive.run("positions", position.id, position.name)}>
        Archive the position
      </Button>
    </div>
  );
}
