import { useNavigate } from "@tanstack/react-router";
import { useEffect } from "react";
import { useSiteId } from "./useSiteContext";

/** Keys for the stages: 1 Baseline, 2 Kit, 3 Survey, 4 Mount, 5 Aim, 6 Bands, 7 Log, 8 Verdict, 0 settings. Not while something is being typed. */
export function Shortcuts() {
  const navigate = useNavigate();
  const siteId = useSiteId();
  useEffect(() => {
    const pressed = (event: KeyboardEvent) => {
      const into = event.target as HTMLElement;
      if (
        event.ctrlKey ||
        event.metaKey ||
        event.altKey ||
        into.closest("input, textarea, select, [role=dialog]")
      )
        return;
      const places = {
        "1": "baseline",
        "2": "kit",
        "3": "survey",
        "4": "mount",
        "5": "aim",
        "6": "bands",
        "7": "log",
        "8": "verdict",
        "0": "settings",
      } as const;
      const place = places[event.key as keyof typeof places];
      if (place)
        void navigate({
          to: `/sites/$siteId/${place}`,
          params: { siteId },
          search: (before: object) => before,
        });
    };
    window.addEventListener("keydown", pressed);
    return () => window.removeEventListener("keydown", pressed);
  }, [navigate, siteId]);
  return null;
}
