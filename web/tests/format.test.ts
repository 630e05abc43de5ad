import { describe, expect, test } from "vitest";
import {
  age,
  bearing,
  clock,
  counted,
  decibelsOf,
  difference,
  frequency,
  halves,
  length,
  megabytes,
  moment,
  range,
  rough,
  signed,
  significant,
  whole,
} from "../src/ui/format";

describe("numbers", () => {
  test.each([
    [-97.4, 0, "−97"],
    [-0.04, 1, "0.0"],
    [0, 0, "0"],
    [12.345, 2, "12.35"],
    [-3.25, 1, "−3.3"],
  ])("%f with %i decimals is %s", (value, decimals, text) => expect(signed(value, decimals)).toBe(text));

  test("never a hyphen for a minus, and no minus before nothing", () => {
    for (let value = -2; value <= 2; value += 0.013) {
      const text = signed(value, 1);
      expect(text).not.toContain("-");
      expect(text).not.toMatch(/^−0\.0$/);
      expect(Math.abs(Number(text.replace("−", "-")) - value)).toBeLessThanOrEqual(0.05 + 1e-9);
    }
  });

  test.each([
    [4.26, "4.5"],
    [4.24, "4"],
    [-0.2, "0"],
    [-7.5, "−7.5"],
  ])("%f dB is shown as %s", (value, text) => expect(halves(value)).toBe(text));

  test.each([
    [266.4, "266"],
    [99.96, "100"],
    [99.94, "99.9"],
    [9.996, "10.0"],
    [9.99, "9.99"],
    [0.123, "0.12"],
  ])("a rate of %f has three figures: %s", (value, text) => expect(significant(value)).toBe(text));

  test.each([
    [1234, "1200"],
    [96.4, "96"],
    [9.97, "10"],
    [1.26, "1.3"],
    [0.126, "0.13"],
    [0, "0"],
    [-3, "0"],
    [Number.NaN, "0"],
  ])("what is predicted has two: %f is %s", (value, text) => expect(rough(value)).toBe(text));

  test("a difference says its direction", () => {
    expect([difference(3, 0), difference(-3, 0), difference(0, 0)]).toEqual(["+3", "−3", "0"]);
  });

  test("a range whose ends look alike is one number", () => {
    expect(range({ low: 12.1, likely: 12.2, high: 12.4 }, whole)).toBe("12");
    expect(range({ low: 12, likely: 15, high: 25 }, whole)).toBe("12 to 25");
  });

  test("one sitting, three sittings", () => {
    expect([counted(1, "sitting"), counted(3, "sitting"), counted(0, "sitting")]).toEqual([
      "1 sitting",
      "3 sittings",
      "0 sittings",
    ]);
  });
});

describe("units", () => {
  test("a thin no-break space stands before the unit", () => {
    expect(frequency(3550)).toBe("3.5\u202fGHz");
    expect(frequency(796)).toBe("796\u202fMHz");
    expect(megabytes(12_345_678)).toBe("12.3\u202fMB");
    expect(decibelsOf(-3.2, "dB")).toBe("−3\u202fdB");
    expect(decibelsOf(null, "dBi")).toBe("–");
  });

  test("lengths follow the user's units (0.3048 m a foot, exact: international yard and pound agreement)", () => {
    expect(length(3.048, "imperial")).toBe("10\u202fft");
    expect(length(3.048, "metric")).toBe("3.0\u202fm");
  });

  test("north is 0°, never 360°", () => {
    expect(bearing(359.6)).toBe("0°\u202fT");
    expect(bearing(143.2)).toBe("143°\u202fT");
  });

  test.each([
    [-1, "0.0\u202fs"],
    [0.62, "0.6\u202fs"],
    [42.4, "42\u202fs"],
    [300, "5\u202fmin"],
    [7300, "2\u202fh"],
  ])("an age of %f s is %s", (seconds, text) => expect(age(seconds)).toBe(text));

  test("times are the site's, summer and winter", () => {
    expect(clock("2026-01-15T17:05:09Z", "Europe/Oslo")).toBe("18:05:09");
    expect(clock("2026-07-15T17:05:09Z", "Europe/Oslo")).toBe("19:05:09");
    expect(moment("2026-01-15T23:30:00Z", "Europe/Oslo")).toContain("Fri");
  });
});
