// A gateway whose page is none of ours: recorded, read by what is proposed, and its recipe taken elsewhere with its own test.

import { readFile } from "node:fs/promises";
import AxeBuilder from "@axe-core/playwright";
import { expect, openDemo, test } from "../program";

test("a page nobody has seen is recorded, a recipe proposed, and its file carries its own test", async ({
  page,
  demo,
}) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/settings`);
  const address = page.getByLabel("Address of its status page or modem");
  await address.fill(demo.addresses.status_url.replace("status.json", "status.html"));
  await page.getByRole("button", { name: "Save the addresses" }).click();
  await page.getByRole("link", { name: "Sign-in and fields" }).click();
  const part = page.getByRole("region", { name: "Record what it answers" });
  await part.getByRole("button", { name: "Record ten answers" }).click();
  await expect(part.getByText(/of 10 answers, line idle/)).toBeVisible();
  await expect(part.getByText("10 answers with the line idle.")).toBeVisible({ timeout: 30_000 });
  await expect(part.getByText("This recipe reads 0 of 10 answers.")).toBeVisible();
  await part.getByRole("button", { name: "Record ten under traffic" }).click();
  await expect(part.getByText("under traffic", { exact: false }).first()).toBeVisible();

  // The page may be left meanwhile: the answers are kept by the program.
  await page.reload();
  await expect(part.getByText("This recipe reads 0 of 20 answers.")).toBeVisible({ timeout: 30_000 });
  await part.getByRole("button", { name: "Use what is proposed" }).click();
  await expect(part.getByText("This recipe reads all 20 answers.")).toBeVisible();
  await expect(part.getByRole("cell", { name: "Signal (RSRP), dBm" }).first()).toBeVisible();
  await expect(part.getByRole("cell", { name: /^Moves/ }).first()).toBeVisible();
  expect((await new AxeBuilder({ page }).analyze()).violations.map(({ id }) => id)).toEqual([]);
  await page.getByRole("button", { name: "Save how it is read" }).click();
  const strip = page.getByRole("region", { name: "Link strip" });
  await expect(strip.getByRole("heading", { name: /Heard now/ })).toBeVisible();

  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Save as a file" }).click(),
  ]);
  const kept = JSON.parse(await readFile(await file.path(), "utf8"));
  expect(kept.recording.answers).toHaveLength(20);
  expect(kept.recording.answers[0].expected.reading.carriers.length).toBeGreaterThan(0);

  // Taken elsewhere on a phone, where the recipe has been spoilt since.
  await page.setViewportSize({ width: 390, height: 844 });
  const from = page.getByLabel("Take one from a file");
  await from.setInputFiles(await file.path());
  await expect(part.getByText("This recipe reads all 20 answers that came with it.")).toBeVisible();
  await expect(part.getByText("Each comes to what it did when the recipe was saved.")).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
  kept.recording.answers[3].expected.reading.carriers[0].rsrp_dbm = -45;
  const spoilt = {
    name: "recipe.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify(kept)),
  };
  await from.setInputFiles(spoilt);
  await expect(
    part.getByText("1 of 20 come to something else than when the recipe was saved."),
  ).toBeVisible();
});
