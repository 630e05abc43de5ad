import { QueryObserver } from "@tanstack/react-query";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { askAgain, catalogueChanged, keys, queryClient, RESTS_ON, refreshPart } from "../src/api/queries";

const key = keys.bands("site-1");
/** What the server would say now; an answer takes this long. */
let truth = 0;
const ANSWER_MS = 800;
let asked = 0;

function watch(): { seen: number[]; end: () => void } {
  const seen: number[] = [];
  const observer = new QueryObserver(queryClient, {
    queryKey: key,
    queryFn: async () => {
      asked += 1;
      const heard = truth;
      await new Promise((done) => setTimeout(done, ANSWER_MS));
      return heard;
    },
  });
  const end = observer.subscribe(({ data }) => {
    if (data !== undefined && data !== seen.at(-1)) seen.push(data);
  });
  return { seen, end };
}

beforeEach(() => {
  vi.useFakeTimers();
  truth = 0;
  asked = 0;
});
afterEach(() => {
  queryClient.clear();
  vi.useRealTimers();
});

test("changes that come faster than answers are shown all the same", async () => {
  const { seen, end } = watch();
  await vi.advanceTimersByTimeAsync(1000);
  for (let change = 1; change <= 40; change += 1) {
    truth = change;
    askAgain(key);
    await vi.advanceTimersByTimeAsync(250);
  }
  // An answer every 800 ms and a pause of 250 ms: about ten in ten seconds.
  expect(seen.length).toBeGreaterThan(6);
  await vi.advanceTimersByTimeAsync(5000);
  expect(seen.at(-1)).toBe(40);
  end();
});

test("a change told while the first answer is under way is not missed", async () => {
  const { seen, end } = watch();
  await vi.advanceTimersByTimeAsync(100);
  truth = 1;
  askAgain(key);
  await vi.advanceTimersByTimeAsync(3000);
  expect(seen).toEqual([0, 1]);
  end();
});

test("a single change is asked for once", async () => {
  const { seen, end } = watch();
  await vi.advanceTimersByTimeAsync(1000);
  truth = 1;
  askAgain(key);
  await vi.advanceTimersByTimeAsync(10_000);
  expect([seen, asked]).toEqual([[0, 1], 2]);
  end();
});

test("a change asks for what rests on it, at its own site only", async () => {
  const of = (key: readonly unknown[]) => queryClient.setQueryData(key, 1);
  const [record, elsewhere, plan, parts] = [
    keys.bands("site-1"),
    keys.bands("site-2"),
    keys.survey("site-1"),
    keys.catalogue,
  ];
  for (const one of [record, elsewhere, plan, parts]) of(one);
  const old = (one: readonly unknown[]) => queryClient.getQueryState(one)?.isInvalidated;
  refreshPart("site-1", { of: "record" });
  expect([record, elsewhere, plan, parts].map(old)).toEqual([true, false, false, false]);
  refreshPart("site-1", { of: "everything" });
  expect([record, elsewhere, plan, parts].map(old)).toEqual([true, false, true, false]);
  catalogueChanged();
  expect([record, elsewhere, plan, parts].map(old)).toEqual([true, false, true, true]);
});

test("each kind of key stands in the table under its own name", () => {
  for (const [name, key] of Object.entries(keys)) {
    const made =
      typeof key === "function" ? (key as (...all: string[]) => readonly unknown[])("a", "b") : key;
    expect(made[0]).toBe(name);
    expect(RESTS_ON).toHaveProperty(name);
  }
});
