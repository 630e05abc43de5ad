import { describe, expect, test } from "vitest";
import {
  combinationsText,
  expectedText,
  gainText,
  metricsText,
  portsText,
  readCombinations,
  readExpected,
  readGain,
  readMetrics,
  readPorts,
  readSupport,
  supportText,
} from "../src/stages/kit/bands";
import { placeText, readPlace } from "../src/stages/sites/coordinates";

/** What was read, or fails with the sentence. */
function taken<T>(read: T | string): T {
  if (typeof read === "string") throw new Error(read);
  return read;
}

describe("short spellings of lists come back as they were", () => {
  test.each(["B20 10, n78 80", "B3 20", ""])("expected carriers: %s", (text) => {
    expect(expectedText(taken(readExpected(text)))).toBe(text);
  });
  test.each(["B3+B20, B3+n78", "B1+B3+B7", ""])("combinations: %s", (text) => {
    expect(combinationsText(taken(readCombinations(text)))).toBe(text);
  });
  test.each(["B3:2 n78:4", "B20:1"])("bands and streams: %s", (text) => {
    expect(supportText(taken(readSupport(text)))).toBe(text);
  });
  test.each(["698:5 1710:8.5 3500:-2"])("gains: %s", (text) => {
    expect(gainText(taken(readGain(text)))).toBe(text);
  });
  test("ports", () => {
    const text = "1 sma-f pair1\n2 sma-f pair1 rx\n3 ts9-m pair2 rx B3 n78";
    const ports = taken(readPorts(text));
    expect(portsText(ports)).toBe(text);
    expect(ports[2]).toEqual({
      name: "3",
      connector: { series: "ts9", gender: "male" },
      pair: 2,
      direction: "receive",
      bands: [
        { technology: "lte", band: 3 },
        { technology: "nr", band: 78 },
      ],
    });
  });
  test("metrics, in their own order", () => {
    expect(metricsText(taken(readMetrics("sinr RSRP")))).toBe("RSRP SINR");
  });
});

describe("what cannot be read is said with what would work", () => {
  test.each([
    [readExpected("B20"), "B20 10"],
    [readExpected("B20 -5"), "B20 10"],
    [readExpected("78 80"), "B20 10"],
    [readCombinations("B3"), "B3+B20"],
    [readCombinations("B3+x"), "B3+B20"],
    [readSupport("B3:5"), "B3:2"],
    [readGain("1710"), "1710:8"],
    [readGain("0:8"), "1710:8"],
    [readPorts("1 sma pair1"), "sma-f"],
    [readPorts("1 sma-f pair9"), "pair2"],
    [readMetrics("RSRP noise"), "RSRP SINR"],
  ])("%s", (answer, works) => {
    expect(typeof answer).toBe("string");
    expect(answer).toContain(works);
  });
});

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
