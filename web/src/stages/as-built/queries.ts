import { useQuery } from "@tanstack/react-query";
import { answered, api } from "../../api/client";
import { keys } from "../../api/queries";

/** What is shown and given away beside what anyone may see. */
export const PRIVATE = [
  ["place", "Where the house stands: address, coordinates, mast"],
  ["people", "Who built it"],
  ["serials", "Serial numbers"],
  ["account", "Plan and account"],
  ["photos", "Photographs: a camera may have noted where they were taken"],
] as const;

export type Private = (typeof PRIVATE)[number][0];

/** "place,people" as it stands in the address of the page. */
export const sharedOf = (text: string | undefined): Private[] =>
  PRIVATE.map(([name]) => name).filter((name) => text?.split(",").includes(name));

const query = (shared: readonly Private[]) => Object.fromEntries(shared.map((name) => [name, true]));

export const fileOf = (sheet: string, shared: readonly Private[]): string => {
  const asked = shared.map((name) => `${name}=true`).join("&");
  return `/api/as-built/${sheet}/file.json${asked && `?${asked}`}`;
};

export const useSheets = (id: string) =>
  useQuery({
    queryKey: keys.sheets(id),
    queryFn: () => answered(api.GET("/api/sites/{id}/as-built", { params: { path: { id } } })),
  });

export const useAsBuilt = (siteId: string, sheet: string | undefined, shared: readonly Private[]) =>
  useQuery({
    queryKey: keys.asBuilt(siteId, { sheet, shared }),
    enabled: sheet !== undefined,
    placeholderData: (before) => before,
    queryFn: () =>
      answered(
        api.GET("/api/as-built/{id}", { params: { path: { id: sheet ?? "" }, query: query(shared) } }),
      ),
  });
