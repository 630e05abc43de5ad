import { describe, expect, test } from "vitest";
import { bodyOf, emptyKit } from "../src/stages/kit/draft";
import { asRun, carrierDraft, filled, fine, newDraft } from "../src/stages/log/type-in/draft";
import { below, pointAt, step } from "../src/stages/settings/gateway/pointing";
import { readNumber as typed } from "../src/ui/number";

describe("numbers as they are typed", () => {
  test.each([
    ["12,5", 12.5],
    ["−3", -3],
    [" 7 ", 7],
    ["", null],
    ["seven", null],
    ["1e999", null],
  ])("%s is %s", (text, value) => expect(typed(text)).toBe(value));
});

describe("readings typed in", () => {
  test("an empty form brings no reading and no test", () => {
    const run = asRun(newDraft("Hulderbekk Tele"));
    expect([run.readings, run.speed_tests]).toEqual([[], []]);
    expect(run.conditions?.network).toBe("Hulderbekk Tele");
  });

  test("a pasted carrier comes back with what the form does not show", () => {
    const pasted = carrierDraft({
      technology: "nr",
      role: "secondary",
      band: 78,
      channel: 636666,
      channel_kind: "nr",
      rsrp_dbm: -97,
      sinr_db: 12.5,
      rank: 2,
      flags: [],
    } as never);
    const draft = { ...newDraft(""), carriers: [pasted] };
    const [reading] = asRun(draft).readings ?? [];
    expect(reading?.carriers[0]).toMatchObject({
      band: 78,
      channel: 636666,
      rsrp_dbm: -97,
      sinr_db: 12.5,
      rank: 2,
    });
  });

  test("LTE and NR together are NSA, LTE alone is LTE, NR alone is not guessed", () => {
    const of = (...technologies: ("lte" | "nr")[]) => {
      const carriers = technologies.map((technology) =>
        carrierDraft({ technology, role: "unknown", band: 3, flags: [] } as never),
      );
      return asRun({ ...newDraft(""), carriers }).readings?.[0]?.mode;
    };
    expect([of("lte", "nr"), of("lte"), of("nr")]).toEqual(["nsa", "lte", "unknown"]);
  });

  test("a value outside the range holds the form up until it is said to be as reported", () => {
    const wrong = { text: "60", value: 60, error: "From −23 to 40 dB." };
    expect(fine(wrong)).toBe(false);
    expect(fine({ ...wrong, asReported: true })).toBe(true);
    expect(fine({ text: "x", value: null, error: "A number.", asReported: true })).toBe(false);
    expect(filled({ rsrp: { text: "  ", value: null } })).toBe(false);
  });
});

describe("kits", () => {
  test("a form leaves nothing out that the kit has", () => {
    const kit = { id: "1", site_id: "2", created_at: "", archived_at: null, ...emptyKit, notes: "borrowed" };
    expect(bodyOf(kit as never)).toMatchObject({ name: "New kit", notes: "borrowed", spec: emptyKit.spec });
  });
});

describe("pointing at fields of a gateway's page", () => {
  test("steps of a JSON Pointer are escaped (RFC 6901, section 5: its own examples)", () => {
    expect([step("a/b"), step("m~n"), step("")]).toEqual(["/a~1b", "/m~0n", "/"]);
  });
  test("a list's index is left out below its group", () => {
    expect(below("/lte", "/lte/0/rsrp")).toBe("/rsrp");
    expect(below("/lte", "/lte/rsrp")).toBe("/rsrp");
    expect(below("/lte", "/ltex/0/rsrp")).toBeUndefined();
  });
  test("a second press moves the field, a press outside is told", () => {
    const map = {
      carriers: [{ at: "/lte", fields: [{ field: "rsrp_dbm", at: "/old", scale: 0.1 }] }],
    } as never;
    const moved = pointAt(map, { kind: "carriers", group: 0, field: "rsrp_dbm" }, "/lte/0/RSRP");
    expect(moved).toMatchObject({ carriers: [{ fields: [{ field: "rsrp_dbm", at: "/RSRP", scale: 0.1 }] }] });
    expect(pointAt(map, { kind: "carriers", group: 0, field: "rsrp_dbm" }, "/nr/0/RSRP")).toContain("/lte");
    expect(pointAt(map, { kind: "carriers", group: 4 }, "/nr")).toContain("not there any more");
  });
});
