import { describe, expect, test } from "vitest";
import { placeText, readPlace } from "../src/stages/sites/coordinates";

describe("coordinates", () => {
  test("come back as they were, with a true minus", () => {
    const place = { latitude_deg: -33.25, longitude_deg: 8.2088 };
    expect(placeText(place)).toEqual({ latitude: "−33.25", longitude: "8.2088" });
    expect(readPlace(placeText(place)).place).toEqual(place);
    expect(readPlace(placeText(null))).toEqual({ place: null });
  });
  test("decimal commas and degree signs are read", () => {
    expect(readPlace({ latitude: " 61,42° ", longitude: "-8.21" }).place).toEqual({
      latitude_deg: 61.42,
      longitude_deg: -8.21,
    });
  });
  test.each([
    ["61.42", ""],
    ["", "8"],
    ["north", "8"],
  ])("%s and %s are refused, and no place is made", (latitude, longitude) => {
    const read = readPlace({ latitude, longitude });
    expect(read.place).toBeNull();
    expect(read.error).toContain("61.42 and 8.21");
  });
});
