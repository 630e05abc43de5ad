import { useQuery } from "@tanstack/react-query";
import { ApiError, answered, api, FieldError } from "../../api/client";
import { keys, refresh } from "../../api/queries";
import type { GeoPoint, Mast } from "../../api/schema";

/** Masts, ranking and all that the plan shows. */
export const useSurvey = (siteId: string) =>
  useQuery({
    queryKey: keys.survey(siteId),
    placeholderData: (before) => before,
    queryFn: () => answered(api.GET("/api/sites/{id}/survey", { params: { path: { id: siteId } } })),
  });

export interface PathAsked {
  position: string;
  mast: string;
  height_m?: number;
}

/** A path taken apart. */
export const usePath = (siteId: string, asked: PathAsked | undefined) =>
  useQuery({
    queryKey: keys.path(siteId, asked ?? {}),
    enabled: asked !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.POST("/api/sites/{id}/survey/path", {
          params: { path: { id: siteId } },
          body: asked as PathAsked,
        }),
      ),
  });

/** Points as they were typed, one a line. */
export async function readPoints(text: string, pointer = "/text"): Promise<GeoPoint[]> {
  try {
    return (await answered(api.POST("/api/calc/coordinates", { body: { text } }))).points;
  } catch (error) {
    // The form knows its field by another name.
    const detail = error instanceof ApiError ? error.field("/text") : undefined;
    throw detail === undefined ? error : new FieldError(pointer, detail);
  }
}

export const pointText = (point: GeoPoint): string =>
  `${point.latitude_deg.toFixed(6)}, ${point.longitude_deg.toFixed(6)}`;

/** Stores a mast; one put away comes back by the notice's undo. */
export async function putMast(
  siteId: string,
  mast: Mast,
  { archived = false, seen }: { archived?: boolean; seen?: Mast | undefined } = {},
): Promise<void> {
  const { id, name, operator, place, height_m, cells, notes } = mast;
  await answered(
    api.PUT("/api/sites/{id}/masts/{mast}", {
      params: { path: { id: siteId, mast: id } },
      body: { name, operator, place, height_m, cells, notes, archived, seen },
    }),
  );
  refresh(siteId);
}
