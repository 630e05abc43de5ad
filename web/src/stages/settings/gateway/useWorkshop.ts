import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { answered, api } from "../../../api/client";
import { queryClient } from "../../../api/queries";
import type {
  GatewayRecipe,
  GatewaySettings,
  LineUse,
  PageRecording,
  PageRecordingView,
  Workshop,
} from "../../../api/schema";
import { useAction } from "../../../ui/useAction";
import { useSettled } from "../../../ui/useSettled";

/** How long nothing is typed before a recipe is tried anew, ms. */
const PAUSE_MS = 600;
const LOOK_MS = 500;

/** The answers of this gateway that were recorded or came with a recipe, and what the recipe makes of them. */
export interface WorkshopState {
  view: PageRecordingView | undefined;
  /** The answers there are; none while some are being recorded. */
  recording: PageRecording | undefined;
  workshop: Workshop | undefined;
  /** They came with a recipe's file. */
  brought: boolean;
  record: (line: LineUse) => void;
  stop: () => void;
  bring: (recording: PageRecording | undefined) => void;
  busy: boolean;
  problem: string | undefined;
}

export function useWorkshop(siteId: string, gateway: GatewaySettings, recipe: GatewayRecipe): WorkshopState {
  const key = ["page-recording", siteId];
  const path = { params: { path: { id: siteId } } };
  // Of two files the second is another recording, whatever is in it.
  const [{ brought, files }, setBrought] = useState<{ brought?: PageRecording; files: number }>({ files: 0 });
  const bring = (recording: PageRecording | undefined) =>
    setBrought((before) => ({ ...(recording ? { brought: recording } : {}), files: before.files + 1 }));
  const view = useQuery({
    queryKey: key,
    queryFn: () => answered(api.GET("/api/sites/{id}/gateway/test/recording", path)),
    refetchInterval: ({ state }) => (state.data?.running ? LOOK_MS : false),
  }).data;
  const keep = (now: PageRecordingView) => queryClient.setQueryData(key, now);
  const record = useAction(
    undefined,
    async (line: LineUse) => {
      bring(undefined);
      const asked = { ...path, body: { gateway, line } };
      keep(await answered(api.POST("/api/sites/{id}/gateway/test/recording", asked)));
    },
    { beside: true },
  );
  const stop = useAction(undefined, async () =>
    keep(await answered(api.DELETE("/api/sites/{id}/gateway/test/recording", path))),
  );
  const own = view && view.running == null && view.recording.answers.length > 0 ? view.recording : undefined;
  const recording = brought ?? own;
  const settled = useSettled(recipe, PAUSE_MS);
  const tried = useQuery({
    queryKey: [
      "recipe-tried",
      settled,
      recording?.answers.length,
      recording?.answers.at(-1)?.after_ms,
      files,
    ],
    queryFn: () =>
      answered(
        api.POST("/api/gateway-recipes/try", {
          body: { recipe: settled, recording: recording ?? { answers: [] } },
        }),
      ),
    enabled: recording !== undefined,
    placeholderData: keepPreviousData,
    retry: false,
    gcTime: 0,
  });
  return {
    view,
    recording,
    workshop: recording && tried.data,
    brought: brought !== undefined,
    record: record.run,
    stop: () => stop.run(),
    bring,
    busy: record.busy || stop.busy,
    problem: record.problem ?? view?.problem ?? tried.error?.message,
  };
}
