import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { Locator } from "@playwright/test";
import jsQR from "jsqr";
import { getDocument } from "pdfjs-dist/legacy/build/pdf.mjs";
import { PNG } from "pngjs";
import { expect, openDemo, Program, test } from "../program";

/** What a phone reads off the screen or the paper. */
async function decoded(code: Locator): Promise<string | undefined> {
  const { data, width, height } = PNG.sync.read(await code.screenshot());
  return jsQR(new Uint8ClampedArray(data), width, height)?.data;
}

/** The text of a printed page, line after line. */
async function printed(pdf: Buffer): Promise<string> {
  const document = await getDocument({ data: new Uint8Array(pdf) }).promise;
  const pages = Array.from({ length: document.numPages }, async (_, at) => {
    const content = await (await document.getPage(at + 1)).getTextContent();
    return content.items.map((item) => ("str" in item ? item.str : "")).join(" ");
  });
  return (await Promise.all(pages)).join(" ").replace(/\s+/g, " ");
}

test("a sheet is drawn up, printed, read by a phone and built from again", async ({ demo, page }) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/verdict`);
  await page.getByRole("link", { name: "As-built sheet" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText("Draw up the as-built sheet");
  await page.getByLabel("Cable route").fill("Down the gable, drip loop, in by the attic hatch");
  await page.getByLabel("Built by (private)").fill("Kari of the upper farm");
  await page.getByLabel("Address (private)").fill("Upper road 4");
  await page.reload();
  await expect(page.getByLabel("Cable route")).toHaveValue(/drip loop/);
  await page.getByRole("button", { name: "Draw up the sheet" }).click();

  const sheet = page.getByRole("article", { name: "As-built sheet" });
  await expect(sheet).toContainText("drip loop");
  await expect(sheet).toContainText(/Mbit\/s/);
  await expect(page.getByText(/Still missing: joints and weatherproofing, grounding/)).toBeVisible();
  // Private until it is ticked: on the page, in the code and in the file.
  await expect(sheet).not.toContainText("Upper road 4");
  await page.getByLabel(/Where the house stands/).check();
  await expect(sheet).toContainText("Upper road 4");
  await expect(sheet).not.toContainText("Kari");

  const code = sheet.getByRole("img", { name: /^QR code/ });
  const text = await decoded(code);
  expect(text).toContain("AS BUILT");
  expect(await code.getAttribute("alt")).toBe(`QR code: ${text}`);

  const paper = await printed(await page.pdf({ format: "A4" }));
  for (const row of await sheet.getByRole("definition").allTextContents())
    expect(paper).toContain(row.replace(/\s+/g, " ").trim());
  expect(paper).toContain("Before anyone goes up");
  expect(paper).not.toContain("Download data file");
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);

  await page.getByRole("button", { name: "Edit what you wrote" }).click();
  await page.getByLabel("Grounding and surge protection").fill("Bonded by an electrician");
  await page.getByRole("button", { name: "Save" }).click();
  await expect(sheet).toContainText("Bonded by an electrician");

  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Download data file" }).click(),
  ]);
  const file = await download.path();
  expect(readFileSync(file, "utf8")).not.toContain("Kari");
  const rows = await sheet.getByRole("definition").allTextContents();
  const stranger = new Program();
  try {
    await stranger.start();
    await page.goto(`${stranger.address}/import`);
    await page.getByLabel("File").setInputFiles(file);
    await page.getByRole("button", { name: "Import", exact: true }).click();
    await page.waitForURL(/\/sites\/[0-9a-f-]+/);
    const site = page.url().match(/sites\/([0-9a-f-]+)/)?.[1];
    await page.goto(`${stranger.address}/sites/${site}/as-built?share=place`);
    await expect(sheet.getByRole("definition")).toHaveText(rows);
  } finally {
    await stranger.end();
  }
});

test("the sheet fits a phone", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const base = await openDemo(page, demo);
  await page.goto(`${base}/as-built`);
  await page.getByRole("button", { name: "Draw up the sheet" }).click();
  await expect(page.getByRole("article", { name: "As-built sheet" })).toBeVisible();
  expect(await page.evaluate(() => document.documentElement.scrollWidth)).toBeLessThanOrEqual(390);
  expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  expect(await decoded(page.getByRole("img", { name: /^QR code/ }))).toContain("AS BUILT");
});
