import { act } from "react";
import { createRoot } from "react-dom/client";
import { expect, test, vi } from "vitest";
import type { PartRate } from "../src/api/schema";
import { ByPart } from "../src/stages/verdict/ByPart";

vi.stubGlobal("IS_REACT_ACT_ENVIRONMENT", true);

const rate = (part: PartRate["part"], likely: number, tested: boolean): PartRate => ({
  part,
  down_mbps: { low: likely / 2, likely, high: likely * 2 },
  tested,
});

test("each part of the day says what it brings and whether it was tested then", async () => {
  const place = document.body.appendChild(document.createElement("div"));
  const parts = [rate("morning", 100, true), rate("evening", 40, false)];
  await act(async () => createRoot(place).render(<ByPart label="Gable" parts={parts} need={30} />));
  const rows = [...place.querySelectorAll("li")].map((row) => row.textContent ?? "");
  expect(rows[0]).toMatch(/^Morning.*100.Mbit\/s.*50 to 200$/);
  expect(rows[1]).toMatch(/^Evening.*40.Mbit\/s.*20 to 80, untested$/);
  expect(place.textContent).toContain("the dotted line is your need");
  await act(async () => createRoot(place).render(<ByPart label="Gable" parts={parts} need={0} />));
  expect(place.textContent).not.toContain("dotted line");
});
