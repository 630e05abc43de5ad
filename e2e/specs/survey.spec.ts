import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page
    .getByRole("navigation", { name: "Stages of the job" })
    .getByRole("link", { name: "Survey" })
    .click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Barn mast to Skarvnut: aim 143°");
});

const region = (page: Page, name: string | RegExp) => page.getByRole("region", { name, exact: true });

test("a path is chosen, its height tried, and its card taken up the ladder", async ({ page }) => {
  await expect(page.getByText(/\d+ carriers heard here put Skarvnut/)).toBeVisible();
  await page.getByRole("button", { name: /^Show all/ }).click();
  await page.getByRole("button", { name: "East gable to Kvernhaug" }).click();
  const behind = region(page, "Path: East gable to Kvernhaug");
  await expect(behind.getByText(/Not in sight: the ground .* into the line/)).toBeVisible();
  await expect(behind.getByRole("img", { name: /^Slice of the ground/ })).toBeVisible();
  await page.getByRole("button", { name: "East gable to Skarvnut" }).click();
  const path = region(page, "Path: East gable to Skarvnut");
  const n78 = path.getByRole("row", { name: /^n78/ });
  const signal = async () => Number(/−(\d+) to/.exec((await n78.textContent()) ?? "")?.[1]);
  await expect(path.getByText(/The path clears \d+.% of the first Fresnel zone/)).toBeVisible();
  const high = await signal();
  await path.getByRole("slider", { name: /Antenna height/ }).fill("2");
  await expect(path.getByText(/“Spruce belt” .* stands .* into the line/)).toBeVisible();
  expect(await signal()).toBeGreaterThan(high + 3);
  // What is tried stands in the address and outlives a reload.
  await page.reload();
  await expect(path.getByText("Antenna height above ground: 2.0")).toBeVisible();
  await path.getByRole("button", { name: "Back to 6.4" }).click();
  await page.setViewportSize({ width: 390, height: 844 });
  await path.getByRole("link", { name: "Aiming card" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Aim East gable at Skarvnut");
  await expect(page.getByText("139° M")).toBeVisible();
  await expect(page.getByText("3° left of the grain silo")).toBeVisible();
  await expect(page.getByText(/n78, PCI 611: −\d+ to −\d+/)).toBeVisible();
  await expect(page.getByText(/overhead power lines/)).toBeVisible();
  expect(
    await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
  ).toBeLessThanOrEqual(0);
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
});

test("trees drawn on the plan change the path, and are archived and restored", async ({ page }) => {
  await page.getByRole("button", { name: "Draw a belt or hedge as a line" }).click();
  const plan = page.locator(".leaflet-container");
  // The house is in the middle now; the mast lies to the south-east.
  await plan.click({ position: { x: 380, y: 200 } });
  await plan.click({ position: { x: 340, y: 270 } });
  const form = page.locator("form").filter({ hasText: "Its corners, one a line" });
  await expect(form.getByLabel("Its corners, one a line")).toHaveValue(/^61\.42.*\n61\.42/);
  await form.getByLabel("Name").fill("New poplars");
  await form.getByLabel("Height above ground, m").fill("tall");
  await form.getByRole("button", { name: "Save", exact: true }).click();
  await expect(form.getByText(/Between 0 and 120/)).toBeVisible();
  await form.getByLabel("Height above ground, m").fill("25");
  await form.getByRole("button", { name: "Save", exact: true }).click();
  const path = region(page, "Path: East gable to Skarvnut");
  const all = page.getByRole("button", { name: /^Show all/ });
  await all.click();
  await page.getByRole("button", { name: "East gable to Skarvnut" }).click();
  await expect(path.getByText(/“New poplars” .* stands .* into the line/)).toBeVisible();
  await page.getByRole("button", { name: "Archive New poplars" }).click();
  await expect(path.getByText(/The path clears \d+.% of the first Fresnel zone/)).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(path.getByText(/“New poplars” .* stands .* into the line/)).toBeVisible();
});

test("masts come from a table with any columns, are mended and go out again", async ({ page }) => {
  await page.getByRole("button", { name: "Import masts" }).click();
  const sheet = page.getByRole("dialog");
  const text =
    "Where;lat;lon;Radio;Kanal;Kennung\nFjell;61,40;8,30;LTE;1300;17\nBakke;8,25;61,41;LTE;6300;18\nMyr;x;8,3;LTE;1300;19\n";
  await sheet
    .getByLabel("File of masts")
    .setInputFiles({ name: "register.csv", mimeType: "text/csv", buffer: Buffer.from(text) });
  await expect(sheet.getByText(/Line 4: latitude “x”/)).toBeVisible();
  await sheet.getByLabel("Column Where taken as").selectOption("name");
  await sheet.getByLabel("Column Kanal taken as").selectOption("channel");
  await sheet.getByLabel("Column Kennung taken as").selectOption("pci");
  await expect(sheet.getByText(/Latitude and longitude look swapped/)).toBeVisible();
  await sheet.getByRole("button", { name: "Bring 2 masts in" }).click();
  const list = region(page, "List of masts");
  await expect(list.getByText("Fjell")).toBeVisible();
  await expect(list.getByText("B3/17")).toBeVisible();
  await list.getByRole("button", { name: "Mend it" }).click();
  await expect(list.getByText(/look swapped/)).toHaveCount(0);
  await list.getByRole("button", { name: "Archive Fjell" }).click();
  await expect(list.getByText("Fjell")).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(list.getByText("Fjell")).toBeVisible();
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "GeoJSON" }).click();
  const content = readFileSync(await (await download).path(), "utf8");
  expect(content).toContain("Bakke");
  expect(JSON.parse(content).features.length).toBeGreaterThan(10);
});

