import { readFileSync, writeFileSync } from "node:fs";
import { join } from "node:path";
import AxeBuilder from "@axe-core/playwright";
import { expect, test } from "../program";

test("a site from a file asks before it sends anything", async ({ demo, page }) => {
  // The demo's own export under another name, as somebody else would have sent it.
  const site = JSON.parse(readFileSync(join(demo.data, "demo.json"), "utf8"));
  site.site.name = "Borrowed croft";
  const file = {
    name: "borrowed.json",
    mimeType: "application/json",
    buffer: Buffer.from(JSON.stringify(site)),
  };
  await page.goto(`${demo.address}/import`);
  await page.getByLabel("File").setInputFiles(file);
  await expect(page.getByRole("heading", { name: "Borrowed croft" })).toBeVisible();
  await page.getByRole("button", { name: "Import as a copy" }).click();
  const waits = page.getByRole("region", { name: "This site came from a file. Nothing is sent for it yet." });
  await expect(waits).toBeVisible();
  await expect(waits.getByText(demo.addresses.status_url)).toBeVisible();
  await expect(page.getByRole("heading", { name: "The gateway is not asked yet" })).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map((one) => one.id)).toEqual([]);
  await waits.getByRole("button", { name: "Allow these requests" }).click();
  await expect(waits).toBeHidden();
  await expect(page.getByRole("heading", { name: "The gateway is not asked yet" })).toBeHidden();
});

test("a large file shows how far it has come, and can be stopped", async ({ demo, page }, info) => {
  const site = JSON.parse(readFileSync(join(demo.data, "demo.json"), "utf8"));
  const samples = site.samples;
  // Long enough to be read for seconds, also by an optimised program.
  while (site.samples.length < 60_000) site.samples = site.samples.concat(samples);
  const large = info.outputPath("large.json");
  writeFileSync(large, JSON.stringify(site));
  await page.goto(`${demo.address}/import`);
  await page.getByLabel("File").setInputFiles(large);
  const underWay = page.getByRole("region", { name: "Going on now" });
  await expect(underWay.getByText(/^Reading the file/)).toBeVisible();
  await underWay.getByRole("button", { name: "Stop" }).click();
  await expect(page.getByText("It was stopped. Nothing was brought in.")).toBeVisible();
  await expect(underWay).toBeHidden();
  await expect(page.getByRole("button", { name: "Import", exact: true })).toHaveCount(0);
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map((one) => one.id)).toEqual([]);
});
