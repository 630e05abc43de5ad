import { describe, expect, it } from "vitest";
import type { NotebookLine } from "../src/api/schema";
import { asRun, measuredAt, without } from "../src/stages/log/notebook/lines";

const line: NotebookLine = {
  line: 1,
  text: "",
  name: "",
  maybe: [],
  notes: "rain",
  taken: [],
  setup_id: "s",
  band: { technology: "nr", band: 78 },
  rsrp_dbm: -92,
  sinr_db: 24,
  download_mbps: 266,
};

describe("a line of a notebook", () => {
  it("is kept as one run with a reading and a test", () => {
    const run = asRun(line, "2026-03-02T09:30", "run");
    expect(run.readings?.[0]?.carriers[0]).toMatchObject({
      technology: "nr",
      band: 78,
      rsrp_dbm: -92,
      sinr_db: 24,
    });
    expect(run.speed_tests?.[0]).toMatchObject({ download_mbps: 266 });
    expect(run).toMatchObject({ id: "run", conditions: { notes: "rain" } });
    expect(new Date(run.measured_at).getTime()).toBe(new Date("2026-03-02T09:30").getTime());
  });

  it("has no reading without a signal and no test without a speed", () => {
    expect(
      asRun({ ...line, band: null, rsrp_dbm: null, sinr_db: null }, "2026-03-02T09:30", "r").readings,
    ).toEqual([]);
    expect(asRun({ ...line, download_mbps: null }, "2026-03-02T09:30", "r").speed_tests).toEqual([]);
  });

  it("may be the average of several tests", () => {
    expect(asRun({ ...line, average_of: 3 }, "2026-03-02T09:30", "r").speed_tests?.[0]?.average_of).toBe(3);
  });

  it("may say its own hour", () => {
    const at = measuredAt("2026-03-02T09:30", { clock: "14:20" });
    expect(new Date(at).getTime()).toBe(new Date("2026-03-02T14:20").getTime());
  });

  it("is taken out of the text once it is kept", () => {
    expect(without("a\n\nb\nc", new Set([1, 3]))).toBe("\nc");
  });
});
