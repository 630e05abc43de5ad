import { expect, test } from "vitest";
import type { RunView } from "../src/api/schema";
import {
  asRun,
  canBeCorrected,
  correctedRun,
  newDraft,
  runDraft,
  uncounted,
} from "../src/stages/log/type-in/draft";

const view = {
  run: {
    id: "run-1",
    source: "typed",
    started_at: "2026-11-10T12:00:42.123Z",
    conditions: {
      attach: "kept_attached",
      instrument: "modem",
      network: "Skogsignal",
      weather: "sleet",
      notes: "stairs",
    },
  },
  samples: [
    {
      id: "sample-1",
      activity: "loaded",
      mode: "lte",
      carriers: [
        {
          technology: "lte",
          role: "primary",
          band: 3,
          channel: 1300,
          pci: 211,
          bandwidth_mhz: 20,
          rsrp_dbm: -93.5,
          sinr_db: 12,
          rank: 2,
          branch_rsrp_dbm: [-93, -99],
          flags: [],
        },
      ],
    },
  ],
  speed_tests: [
    {
      id: "test-1",
      server: "a page",
      download_mbps: 44.1,
      upload_mbps: null,
      idle_latency_ms: 31,
      download_latency_ms: 250,
      probe_loss: 0.02,
      bytes_down: 55_000_000,
    },
  ],
  amendments: [],
} as unknown as RunView;

test("a run that is opened and saved is the run it was, with what the form does not show", () => {
  const same = correctedRun(runDraft(view), view);
  expect(same.measured_at).toBe("2026-11-10T12:00:42.123Z");
  expect(same.conditions).toEqual(view.run.conditions);
  const [reading] = same.readings ?? [];
  expect(reading).toMatchObject({ id: "sample-1", activity: "loaded", mode: "lte" });
  expect(reading?.carriers[0]).toMatchObject({
    band: 3,
    channel: 1300,
    pci: 211,
    bandwidth_mhz: 20,
    rsrp_dbm: -93.5,
    sinr_db: 12,
    rank: 2,
    branch_rsrp_dbm: [-93, -99],
  });
  expect(same.speed_tests?.[0]).toMatchObject({
    id: "test-1",
    server: "a page",
    download_mbps: 44.1,
    upload_mbps: null,
    idle_latency_ms: 31,
    download_latency_ms: 250,
    probe_loss: 0.02,
    bytes_down: 55_000_000,
  });
});

test("another minute is another time; what has several readings is not opened", () => {
  const moved = correctedRun({ ...runDraft(view), at: "2026-11-11T08:15" }, view);
  expect(moved.measured_at).toBe(new Date("2026-11-11T08:15").toISOString());
  expect(canBeCorrected(view)).toBe(true);
  expect(canBeCorrected({ ...view, samples: [...view.samples, ...view.samples] })).toBe(false);
  expect(canBeCorrected({ ...view, run: { ...view.run, source: "live" } })).toBe(false);
});

test("the number of tests of an average is kept, and only a number", () => {
  const draft = newDraft("");
  const typed = (averageOf: string) => {
    const tests = draft.tests.map((test) => ({
      ...test,
      averageOf,
      values: { ...test.values, download: { text: "44", value: 44 } },
    }));
    return { run: asRun({ ...draft, tests }).speed_tests?.[0], unread: uncounted(tests) };
  };
  expect(typed(" 3 ")).toMatchObject({ run: { average_of: 3 }, unread: undefined });
  expect(typed("1").run?.average_of).toBeNull();
  expect(typed("").run?.average_of).toBeNull();
  expect(typed("three").unread).toBe("three");
  expect(typed("2.5").unread).toBe("2.5");
});

test("a correction keeps the number of tests that an average is of", () => {
  const averaged = { ...view, speed_tests: view.speed_tests.map((test) => ({ ...test, average_of: 4 })) };
  const seen = averaged as unknown as RunView;
  expect(correctedRun(runDraft(seen), seen).speed_tests?.[0]?.average_of).toBe(4);
});
