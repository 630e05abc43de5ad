import { readFileSync } from "node:fs";
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
