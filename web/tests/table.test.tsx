import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { scaleFor } from "../src/drawings/Ledger";
import { onCard } from "../src/drawings/polar";
import { type Column, SortableTable } from "../src/ui/SortableTable";

interface Row {
  name: string;
  metres: number | null;
}
const ROWS: Row[] = [
  { name: "Skarvnut", metres: 4700 },
  { name: "Åsen", metres: null },
  { name: "Bakkehaug", metres: 900 },
  { name: "Myrdal", metres: 12_000 },
];
const COLUMNS: Column<Row>[] = [
  { name: "Mast", sort: (row) => row.name, cell: (row) => row.name },
  { name: "Distance", sort: (row) => row.metres, cell: (row) => row.metres ?? "unknown", align: "right" },
  { name: "Note", cell: () => "" },
];

let root: Root;
let page: HTMLElement;
const show = (rows: Row[]) =>
  act(async () =>
    root.render(<SortableTable label="Masts" rows={rows} rowKey={(row) => row.name} columns={COLUMNS} />),
  );
const names = () => [...page.querySelectorAll("tbody tr")].map((row) => row.querySelector("td")?.textContent);
const press = (name: string) =>
  act(async () => {
    [...page.querySelectorAll("button")].find((button) => button.textContent?.startsWith(name))?.click();
  });
const order = () => [...page.querySelectorAll("th")].map((head) => head.getAttribute("aria-sort"));

beforeEach(() => {
  vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
  page = document.createElement("div");
  root = createRoot(page);
});
afterEach(() => act(async () => root.unmount()));

test("a press puts rows in order, a second the other way, a third as they came", async () => {
  await show(ROWS);
  const came = ["Skarvnut", "Åsen", "Bakkehaug", "Myrdal"];
  expect([names(), order()]).toEqual([came, [null, null, null]]);
  await press("Distance");
  expect([names(), order()]).toEqual([
    ["Bakkehaug", "Skarvnut", "Myrdal", "Åsen"],
    [null, "ascending", null],
  ]);
  await press("Distance");
  // What is not known stays last either way.
  expect([names(), order()]).toEqual([
    ["Myrdal", "Skarvnut", "Bakkehaug", "Åsen"],
    [null, "descending", null],
  ]);
  await press("Distance");
  expect(names()).toEqual(came);
});

test("new rows are put in the order that is chosen", async () => {
  await show(ROWS);
  await press("Mast");
  await show([...ROWS, { name: "Lien", metres: 3 }]);
  expect(names()).toEqual(["Åsen", "Bakkehaug", "Lien", "Myrdal", "Skarvnut"]);
});

test("a column without an order has no button", async () => {
  await show(ROWS);
  expect([...page.querySelectorAll("button")].map((button) => button.textContent)).toEqual([
    "Mast",
    "Distance",
  ]);
});

test.each([[[266, 41]], [[0.4]], [[1]], [[999, 1001]], [[7]]])("a scale for %j ends at a mark", (values) => {
  const { max, marks } = scaleFor(values);
  expect(marks[0]).toBe(0);
  expect(marks.at(-1)).toBe(max);
  expect(max).toBeGreaterThanOrEqual(Math.max(...values));
  expect(marks.length).toBeGreaterThan(3);
  expect(marks.length).toBeLessThan(12);
});

test("north is up and east is right on a compass card", () => {
  const near = ([x, y]: [number, number]) => [Math.round(x), Math.round(y) + 0];
  expect(near(onCard(0, 10))).toEqual([0, -10]);
  expect(near(onCard(90, 10))).toEqual([10, 0]);
  expect(near(onCard(225, 10))).toEqual([-7, 7]);
});
