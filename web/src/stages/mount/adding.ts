import { answered, api, newId } from "../../api/client";
import type { Mount, PositionBody } from "../../api/schema";

/** Where a gateway is first tried as it is. */
const onStockAntennas = (mount: Mount) => mount === "indoor" || mount === "window" || mount === "other";

/** Adds a position, with a first setup as it stands: stock antennas or external ones, to be changed at once or later. Answers the setup. */
export async function addPosition(siteId: string, body: PositionBody): Promise<string> {
  const id = newId();
  const path = { params: { path: { id: siteId } } };
  await answered(api.POST("/api/sites/{id}/positions", { ...path, body: { ...body, id } }));
  const setup = newId();
  const antenna = onStockAntennas(body.mount) ? ("internal" as const) : ("external" as const);
  const spec = { id: setup, name: "", antenna };
  await answered(api.POST("/api/positions/{id}/setups", { params: { path: { id } }, body: spec }));
  return setup;
}
