import { QueryClientProvider } from "@tanstack/react-query";
import { act } from "react";
import { createRoot, type Root } from "react-dom/client";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { ApiError, silent } from "../src/api/client";
import { keys, queryClient } from "../src/api/queries";
import { NoticeProvider } from "../src/ui/notices";
import { useAction } from "../src/ui/useAction";

let root: Root;
let page: HTMLElement;

function Press({ write }: { write: (word: string) => Promise<unknown> }) {
  const action = useAction("site-1", write);
  return (
    <button type="button" disabled={action.busy} onClick={() => action.run("now")}>
      Archive
    </button>
  );
}

const show = (write: (word: string) => Promise<unknown>) =>
  act(async () =>
    root.render(
      <QueryClientProvider client={queryClient}>
        <NoticeProvider>
          <Press write={write} />
        </NoticeProvider>
      </QueryClientProvider>,
    ),
  );

const button = () => page.querySelector("button") as HTMLButtonElement;
const press = () => act(async () => button().click());
const settle = () => act(async () => new Promise((done) => setTimeout(done, 20)));

beforeEach(() => {
  vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);
  page = document.createElement("div");
  document.body.append(page);
  root = createRoot(page);
});

afterEach(async () => {
  await act(async () => root.unmount());
  page.remove();
  vi.unstubAllGlobals();
  queryClient.clear();
});

describe("a press that writes", () => {
  test("is done once, however often it is pressed while it is under way", async () => {
    let finish = (_: unknown) => {};
    const write = vi.fn(() => new Promise((done) => (finish = done)));
    await show(write);
    await press();
    await press();
    expect(write).toHaveBeenCalledTimes(1);
    expect(write).toHaveBeenCalledWith("now");
    expect(button().disabled).toBe(true);
    finish(undefined);
    await settle();
    expect(button().disabled).toBe(false);
    await press();
    expect(write).toHaveBeenCalledTimes(2);
  });

  test("says what the server refused, and changes nothing else", async () => {
    const refused = new ApiError({ ...silent, status: 409, detail: "A recording is going on." });
    queryClient.setQueryData(keys.site("site-1"), { name: "as it was" });
    await show(() => Promise.reject(refused));
    await press();
    await settle();
    expect(document.body.textContent).toContain("A recording is going on.");
    expect(queryClient.getQueryState(keys.site("site-1"))?.isInvalidated).toBe(false);
  });

  test("has the pages of its site asked for again, and no others", async () => {
    queryClient.setQueryData(keys.site("site-1"), { name: "old" });
    queryClient.setQueryData(keys.site("site-2"), { name: "other" });
    await show(() => Promise.resolve());
    await press();
    await settle();
    expect(queryClient.getQueryState(keys.site("site-1"))?.isInvalidated).toBe(true);
    expect(queryClient.getQueryState(keys.site("site-2"))?.isInvalidated).toBe(false);
  });
});
