import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { deliver, discard, flush } from "../src/api/outbox";

interface Request {
  path: string;
  body: string;
}

let answers: (() => Response)[] = [];
let asked: Request[] = [];

const answer =
  (status: number, body: unknown = {}) =>
  () =>
    new Response(JSON.stringify(body), { status });
const away = () => {
  throw new TypeError("no network");
};
const note = (text: string) =>
  deliver({ label: text, method: "POST", path: `/api/notes/${text}`, body: text, type: "text/plain" });

/** What waits on disk, as another page would find it. */
async function waiting(): Promise<{ key: number; label: string; refused?: string }[]> {
  const db = await new Promise<IDBDatabase>((resolve, reject) => {
    const request = indexedDB.open("outbox", 1);
    request.onsuccess = () => resolve(request.result);
    request.onerror = () => reject(request.error);
  });
  const rows = await new Promise<{ key: number; label: string; refused?: string }[]>((resolve) => {
    const request = db.transaction("queue").objectStore("queue").getAll();
    request.onsuccess = () => resolve(request.result);
  });
  db.close();
  return rows;
}

const settle = async () => {
  for (let turn = 0; turn < 20; turn += 1) await new Promise((resolve) => setTimeout(resolve, 0));
};

beforeEach(async () => {
  for (const row of await waiting().catch(() => [])) await discard(row.key);
  answers = [];
  asked = [];
  vi.stubGlobal("fetch", async (path: string, how: { body: string }) => {
    asked.push({ path, body: how.body });
    return (answers.shift() ?? answer(200))();
  });
});

afterEach(() => vi.unstubAllGlobals());

describe("what the phone does without a network", () => {
  test("is on disk before it is sent, and goes in order once there is one", async () => {
    answers = [away];
    await note("one");
    await settle();
    expect((await waiting()).map((row) => row.label)).toEqual(["one"]);
    answers = [away];
    await note("two");
    await settle();
    asked = [];
    await flush();
    expect(asked.map((one) => one.path)).toEqual(["/api/notes/one", "/api/notes/two"]);
    expect(await waiting()).toEqual([]);
  });

  test.each([500, 503, 401])("stays where the server answers %i", async (status) => {
    answers = [answer(status)];
    await note("kept");
    await settle();
    expect((await waiting()).map((row) => row.label)).toEqual(["kept"]);
    await flush();
    expect(await waiting()).toEqual([]);
  });

  test("is kept with the reason where it is refused, and what comes after it still goes", async () => {
    answers = [answer(422, { detail: "Enter an azimuth from 0 to 359°." }), answer(201)];
    await note("bad");
    await note("good");
    await settle();
    await flush();
    const rows = await waiting();
    expect(rows.map((row) => [row.label, row.refused])).toEqual([
      ["bad", "Enter an azimuth from 0 to 359°."],
    ]);
    const before = asked.length;
    await flush();
    expect(asked.length, "it is not sent again by itself").toBe(before);
    await discard(rows[0]?.key ?? 0);
    expect(await waiting()).toEqual([]);
  });

  test("two flushes at once send each thing once", async () => {
    answers = [away];
    await note("once");
    await settle();
    asked = [];
    await Promise.all([flush(), flush()]);
    expect(asked.map((one) => one.path)).toEqual(["/api/notes/once"]);
  });
});
