import { useMutation } from "@tanstack/react-query";
import { useId, useRef } from "react";
import { ApiError } from "../api/client";
import { refresh } from "../api/queries";
import { useNotice } from "./notices";

/** What a press asks the server to do. */
export interface Action<I extends unknown[], T> {
  /** Does it. A second press while the first is under way is passed over, unless they queue. */
  run: (...input: I) => void;
  busy: boolean;
  /** What went wrong the last time, where it is shown beside the press. */
  problem: string | undefined;
  /** The server's refusal, for a press with fields of its own. */
  refused: ApiError | undefined;
  /** The last answer. */
  answer: T | undefined;
  /** Forgets answer and problem. */
  reset: () => void;
}

/** What went wrong, in the words nearest to what was asked. */
export const wordsOf = (error: Error): string =>
  error instanceof ApiError ? (error.problem.errors[0]?.detail ?? error.message) : error.message;

interface Manner {
  /** What goes wrong is told beside the press, by `problem`, and not in a notice. */
  beside?: boolean;
  /** Every press counts, one after another: for sliders and lists, where the last value is the one that is meant. */
  queue?: boolean;
}

/** A press that writes or asks: what goes wrong is said, what went well is seen on all pages of the site. */
export function useAction<I extends unknown[], T>(
  siteId: string | undefined,
  write: (...input: I) => Promise<T>,
  { beside = false, queue = false }: Manner = {},
): Action<I, T> {
  const notice = useNotice();
  const scope = useId();
  // A second press may come before the page has been told of the first.
  const going = useRef(false);
  const { mutate, isPending, error, data, reset } = useMutation({
    ...(queue ? { scope: { id: scope } } : {}),
    mutationFn: (input: I) => write(...input),
    onSettled: () => {
      going.current = false;
    },
    onSuccess: () => siteId !== undefined && refresh(siteId),
    onError: (failed) => !beside && notice(wordsOf(failed)),
  });
  return {
    run: (...input) => {
      if (going.current && !queue) return;
      going.current = true;
      mutate(input);
    },
    busy: isPending,
    problem: error && beside ? wordsOf(error) : undefined,
    refused: error instanceof ApiError ? error : undefined,
    answer: data,
    reset,
  };
}
