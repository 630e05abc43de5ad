import { describe, expect, test } from "vitest";
import { angle } from "../src/stages/aim/angle";
import { distance } from "../src/stages/survey/words";
import { bandName } from "../src/ui/words";

/** Spaces that do not break become plain, so that expectations can be read. */
const plain = (text: string) => text.replace(/[\u00a0\u202f]/g, " ");

describe("distances are as exact as they are useful", () => {
  test.each([
    [4, "0 m"],
    [368, "370 m"],
    [994, "990 m"],
    [1000, "1.0 km"],
    [4680, "4.7 km"],
    [19_999, "20.0 km"],
    [20_400, "20 km"],
  ])("%s m is %s", (metres, text) => expect(plain(distance(metres, "metric"))).toBe(text));
  test.each([
    [30.48, "100 ft"],
    [299, "980 ft"],
    [300, "0.2 mi"],
    [1609.344, "1.0 mi"],
  ])("%s m is %s", (metres, text) => expect(plain(distance(metres, "imperial"))).toBe(text));
});

describe("angles are said by what is turned", () => {
  test.each([
    [143, undefined, "143"],
    [0.2, "azimuth", "0"],
    [2.5, "tilt", "2.5° up"],
    [-1, "tilt", "1° down"],
    [0, "ports", "map A"],
    [1, "ports", "map B"],
  ] as const)("%s by %s", (degrees, axis, text) => expect(plain(angle(degrees, axis))).toContain(text));
});

describe("bands have the standard's short names", () => {
  test.each([
    ["lte", 3, "B3"],
    ["nr", 78, "n78"],
    ["lte", null, "LTE"],
    ["nr", undefined, "NR"],
  ] as const)("%s %s is %s", (technology, band, text) => expect(bandName(technology, band)).toBe(text));
});
