import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { answered, api, newId } from "../../api/client";
import { keys } from "../../api/queries";
import { Button } from "../../ui/Button";
import { TextField } from "../../ui/Field";
import { counted } from "../../ui/format";
import { useNotice } from "../../ui/notices";
import { useAction } from "../../ui/useAction";

/** Ways that a gateway faces at a place, a quarter turn apart. */
const WAYS = 4;

/** Where bands stay on the gateway's own antennas: setups for each way it can face, with the antenna left alone. */
export function GatewayPlace({ siteId, setupId }: { siteId: string; setupId: string }) {
  const notice = useNotice();
  const navigate = useNavigate();
  const [place, setPlace] = useState("");
  const path = { params: { path: { id: setupId } } };
  const found = useQuery({
    queryKey: keys.gatewayPlace(siteId, setupId),
    queryFn: () => answered(api.GET("/api/setups/{id}/gateway-place", path)),
  });
  const make = useAction(siteId, async () => {
    const body = { setup_ids: Array.from({ length: WAYS }, newId), place: place.trim() || null };
    const made = await answered(api.POST("/api/setups/{id}/gateway-place", { ...path, body }));
    const first = made[0];
    if (!first) {
      notice("These ways are setups already.");
      return;
    }
    notice(`${counted(made.length, "setup")} made. Read each for a minute with the antenna left alone.`);
    await navigate({ to: "/sites/$siteId/log", params: { siteId }, search: { setup: first.id } });
  });
  const view = found.data;
  if (!view) return null;
  return (
    <section className="mt-8 max-w-3xl border-t border-rule pt-5" aria-label="The gateway's own place">
      <h2 className="text-lg font-bold">{view.title}</h2>
      <p className="mt-1">{view.detail}</p>
      <div className="mt-3 flex flex-wrap items-end gap-3">
        <div className="w-56">
          <TextField
            label="Another place for it"
            hint="Blank: where it stands"
            value={place}
            onChange={setPlace}
          />
        </div>
        <Button onClick={make.run} disabled={view.untried === 0 && place.trim() === ""}>
          Make setups to test
        </Button>
      </div>
    </section>
  );
}
