import AxeBuilder from "@axe-core/playwright";
import { expect, openDemo, test } from "../program";

for (const [name, viewport] of [
  ["desktop", { width: 1280, height: 800 }],
  ["phone", { width: 390, height: 844 }],
] as const) {
  test(`the verdict says which setup is best, how sure and what to test next, ${name}`, async ({
    demo,
    page,
  }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await page.goto(`${base}/verdict`);
    const title = page.getByRole("heading", { level: 1 });
    await expect(title).toContainText(/best|equally well|Cannot tell yet|Keep|Probably keep/);
    // Need and next step stand under it without scrolling.
    const said = page.getByText(/your need of/).first();
    await expect(said).toBeInViewport();
    await expect(said).toContainText(/Next, |More tests /);

    const chances = page.getByRole("list", { name: "Chance of being the best" }).getByRole("listitem");
    expect(await chances.count()).toBeGreaterThan(1);
    await expect(chances.first()).toContainText(/%/);
    await expect(chances.first()).toContainText(/meets the need|Meets the need|waking hours/);

    await page.getByRole("radio", { name: "Steady hours" }).click();
    await expect(page).toHaveURL(/weighing=steadiness/);
    await page.reload();
    await expect(page.getByRole("radio", { name: "Steady hours" })).toBeChecked();

    // Hours of the day, and what limits the setup that is looked at.
    const parts = page.getByRole("region", { name: /^Download by part of the day/ }).getByRole("listitem");
    await expect(parts).toHaveCount(4);
    const limits = page.getByRole("region", { name: "What limits it" });
    await expect(limits).toContainText(/looks wrong|limits|cannot be told yet/);
    await expect(limits).toContainText(/For|Against/);

    const near = page.getByRole("region", { name: "How near the best" });
    await expect(near).toContainText(/best .*foretold for this house/);
    await expect(near).toContainText(
      /Looked at: \d+ setups?, \d+ heights? at a position, \d+ kits? from the catalogue/,
    );

    await page.getByText("Check the statistics").click();
    await expect(page.getByRole("columnheader", { name: "Mann–Whitney p (Holm)" })).toBeVisible();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth);
    expect(wide).toBeLessThanOrEqual(viewport.width);
    expect((await new AxeBuilder({ page }).analyze()).violations).toEqual([]);
  });
}
