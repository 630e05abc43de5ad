import { useNavigate } from "@tanstack/react-router";
import type { SpotView } from "../../api/schema";

/** Chooses a spot in the address. */
export function useChooseSpot(): (spot: SpotView) => void {
  const navigate = useNavigate();
  return (spot) =>
    void navigate({
      to: ".",
      search: (before) => ({ ...before, setup: spot.setup_id, carrier: undefined }),
    });
}
