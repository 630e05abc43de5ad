import { expect, openDemo, test } from "../program";

const GPX = `<gpx version="1.1" creator="any"><wpt lat="61.4" lon="8.2"><name>Hay barn</name><desc>old pole</desc></wpt>
<wpt lat="61.41" lon="8.21"><name>Far pasture</name></wpt></gpx>`;

test("points of a receiver become positions", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const base = await openDemo(page, demo);
  await page.goto(`${base}/mount#new-position`);
  await page.getByText("Positions from a file (GPX, KML, GeoJSON)").click();
  const file = { name: "croft.gpx", mimeType: "application/gpx+xml", buffer: Buffer.from(GPX) };
  await page.getByLabel("File of points").setInputFiles(file);
  const points = page.getByRole("list", { name: "Points of the file" });
  const barn = points.getByRole("listitem").filter({ hasText: "Hay barn" });
  await expect(barn).toContainText(/from the house at \d+°\sT; old pole/);
  await barn.getByLabel("Mount of Hay barn").selectOption("pole");
  await barn.getByRole("button", { name: "Add it" }).click();
  await expect(barn.getByRole("button", { name: "Added" })).toBeDisabled();
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(wide).toBeLessThanOrEqual(0);
  await page.goto(`${base}/mount`);
  await page.reload();
  await page
    .getByText(/, change$/)
    .first()
    .click();
  await expect(page.getByText("Hay barn").first()).toBeVisible();
});
