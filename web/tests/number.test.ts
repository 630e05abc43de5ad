import { expect, test } from "vitest";
import { readNumber, typedAzimuth, wholeTurn } from "../src/ui/number";

test.each([
  ["3,5", 3.5],
  [" −12.25 ", -12.25],
  ["–4", -4],
  ["0", 0],
  ["", null],
  ["  ", null],
  ["twelve", null],
  ["12 m", null],
  ["1.2.3", null],
  ["1,2,3", null],
])("%j is read as %j", (typed, value) => expect(readNumber(typed)).toBe(value));

test.each([
  ["12 m", "m", 12],
  ["12,5m", "m", 12.5],
  ["20 mhz", "MHz", 20],
  ["143°", "°", 143],
  ["−97 dBm", "dBm", -97],
  // Another unit than the field's is not read over: it would be wrong by a factor.
  ["40 ft", "m", null],
  ["1 GHz", "MHz", null],
  ["m", "m", null],
])("%j in %s is read as %j", (typed, unit, value) => expect(readNumber(typed, unit)).toBe(value));

test("a direction stays within a turn, and only a full turn as typed is north", () => {
  expect([-10, 0, 359.5, 360, 725].map(wholeTurn)).toEqual([350, 0, 359.5, 0, 5]);
  expect([null, 0, 360, 400, -5].map(typedAzimuth)).toEqual([null, 0, 0, 400, -5]);
});
