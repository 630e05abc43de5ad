import { useMutation } from "@tanstack/react-query";
import { refresh } from "../api/queries";
import { useNotice } from "./notices";

/** What a press asks the server to do. */
export interface Action<I extends unknown[]> {
  /** Does it, once at a time: a second press while the first is under way is passed over. */
  run: (...input: I) => void;
  busy: boolean;
}

/**
 * A press that writes: what goes wrong is said, what went well is seen on all pages of the site.
 */
export function useAction<I extends unknown[]>(
  siteId: string | undefined,
  write: (...input: I) => Promise<unknown>,
): Action<I> {
  const notice = useNotice();
  const { mutate, isPending } = useMutation({
    mutationFn: (input: I) => write(...input),
    onSuccess: () => siteId !== undefined && refresh(siteId),
    onError: (error) => notice(error.message),
  });
  return { run: (...input) => !isPending && mutate(input), busy: isPending };
}
