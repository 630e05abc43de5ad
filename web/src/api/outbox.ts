import { type DBSchema, type IDBPDatabase, openDB } from "idb";
import { useSyncExternalStore } from "react";
import { answered, api } from "./client";

/** Something the user did that has not reached the server yet. */
export interface Queued {
  /** Given by the database; the order in which things were done. */
  key?: number;
  /** What it is, in words: "Point at 143° T". */
  label: string;
  method: "POST" | "PUT";
  path: string;
  body: Blob | string;
  type: string;
  /** When it was done, by this device's clock. */
  at: string;
  /** Why the server does not take it; it stays until the user lets go of it. */
  refused?: string;
}

interface Box extends DBSchema {
  queue: { key: number; value: Queued };
}

let box: Promise<IDBPDatabase<Box>> | undefined;
const opened = () => {
  box ??= openDB<Box>("outbox", 1, {
    upgrade: (db) => void db.createObjectStore("queue", { keyPath: "key", autoIncrement: true }),
  });
  return box;
};

let shown: readonly Queued[] = [];
const listeners = new Set<() => void>();

async function look(): Promise<void> {
  const found = await (await opened()).getAll("queue");
  if (found.length === 0 && shown.length === 0) return;
  shown = found;
  for (const listener of listeners) listener();
}

// One function for all renders: another one each time would subscribe anew, look anew, and render anew without end.
function listen(listener: () => void): () => void {
  listeners.add(listener);
  void look();
  return () => listeners.delete(listener);
}

/** What waits on this device, in order. */
export function useOutbox(): readonly Queued[] {
  return useSyncExternalStore(listen, () => shown);
}

type Sent = "taken" | "away" | { refused: string };

async function send(one: Queued): Promise<Sent> {
  let response: Response;
  try {
    response = await fetch(one.path, {
      method: one.method,
      headers: { "content-type": one.type },
      body: one.body,
      signal: AbortSignal.timeout(20_000),
    });
  } catch {
    return "away";
  }
  if (response.ok) return "taken";
  // A device that was turned away, or a server in trouble: it keeps, and is tried again.
  if (response.status === 401 || response.status >= 500) return "away";
  const problem = (await response.json().catch(() => undefined)) as { detail?: string } | undefined;
  return { refused: problem?.detail ?? `The server answered ${response.status}.` };
}

let flushing: Promise<void> | undefined;
let again: ReturnType<typeof setTimeout> | undefined;

async function inOrder(): Promise<void> {
  const db = await opened();
  for (const one of await db.getAll("queue")) {
    if (one.refused !== undefined || one.key === undefined) continue;
    const sent = await send(one);
    if (sent === "away") {
      clearTimeout(again);
      again = setTimeout(() => void flush(), 3000);
      return;
    }
    // Only what the server has acknowledged is let go of.
    if (sent === "taken") await db.delete("queue", one.key);
    else await db.put("queue", { ...one, refused: sent.refused });
    await look();
  }
}

/** Sends what waits, in order, one at a time; a second call joins the first. */
export function flush(): Promise<void> {
  flushing ??= inOrder().finally(() => {
    flushing = undefined;
  });
  return flushing;
}

/** Puts something at the end of the queue, on disk before this resolves, and tries to send it. */
export async function deliver(one: Omit<Queued, "key" | "at" | "refused">): Promise<void> {
  const db = await opened();
  await db.add("queue", { ...one, at: new Date().toISOString() });
  await look();
  // One that is under way has read the queue before this was in it.
  void (flushing ?? Promise.resolve()).then(flush);
}

/** Lets go of something that the server does not take. */
export async function discard(key: number): Promise<void> {
  await (await opened()).delete("queue", key);
  await look();
}

const CLOCK = "clock-offset-ms";

/** How far this device's clock is behind the server's, ms, as last measured; zero before. */
export function clockOffset(): number {
  try {
    return Number(localStorage.getItem(CLOCK) ?? 0) || 0;
  } catch {
    return 0;
  }
}

/** Measures the clocks' difference by one round trip, taking the middle of it. */
export async function measureClock(): Promise<void> {
  const left = Date.now();
  try {
    const { now } = await answered(api.GET("/api/time"));
    const offset = Date.parse(now) - (left + Date.now()) / 2;
    localStorage.setItem(CLOCK, String(Math.round(offset)));
  } catch {
    // The last one measured holds.
  }
}

window.addEventListener("online", () => void flush());
void flush();
