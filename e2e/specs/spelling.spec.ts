import { expect, test } from "@playwright/test";
import {
  expectedText,
  gainText,
  metricsText,
  portsText,
  readExpected,
  readGain,
  readMetrics,
  readPorts,
  readSupport,
  supportText,
} from "../../web/src/stages/kit/bands";
import { typed } from "../../web/src/stages/kit/draft";
import { rough } from "../../web/src/ui/format";

/** The short spellings of the catalogue's lists: what is written is read back, and what cannot be is told. */
test("bands with their streams go there and back", () => {
  const list = readSupport("B3:2, b20:2\nN78:4 n1");
  expect(list).toEqual([
    { technology: "lte", band: 3, layers: 2 },
    { technology: "lte", band: 20, layers: 2 },
    { technology: "nr", band: 78, layers: 4 },
    { technology: "nr", band: 1, layers: 2 },
  ]);
  if (typeof list === "string") throw new Error(list);
  expect(supportText(list)).toBe("B3:2 B20:2 n78:4 n1:2");
  expect(readSupport(supportText(list))).toEqual(list);
  expect(readSupport("")).toEqual([]);
  for (const wrong of ["X3:2", "B3:9", "B:2", "3:2", "B3:two"]) {
    expect(readSupport(wrong), wrong).toContain("for instance B3:2 or n78:4");
  }
});

test("gains go there and back, negative ones too", () => {
  const list = readGain("698:−1.5 1710:8, 3800:9.25");
  expect(list).toEqual([
    { frequency_mhz: 698, gain_dbi: -1.5 },
    { frequency_mhz: 1710, gain_dbi: 8 },
    { frequency_mhz: 3800, gain_dbi: 9.25 },
  ]);
  if (typeof list === "string") throw new Error(list);
  expect(readGain(gainText(list))).toEqual(list);
  for (const wrong of ["698", "698:x", "-5:3", ":3"]) {
    expect(readGain(wrong), wrong).toContain("for instance 1710:8");
  }
});

test("ports go there and back, one a line", () => {
  const text =
    "1 sma-f pair1\n2 SMA-F pair1\n3 sma-f pair2 rx B3 n78\nJ1 ufl-f pair1\nA ts9-f pair3\nB rpsma-m pair4";
  const list = readPorts(text);
  if (typeof list === "string") throw new Error(list);
  expect(list).toHaveLength(6);
  expect(list[2]).toEqual({
    name: "3",
    connector: { series: "sma", gender: "female" },
    pair: 2,
    direction: "receive",
    bands: [
      { technology: "lte", band: 3 },
      { technology: "nr", band: 78 },
    ],
  });
  expect(list[3]?.connector).toEqual({ series: "u_fl", gender: "female" });
  expect(list[5]?.connector).toEqual({ series: "rp_sma", gender: "male" });
  expect(readPorts(portsText(list))).toEqual(list);
  for (const wrong of ["1", "1 sma pair1", "1 sma-f pair7", "1 bnc-f pair1", "1 sma-f pair1 B3 what"]) {
    expect(readPorts(wrong), wrong).toContain("for instance 3 sma-f pair2 rx B3 n78");
  }
});

test("expected carriers go there and back with their width", () => {
  const list = readExpected("B20 10, n78 80; B3 1.4");
  expect(list).toEqual([
    { technology: "lte", band: 20, bandwidth_mhz: 10 },
    { technology: "nr", band: 78, bandwidth_mhz: 80 },
    { technology: "lte", band: 3, bandwidth_mhz: 1.4 },
  ]);
  if (typeof list === "string") throw new Error(list);
  expect(readExpected(expectedText(list))).toEqual(list);
  for (const wrong of ["B20", "B20 wide", "20 10", "B20 -5"]) {
    expect(readExpected(wrong), wrong).toContain("for instance B20 10");
  }
});

test("metrics go there and back in their own order", () => {
  expect(readMetrics("sinr, RSRP")).toEqual(["rsrp", "sinr"]);
  expect(metricsText(["rsrp", "sinr"])).toBe("RSRP SINR");
  expect(readMetrics("")).toEqual([]);
  expect(readMetrics("bars")).toContain("for instance RSRP SINR");
});

test("numbers are taken with either decimal sign and shown with two figures", () => {
  expect(["9,5", " 9.5 ", "−3", "", "abc", "1e3"].map(typed)).toEqual([9.5, 9.5, -3, null, null, 1000]);
  expect([186.4, 88.6, 9.96, 8.44, 0.854, 0.0999, 0, -1].map(rough)).toEqual([
    "190",
    "89",
    "10",
    "8.4",
    "0.85",
    "0.10",
    "0",
    "0",
  ]);
});
