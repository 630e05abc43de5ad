import type { SweepAxis } from "../../api/schema";
import { bearing, halves } from "../../ui/format";

/** A bearing or a tilt in words. */
export const angle = (degrees: number, axis: SweepAxis | undefined) =>
  axis === "ports"
    ? degrees < 0.5
      ? "map A"
      : "map B"
    : axis === "tilt"
      ? `${halves(Math.abs(degrees))}° ${degrees < 0 ? "down" : "up"}`
      : bearing(degrees);
