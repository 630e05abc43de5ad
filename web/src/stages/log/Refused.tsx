import { Button } from "../../ui/Button";
import type { useMeasuring } from "./useMeasuring";

/** Why a recording or test did not start, and the offer to start it when what is going on has ended. */
export function Refused({ measuring }: { measuring: ReturnType<typeof useMeasuring> }) {
  const { problem, wait, waiting, stop } = measuring;
  if (waiting)
    return (
      <p role="status" className="flex basis-full flex-wrap items-center gap-3 font-semibold">
        Waiting: it starts when what is going on has ended.
        <Button look="plain" onClick={stop}>
          Stop waiting
        </Button>
      </p>
    );
  if (!problem) return null;
  return (
    <p role="alert" className="flex basis-full flex-wrap items-center gap-3 font-semibold text-starved">
      {problem}
      {wait && <Button onClick={wait}>Start when it has ended</Button>}
    </p>
  );
}
