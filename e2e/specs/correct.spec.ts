import { expect, openDemo, test } from "../program";

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`a slip is corrected with its reason, and what was written first stays, on ${size}`, async ({
    demo,
    page,
  }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await page.goto(`${base}/log`);
    await page.getByRole("button", { name: "Type it in" }).click();
    const sheet = page.getByRole("dialog");
    await sheet.getByLabel("RSRP").first().fill("-49");
    await sheet.getByLabel("Download, Mbit/s").fill("440");
    await sheet.getByLabel("Average of").fill("3");
    await sheet.getByRole("button", { name: "Save" }).click();
    await expect(sheet).toHaveCount(0);

    const runs = page.getByRole("region", { name: "Runs" });
    await runs
      .getByRole("button", { name: /1 sample, 1 speed test, typed in/ })
      .first()
      .click();
    await expect(runs.getByText("Average of 3 tests")).toBeVisible();
    await runs.getByRole("button", { name: "Correct this run" }).click();
    await expect(sheet.getByLabel("RSRP").first()).toHaveValue("−49");
    await expect(sheet.getByLabel("Average of")).toHaveValue("3");
    await sheet.getByLabel("Download, Mbit/s").fill("44");
    await sheet.getByRole("button", { name: "Save correction" }).click();
    await expect(sheet.getByText(/^Say why, for instance/)).toBeVisible();
    await sheet.getByLabel("Why it is corrected").fill("one digit too many");
    await sheet.getByLabel("Who corrects it").fill("Kari");
    await sheet.getByRole("button", { name: "Save correction" }).click();
    await expect(sheet).toHaveCount(0);
    await expect(runs.getByText(/^Corrected .* by Kari: one digit too many/)).toBeVisible();
    await expect(runs.getByText(/^Before: .*440\sMbit\/s down/)).toBeVisible();
    await page.reload();
    await runs
      .getByRole("button", { name: /1 sample, 1 speed test, typed in/ })
      .first()
      .click();
    await expect(runs.getByText(/^Before: .*440\sMbit\/s down/)).toBeVisible();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(wide).toBeLessThanOrEqual(0);
  });
}
