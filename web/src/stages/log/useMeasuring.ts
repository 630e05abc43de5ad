import { useState } from "react";
import { type ApiError, answered, api, newId } from "../../api/client";
import { keys, queryClient } from "../../api/queries";
import type { Attach } from "../../api/schema";

/** Starts recordings and speed tests; what kept one from starting is said. */
export function useMeasuring(siteId: string) {
  const [problem, setProblem] = useState<string>();
  const start = async (
    setupId: string,
    samples: number,
    speed_tests: number,
    attach: Attach = "not_recorded",
  ): Promise<void> => {
    setProblem(undefined);
    const body = { id: newId(), samples, speed_tests, conditions: { attach, weather: "", notes: "" } };
    try {
      await answered(api.POST("/api/setups/{id}/jobs", { params: { path: { id: setupId } }, body }));
      await queryClient.invalidateQueries({ queryKey: keys.job(siteId) });
    } catch (failed) {
      setProblem((failed as ApiError).message);
    }
  };
  return { start, problem };
}
