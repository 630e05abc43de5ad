// What is said about an export that could not be brought in again.

import { QueryClient, QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { Exports } from "../src/stages/settings/Exports";

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

async function shown(answer: object) {
  const client = new QueryClient({ defaultOptions: { queries: { retry: false } } });
  client.setQueryData(["exports", "one"], answer);
  await act(async () =>
    root.render(
      <QueryClientProvider client={client}>
        <Exports siteId="one" />
      </QueryClientProvider>,
    ),
  );
  return page.textContent ?? "";
}

test("nothing is promised of a site that is too large, and what keeps it is said", async () => {
  const text = await shown({ zip_problem: "Copy the database.", json_problem: "As JSON it is too large." });
  expect(text).toContain("Copy the database.");
  expect(text).toContain("As JSON it is too large.");
  expect(text).not.toContain("without loss");
  expect(text).not.toContain("Export as JSON");
  expect(text).toContain("Export as zip (CSV)");
});

test("a site that comes back is promised to", async () => {
  const text = await shown({ zip_problem: null, json_problem: null });
  expect(text).toContain("without loss");
  expect(text).toContain("Export as JSON");
});
