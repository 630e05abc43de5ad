import { useEffect, useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { keys, queryClient } from "../../api/queries";
import type { Attach } from "../../api/schema";

/** How often it is asked whether what is going on has ended, ms. */
const ASK_AGAIN_MS = 2000;

/** Starts recordings and speed tests; what kept one from starting is said, and where something else is going on, it waits. */
export function useMeasuring(siteId: string) {
  const [problem, setProblem] = useState<string>();
  const [refused, setRefused] = useState<() => Promise<void>>();
  const [waiting, setWaiting] = useState(false);
  useEffect(() => {
    if (!waiting || !refused) return;
    const timer = setInterval(() => void refused(), ASK_AGAIN_MS);
    return () => clearInterval(timer);
  }, [waiting, refused]);
  const start = async (
    setupId: string,
    samples: number,
    speed_tests: number,
    noted: { attach: Attach; weather: string } = { attach: "not_recorded", weather: "" },
  ): Promise<void> => {
    setProblem(undefined);
    const body = { id: newId(), samples, speed_tests, conditions: { ...noted, notes: "" } };
    try {
      await answered(api.POST("/api/setups/{id}/jobs", { params: { path: { id: setupId } }, body }));
      setWaiting(false);
      setRefused(undefined);
      await queryClient.invalidateQueries({ queryKey: keys.job(siteId) });
    } catch (failed) {
      const { message, problem: said } = failed as ApiError;
      setProblem(message);
      const busy = said.type === "problems/busy";
      if (!busy) setWaiting(false);
      setRefused(busy ? () => () => start(setupId, samples, speed_tests, noted) : undefined);
    }
  };
  const wait = refused && !waiting ? () => setWaiting(true) : undefined;
  const stop = () => {
    setWaiting(false);
    setProblem(undefined);
  };
  return { start, problem, wait, waiting, stop };
}
