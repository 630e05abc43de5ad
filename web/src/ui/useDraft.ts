import { useCallback, useEffect, useState } from "react";

/**
 * State that outlives a reload until it is saved: nothing the user entered is lost. A draft is kept under `key`
 * in this browser from the first change on, and forgotten with `clear`.
 */
export function useDraft<T>(
  key: string,
  initial: T,
): [T, (change: T | ((before: T) => T)) => void, () => void, boolean] {
  const [kept, setKept] = useState<{ key: string; value: T } | null>(() => load<T>(key));
  useEffect(() => setKept(load<T>(key)), [key]);
  const value = kept?.key === key ? kept.value : initial;
  const change = useCallback(
    (next: T | ((before: T) => T)) => {
      setKept((now) => {
        const before = now?.key === key ? now.value : initial;
        const after = typeof next === "function" ? (next as (before: T) => T)(before) : next;
        try {
          localStorage.setItem(`draft:${key}`, JSON.stringify(after));
        } catch {
          // Without storage the draft lives as long as the page.
        }
        return { key, value: after };
      });
    },
    [key, initial],
  );
  const clear = useCallback(() => {
    localStorage.removeItem(`draft:${key}`);
    setKept(null);
  }, [key]);
  return [value, change, clear, kept?.key === key];
}

function load<T>(key: string): { key: string; value: T } | null {
  try {
    const text = localStorage.getItem(`draft:${key}`);
    return text === null ? null : { key, value: JSON.parse(text) as T };
  } catch {
    return null;
  }
}
