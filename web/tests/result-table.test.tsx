// A table of results: what is asked before it is kept, and how its rows are told.

import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { ResultRow } from "../src/api/schema";
import { inShort } from "../src/stages/log/Preflight";
import { HowRead } from "../src/stages/log/table/HowRead";
import { UNREAD } from "../src/stages/log/table/TableImport";
import { figuresOf } from "../src/stages/log/table/Understood";

let root: Root;
let page: HTMLElement;

beforeEach(() => {
  vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
  page = document.body.appendChild(document.createElement("main"));
  root = createRoot(page);
});

afterEach(() => {
  act(() => root.unmount());
  page.remove();
  vi.unstubAllGlobals();
});

const ROW: ResultRow = {
  line: 2,
  setup_id: "1",
  setup: "Gable",
  at: "2026-01-12T17:30:00Z",
  band: { technology: "nr", band: 78 },
  rsrp_dbm: -92,
  download_mbps: 266.2,
  idle_latency_ms: 36,
  server: "",
  notes: "",
  taken: [],
  new_signal: true,
  new_speeds: true,
};

test("a row says what it holds and nothing else", () => {
  expect(figuresOf(ROW)).toBe("n78, −92\u202fdBm, 266.2\u202fMbit/s down, 36\u202fms");
});

test("warnings and questions are counted in words", () => {
  expect(inShort(0, 0)).toBe("nothing to do");
  expect(inShort(1, 2)).toBe("1 warning, 2 questions");
});

test("what is asked can be answered, and what makes no difference is not shown", async () => {
  const answered = vi.fn();
  const questions = [
    { asks: "date_order" as const, text: "“03/04/2026” can be two dates.", name: "", maybe: [] },
  ];
  await act(async () =>
    root.render(<HowRead reading={UNREAD} questions={questions} zone="Europe/Oslo" onReading={answered} />),
  );
  expect(page.textContent).toContain("can be two dates");
  expect(page.textContent).not.toContain("Decimal sign");
  const select = page.querySelector("select");
  if (!select) throw new Error("nothing to choose");
  await act(async () => {
    select.value = "month_first";
    select.dispatchEvent(new Event("change", { bubbles: true }));
  });
  expect(answered).toHaveBeenCalledWith({ ...UNREAD, date_order: "month_first" });
});
