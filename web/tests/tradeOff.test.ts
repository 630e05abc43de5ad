import { expect, test } from "vitest";
import { apart, limitsOf, logMarks } from "../src/drawings/TradeOff";

test("marks are round and within the limits", () => {
  expect(logMarks([8, 120])).toEqual([10, 20, 50, 100]);
  expect(logMarks([0.4, 3])).toEqual([0.5, 1, 2]);
});

test("limits hold every value, with room, and something where there is none", () => {
  const [low, high] = limitsOf([10, 0, 140]);
  expect(low).toBeLessThan(10);
  expect(high).toBeGreaterThan(140);
  expect(limitsOf([])).toEqual([1, 100]);
});

test("names that would lie on one another are moved down, each no more than it must", () => {
  expect(apart([100, 20, 104], 17)).toEqual([100, 20, 117]);
  expect(apart([50, 50, 50], 10)).toEqual([50, 60, 70]);
  expect(apart([], 10)).toEqual([]);
});
