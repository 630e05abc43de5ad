import { expect, openDemo, test } from "../program";

const MISSING = "What is measured, and what is missing";

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`the log says what to measure next and what is missing, on ${size}`, async ({ demo, page }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await page.goto(`${base}/log`);
    const next = "Next, run one speed test at Barn mast at 140° T. The antenna has to be moved for that.";
    await expect(page.getByText(next)).toBeVisible();
    const list = page.getByRole("region", { name: MISSING });
    const attic = list.getByRole("row", { name: /^Attic, south/ });
    await expect(attic).toContainText("Clearly slower than the fastest");
    await expect(attic.getByRole("img", { name: "Tested at 11, 20 h" })).toBeVisible();
    // More hours of what is known well enough are not asked for.
    const gable = list.getByRole("row", { name: /^East gable at 143° T More sittings/ });
    await expect(gable).toContainText("More sittings would hardly change the verdict");
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(wide).toBeLessThanOrEqual(0);

    // Tests made by phone went over Wi-Fi: said of the setup, and of the run with what it went over.
    const yard = list.getByRole("row", { name: /^Yard table/ });
    await expect(yard).toContainText("2 doubtful");
    await yard.getByRole("button", { name: "Yard table" }).click();
    await expect(
      page.getByText(/^Both tests went over Wi-Fi \(wlan0\).* by cable and test again\./),
    ).toBeVisible();
    await page.getByRole("region", { name: "Runs" }).getByRole("button", { expanded: false }).first().click();
    await expect(page.getByText("Tested over Wi-Fi (wlan0), IPv4.")).toBeVisible();

    // The sentence leads to where it says.
    await page.getByRole("button", { name: /^Show Barn mast/ }).click();
    await expect(page.getByRole("heading", { level: 1, name: /^Barn mast at 140° T/ })).toBeVisible();
    await expect(page.getByRole("button", { name: /^Show / })).toHaveCount(0);
  });
}

test("a test that is typed in changes what is missing", async ({ demo, page }) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/log`);
  const row = page.getByRole("region", { name: MISSING }).getByRole("row", { name: /^Yard table/ });
  await expect(row).toContainText("Missing: one speed test");
  await row.getByRole("button", { name: "Yard table" }).click();
  await expect(page.getByRole("heading", { level: 1, name: /^Yard table/ })).toBeVisible();
  await page.getByRole("button", { name: "Type it in" }).click();
  const sheet = page.getByRole("dialog");
  await sheet.getByLabel("Download, Mbit/s").fill("44");
  await sheet.getByLabel("Upload, Mbit/s").fill("15");
  await sheet.getByRole("button", { name: "Save" }).click();
  await expect(row).toContainText("Clearly slower than the fastest. Measured last");
});
