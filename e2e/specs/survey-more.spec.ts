import { Buffer } from "node:buffer";
import type { Page } from "@playwright/test";
import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page
    .getByRole("navigation", { name: "Stages of the job" })
    .getByRole("link", { name: "Survey" })
    .click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Barn mast to Skarvnut");
});

/** A drawn yard from above: meadow, road, house. */
async function yard(page: Page): Promise<Buffer> {
  const url = await page.evaluate(() => {
    const canvas = document.createElement("canvas");
    [canvas.width, canvas.height] = [600, 400];
    const pen = canvas.getContext("2d");
    if (!pen) throw new Error("no canvas");
    pen.fillStyle = "#7d8f5c";
    pen.fillRect(0, 0, 600, 400);
    pen.fillStyle = "#b9ad94";
    pen.fillRect(0, 300, 600, 24);
    pen.fillStyle = "#6b4236";
    pen.fillRect(270, 180, 60, 40);
    return canvas.toDataURL("image/png");
  });
  return Buffer.from(url.split(",")[1] ?? "", "base64");
}

test("an aerial picture is laid behind the plan by two known points", async ({ page }) => {
  const own = page.getByRole("region", { name: "Aerial picture" });
  await own.getByLabel("Add an aerial picture").setInputFiles({
    name: "note.txt",
    mimeType: "text/plain",
    buffer: Buffer.from("no picture"),
  });
  await expect(own.getByRole("alert")).toContainText("not a PNG, JPEG or WebP");
  await own.getByLabel("Add an aerial picture").setInputFiles({
    name: "yard.png",
    mimeType: "image/png",
    buffer: await yard(page),
  });
  const picture = own.getByRole("img", { name: /^yard\.png/ });
  const box = await picture.boundingBox();
  if (!box) throw new Error("no picture");
  const press = (x: number, y: number) =>
    picture.click({
      position: { x: (x / 600) * box.width, y: (y / 400) * box.height },
    });
  await press(300, 200);
  await expect(own.getByText("2. Press another, far from it.")).toBeVisible();
  await press(300, 20);
  const places = own.getByLabel("Their two places, one a line");
  await places.fill("61.4213, 8.2087");
  await own.getByRole("button", { name: "Lay it behind the plan" }).click();
  await expect(own.getByRole("alert")).toContainText("Two points on the picture and two places");
  // Swapped by hand: said, with what is probably wrong.
  await places.fill("61.4213, 8.2087\n8.2087, 61.4213");
  await own.getByRole("button", { name: "Lay it behind the plan" }).click();
  await expect(own.getByRole("alert")).toContainText("swapped");
  // 180 pixels are 100 m to the north: 0.0008983°.
  await places.fill("61.4213, 8.2087\n61.4221977, 8.2087");
  await own.getByRole("button", { name: "Lay it behind the plan" }).click();
  await expect(
    own.getByText(/600 × 400 pixels, .* 0\.6 m a pixel, north up|0\.5 m a pixel, north up/),
  ).toBeVisible();
  await expect(page.locator('.leaflet-container image[href^="/api/backdrops/"]')).toHaveCount(1);
  await page.reload();
  await expect(page.locator('.leaflet-container image[href^="/api/backdrops/"]')).toHaveCount(1);
  await own.getByRole("button", { name: "Archive yard.png" }).click();
  await expect(page.locator('.leaflet-container image[href^="/api/backdrops/"]')).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.locator('.leaflet-container image[href^="/api/backdrops/"]')).toHaveCount(1);
});

test("the antenna is dragged up and down in the slice and the signal follows", async ({ page }) => {
  await page.getByRole("button", { name: /^Show all/ }).click();
  await page.getByRole("button", { name: "East gable to Skarvnut" }).click();
  const path = page.getByRole("region", {
    name: "Path: East gable to Skarvnut",
  });
  await expect(path.getByText("Antenna height above ground: 10.4")).toBeVisible();
  const signal = async () =>
    Number(/−(\d+) to/.exec((await path.getByRole("row", { name: /^n78/ }).textContent()) ?? "")?.[1]);
  const before = await signal();
  const handle = path.getByTestId("raise");
  await handle.scrollIntoViewIfNeeded();
  const box = await handle.boundingBox();
  if (!box) throw new Error("no handle");
  const [x, y] = [box.x + box.width / 2, box.y + box.height / 2];
  await page.mouse.move(x, y);
  await page.mouse.down();
  await page.mouse.move(x, y + 20, { steps: 4 });
  await page.mouse.move(x, y + 46, { steps: 4 });
  await page.mouse.up();
  await expect(path.getByText(/Antenna height above ground: [4567]\.\d/)).toBeVisible();
  await expect.poll(signal).toBeGreaterThan(before + 2);
  await expect(path.getByRole("columnheader", { name: /off its beam/ })).toBeVisible();
});

test("a map of clean signal and grid references of masts", async ({ page }) => {
  await page.getByText("Map of the signal of Skarvnut").click();
  await page.getByLabel("What", { exact: true }).selectOption("clean_signal");
  await page.getByLabel("Area round the house").selectOption("property");
  await page.getByRole("button", { name: "Make the map" }).click();
  await expect(page.getByText(/From −?\d+ to −?\d+ dB, antenna/)).toBeVisible({
    timeout: 30_000,
  });
  await expect(page.getByText(/MGRS 32V[A-Z]{2} \d{5} \d{5}/).first()).toBeVisible();
  await expect(page.getByText(/if every cell around is fully loaded/i)).toBeVisible();
});