test("a mast typed with a slip keeps what was typed and says what would do", async ({ page }) => {
  await page.getByRole("button", { name: "Enter a mast" }).click();
  const sheet = page.getByRole("dialog");
  await sheet.getByLabel("Name").fill("Nab");
  await sheet.getByLabel("Latitude, longitude").fill("somewhere");
  await sheet.getByRole("button", { name: "Add a cell" }).click();
  await sheet.getByLabel("Band").fill("3");
  await sheet.getByLabel("PCI").fill("700");
  await sheet.getByRole("button", { name: "Save the mast" }).click();
  await expect(sheet.getByText(/Write it like 61.4213/)).toBeVisible();
  await sheet.getByLabel("Latitude, longitude").fill("61°24′00″N 8°18′00″E");
  await sheet.getByRole("button", { name: "Save the mast" }).click();
  await expect(sheet.getByText(/Between 0 and 503/)).toBeVisible();
  // The draft is in this browser though the page goes.
  await page.reload();
  await page.getByRole("button", { name: "Enter a mast" }).click();
  await expect(sheet.getByLabel("PCI")).toHaveValue("700");
  await sheet.getByLabel("PCI").fill("70");
  await sheet.getByRole("button", { name: "Save the mast" }).click();
  await expect(region(page, "List of masts").getByText("Nab")).toBeVisible();
});

test("without terrain what stands in is named, and a file that is none is refused in words", async ({
  page,
}) => {
  await page.getByRole("button", { name: "Archive hulderdal.asc" }).click();
  // Trees and the house are drawn, so the ground is taken as flat with them on it.
  await expect(
    page.getByText(/No terrain is there: taken as flat, with the trees and buildings you drew/),
  ).toBeVisible();
  await expect(page.getByRole("link", { name: /Add terrain, so that hills/ })).toBeVisible();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByText("Over the terrain, trees and buildings as drawn.")).toBeVisible();
  await page.getByLabel("Add terrain files").setInputFiles([
    { name: "N61E008.hgt", mimeType: "application/octet-stream", buffer: Buffer.alloc(500) },
    { name: "tile.zip", mimeType: "application/zip", buffer: Buffer.from("PK\u0003\u0004") },
  ]);
  await expect(page.getByText(/It looks cut short/)).toBeVisible();
  await expect(page.getByText(/is a zip, not a tile/)).toBeVisible();
  const text = "ncols 3\nnrows 3\nxllcenter 8.19\nyllcenter 61.4\ncellsize 0.02\n1 2 3 4 5 6 7 8 9\n";
  await page.getByLabel("Tree tops and roofs").check();
  await page
    .getByLabel("Add terrain files")
    .setInputFiles({ name: "tops.asc", mimeType: "text/plain", buffer: Buffer.from(text) });
  await expect(page.getByText(/ESRI ASCII grid, 3 × 3 heights/)).toBeVisible();
});

test("a map of the signal is made with progress and taken off again", async ({ page }) => {
  await page.getByText("Map of the signal of Skarvnut").click();
  await page.getByLabel("Area round the house").selectOption("property");
  await page.getByRole("button", { name: "Make the map" }).click();
  await expect(page.getByText(/From −\d+ to −\d+ dBm, antenna aimed/)).toBeVisible({ timeout: 30_000 });
  await expect(page.locator('img[src*="/picture.png"]')).toBeVisible();
  await page.getByRole("button", { name: "Take it off" }).click();
  await expect(page.locator('img[src*="/picture.png"]')).toHaveCount(0);
});

test("the plan answers to the keyboard and needs nothing from outside", async ({ demo, page }) => {
  const outside: string[] = [];
  page.on("request", (request) => {
    if (!request.url().startsWith(demo.address)) outside.push(request.url());
  });
  const plan = page.getByLabel(/^Plan of house and masts/);
  await plan.focus();
  const pane = page.locator(".leaflet-map-pane");
  const before = await pane.getAttribute("style");
  await page.keyboard.press("ArrowRight");
  await expect.poll(() => pane.getAttribute("style")).not.toBe(before);
  const drawn = page.waitForRequest(/plan\.png/);
  await page.keyboard.press("+");
  await drawn;
  expect(outside).toEqual([]);
});
