import { act } from "react";
import { createRoot } from "react-dom/client";
import { beforeEach, expect, test, vi } from "vitest";
import type { BestView, ComparisonRowView } from "../src/api/schema";
import { Best, weighingOf } from "../src/stages/verdict/Best";

vi.mock("../src/shell/useSiteContext", () => ({ useChooseSetup: () => () => {} }));

beforeEach(() => vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true));

const standing = (setup_id: string, chance_of_best: number) => ({
  setup_id,
  chance_of_best,
  chance_of_need: 0.9,
  share_of_hours: 0.8,
  unmeasured: [],
});

const shown = async (chances: number[], onWeigh = vi.fn()) => {
  const standings = chances.map((chance, at) => standing(`s${at}`, chance));
  const rows = standings.map(({ setup_id }) => ({ setup_id, label: `Setup ${setup_id}` }));
  const best = { weighing: "alike", standings, standings_said: chances.map((chance) => `said of ${chance}`) };
  const place = document.createElement("div");
  document.body.append(place);
  await act(async () =>
    createRoot(place).render(
      <Best
        best={best as unknown as BestView}
        rows={rows as unknown as ComparisonRowView[]}
        onWeigh={onWeigh}
      />,
    ),
  );
  return place;
};

const listed = (place: HTMLElement) =>
  [...place.querySelectorAll("ol[aria-label] li")].map((one) => one.textContent?.replaceAll(/\s/g, " "));

test("the likeliest stands first, with what is said of it; the unlikely are folded away", async () => {
  const place = await shown([0.001, 0.3, 0.684, 0.015]);
  expect(listed(place)).toEqual(["Setup s2said of 0.68468 %", "Setup s1said of 0.330 %"]);
  expect(place.querySelector("summary")?.textContent).toBe("2 more, all less likely");
});

test("two are shown even where one is as good as certain, and four at the most", async () => {
  expect(listed(await shown([0.999, 0.001, 0]))).toEqual([
    "Setup s0said of 0.999>99 %",
    "Setup s1said of 0.001<1 %",
  ]);
  expect(listed(await shown([0.2, 0.2, 0.2, 0.2, 0.2]))).toHaveLength(4);
  const alone = await shown([1]);
  expect(listed(alone)).toHaveLength(1);
  expect(alone.querySelector("summary")).toBeNull();
});

test("what comes first is handed on", async () => {
  const onWeigh = vi.fn();
  const place = await shown([0.6, 0.4], onWeigh);
  const upload = [...place.querySelectorAll("button")].find((one) => one.textContent === "Upload");
  await act(async () => upload?.click());
  expect(onWeigh).toHaveBeenCalledWith("upload");
});

test("an address names a weighing or none", () => {
  expect(weighingOf("steadiness")).toBe("steadiness");
  expect(weighingOf("price")).toBeUndefined();
  expect(weighingOf(undefined)).toBeUndefined();
});
