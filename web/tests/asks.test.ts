import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";

interface Asked {
  method: string;
  path: string;
  body: unknown;
}

/** The server, before the client takes hold of `fetch`: what it was asked, and what it answers next. */
const server = vi.hoisted(() => {
  const state = { asked: [] as Asked[], status: 200, body: {} as unknown, away: false };
  globalThis.fetch = (async (request: Request) => {
    const text = await request.text();
    const path = new URL(request.url).pathname;
    state.asked.push({ method: request.method, path, body: text === "" ? undefined : JSON.parse(text) });
    if (state.away) throw new TypeError("no network");
    return new Response(JSON.stringify(state.body), {
      status: state.status,
      headers: { "content-type": "application/json" },
    });
  }) as typeof fetch;
  return state;
});

import { ApiError, answered, api, FieldError } from "../src/api/client";
import { listProblem, readList } from "../src/api/lists";
import { type SeenSettings, saveSettings } from "../src/shell/useSiteContext";
import { readPoints } from "../src/stages/survey/queries";
import { entryOf, readEntry } from "../src/ui/EntryField";
import { wordsOf } from "../src/ui/useAction";

const refuse = (pointer: string, detail: string) => {
  server.status = 422;
  server.body = {
    type: "problems/invalid",
    title: "",
    status: 422,
    detail: "No.",
    errors: [{ pointer, detail }],
  };
};

beforeEach(() => {
  Object.assign(server, { asked: [], status: 200, body: {}, away: false });
});
afterEach(() => vi.restoreAllMocks());

describe("settings are stored by section", () => {
  const seen = {
    site: { id: "site-1" },
    settings: { units: "metric", network: "Huldermobil", aim_criterion: "quality" },
    settings_versions: { network: 7 },
  } as unknown as SeenSettings;

  test("only what differs goes out, each with the version that was seen", async () => {
    await saveSettings(seen, { units: "metric", network: "Skogsignal", aim_criterion: "signal" });
    expect(server.asked).toEqual([
      {
        method: "PATCH",
        path: "/api/sites/site-1/settings",
        body: {
          sections: {
            network: { seen: 7, value: "Skogsignal" },
            aim_criterion: { seen: 0, value: "signal" },
          },
        },
      },
    ]);
  });
  test("nothing changed, nothing asked", async () => {
    await saveSettings(seen, { units: "metric" });
    expect(server.asked).toEqual([]);
  });
  test("what was changed meanwhile is told in the server's words", async () => {
    server.status = 409;
    server.body = {
      type: "problems/newer",
      title: "",
      status: 409,
      detail: "It was changed meanwhile.",
      errors: [],
    };
    await expect(saveSettings(seen, { units: "imperial" })).rejects.toThrow("It was changed meanwhile.");
  });
});

describe("lists in their short spelling", () => {
  test("are read by the server", async () => {
    server.body = { list: [{ technology: "lte", band: 3, layers: 2 }] };
    expect(await readList("band_support", "B3:2")).toEqual([{ technology: "lte", band: 3, layers: 2 }]);
    expect(server.asked[0]).toEqual({
      method: "POST",
      path: "/api/calc/list",
      body: { kind: "band_support", text: "B3:2" },
    });
    expect(await listProblem("band_support", "B3:2")).toBeUndefined();
  });
  test("what cannot be read is an error of the field it stands in", async () => {
    refuse("/text", "“B3:9”: a band and its streams.");
    const failed = await readList("band_support", "B3:9", "/spec/bands").catch((error) => error);
    expect(failed).toBeInstanceOf(FieldError);
    expect(failed.field("/spec/bands")).toBe("“B3:9”: a band and its streams.");
    expect(await listProblem("band_support", "B3:9")).toBe("“B3:9”: a band and its streams.");
  });
  test("a server that is away is no error of the field", async () => {
    server.away = true;
    const failed = await readList("gain", "698:5", "/spec/gain").catch((error) => error);
    expect(failed).not.toBeInstanceOf(FieldError);
    expect(failed.message).toContain("Open Beacon does not answer");
  });
});

test("points that cannot be read are an error of the form's own field", async () => {
  refuse("/text", "“north”: two numbers.");
  const failed = await readPoints("north", "/place").catch((error) => error);
  expect(failed.field("/place")).toBe("“north”: two numbers.");
});

describe("numbers are read by the core", () => {
  const RANGE = { low: -156, high: -31 };
  test("an empty field asks nothing", async () => {
    expect(await readEntry("rsrp", "lte", entryOf(null))).toEqual({ text: " ".trim(), value: null });
    expect(server.asked).toEqual([]);
  });
  test("what was made of it is said", async () => {
    server.body = { value: -97, notes: ["made_negative"], in_range: true, range: RANGE };
    const read = await readEntry("rsrp", "lte", { text: "97", value: null });
    expect(read).toEqual({ text: "97", value: -97, note: "Read as −97\u202fdBm: minus sign added." });
  });
  test("beyond the reporting range it is marked, and kept on purpose only", async () => {
    server.body = { value: -160, notes: [], in_range: false, range: RANGE };
    const read = await readEntry("rsrp", "lte", { text: "-160", value: null });
    expect(read.error).toBe("Values run from −156 to −31\u202fdBm.");
    expect(read.asReported).toBe(false);
    const kept = await readEntry("rsrp", "lte", { text: "-160", value: null, asReported: true });
    expect(kept.asReported).toBe(true);
  });
  test("what is no number says so, and so does a server that is away", async () => {
    refuse("/text", "“good” is no number.");
    const typed = { text: "good", value: null };
    expect(await readEntry("rsrp", "lte", typed)).toEqual({ ...typed, error: "“good” is no number." });
    server.away = true;
    expect((await readEntry("rsrp", "lte", typed)).error).toContain("does not answer");
  });
});

describe("what went wrong", () => {
  test("is the word on the field, where there is one", async () => {
    refuse("/name", "A name is needed.");
    const failed = await answered(api.GET("/api/sites")).catch((error) => error);
    expect(failed).toBeInstanceOf(ApiError);
    expect(wordsOf(failed)).toBe("A name is needed.");
    expect(wordsOf(new Error("plain"))).toBe("plain");
  });
  test("is not invented where the server says nothing", async () => {
    server.status = 500;
    server.body = {};
    await expect(answered(api.GET("/api/sites"))).rejects.toThrow("did not say what went wrong");
  });
});
