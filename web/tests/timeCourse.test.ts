import { expect, test } from "vitest";
import { evenings, hourOf } from "../src/drawings/TimeCourse";

const at = (iso: string) => Date.parse(iso);

test("hours are told in the site's zone", () => {
  expect(hourOf(at("2026-11-10T18:30:00Z"), "Europe/Oslo")).toBe(19.5);
  expect(hourOf(at("2026-07-10T18:30:00Z"), "Europe/Oslo")).toBe(20.5);
  expect(hourOf(at("2026-11-10T18:30:00Z"), "Asia/Kathmandu")).toBe(0.25);
});

test("evenings are found day by day, across a change of clocks, and cut at the ends", () => {
  // Clocks go back on 25 October 2026 at 3 h.
  const found = evenings(at("2026-10-24T00:00:00Z"), at("2026-10-26T18:30:00Z"), "Europe/Oslo", [18, 22]);
  expect(found.map((one) => [new Date(one.from).toISOString(), new Date(one.to).toISOString()])).toEqual([
    ["2026-10-24T16:00:00.000Z", "2026-10-24T21:00:00.000Z"],
    ["2026-10-25T17:00:00.000Z", "2026-10-25T22:00:00.000Z"],
    ["2026-10-26T17:00:00.000Z", "2026-10-26T18:30:00.000Z"],
  ]);
  expect(evenings(at("2026-01-01T00:00:00Z"), at("2026-12-01T00:00:00Z"), "Europe/Oslo", [18, 22])).toEqual(
    [],
  );
});
