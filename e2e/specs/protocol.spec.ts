import { readFileSync } from "node:fs";
import { expect, openDemo, test } from "../program";

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`a sitting is planned, opened, led through and closed, on ${size}`, async ({ demo, page }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await page.goto(`${base}/log`);
    const plan = page.getByRole("region", { name: "Test plan" });
    await expect(plan.getByText(/^Still to do: /)).toBeVisible();
    await plan.getByText("Why this plan").click();
    await expect(plan.getByText(/favours no setup/)).toBeVisible();
    await expect(plan.getByText(/Climb only in daylight/)).toBeVisible();
    // Only two setups are left in the plan.
    await plan.getByText("Change the plan").click();
    const letters = plan.getByRole("list", { name: "Setups by letter" }).getByRole("listitem");
    await expect(letters).toHaveCount(4);
    for (const [left, name] of [
      [3, /^B? ?Yard table/],
      [2, /Barn mast at 140/],
    ] as const) {
      await plan.getByRole("checkbox", { name }).click();
      await expect(letters).toHaveCount(left);
    }
    await expect(plan.getByText(/^Tests: [AB]\s2, [AB]\s4, [AB]\s2/).first()).toBeVisible();

    const [calendar] = await Promise.all([
      page.waitForEvent("download"),
      plan.getByRole("link", { name: "Save to calendar (.ics)" }).click(),
    ]);
    const text = readFileSync(await calendar.path(), "utf8");
    expect(text.match(/BEGIN:VEVENT/g)?.length).toBe(
      await plan.getByRole("list", { name: "Visits" }).getByRole("listitem").count(),
    );

    await plan.getByRole("button", { name: "Open a sitting" }).click();
    const bar = page.getByRole("region", { name: "Open sitting" });
    await expect(bar).toContainText("No test yet. Stop 1 of 3: two tests at");
    const there = bar.getByRole("button", { name: "Go to the next stop" });
    if (await there.isVisible()) await there.click();
    await bar.getByRole("button", { name: "Run the 2 tests" }).click();
    await expect(bar).toContainText("Two tests so far. Stop 2 of 3: four tests at", { timeout: 60_000 });
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(wide).toBeLessThanOrEqual(0);
    await bar.getByRole("button", { name: "Close sitting" }).click();
    await expect(bar).toHaveCount(0);
  });
}

test("the time line shows what happened, and events are noted and left out", async ({ demo, page }) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/log`);
  const line = page.getByRole("region", { name: "Time line" });
  const rows = line.getByRole("list", { name: /the newest first/ }).getByRole("listitem");
  await expect(rows.first()).toBeVisible();
  await line.getByRole("textbox", { name: "What happened" }).fill("Rain began");
  await line.getByRole("button", { name: "Note it" }).click();
  await expect(rows.first()).toContainText("Rain began");
  await expect(rows.first()).toContainText("weather");
  await page.reload();
  await expect(rows.first()).toContainText("Rain began");
  await rows.first().getByRole("button", { name: "Leave out" }).click();
  await rows.first().getByRole("button", { name: "Take back in" }).click();
  await expect(rows.first().getByRole("button", { name: "Leave out" })).toBeVisible();

  await line.getByLabel("Show", { exact: true }).selectOption("Events");
  await expect(rows).toHaveCount(4);
  await line.getByLabel("Show", { exact: true }).selectOption("Runs");
  await line.getByLabel("Only").selectOption("Doubtful tests");
  await expect(rows.first()).toContainText("doubtful");
  await rows.first().getByRole("button", { name: "Details" }).click();
  await expect(line.getByText(/Tested over Wi-Fi/)).toBeVisible();
  await line.getByLabel("Only").selectOption("All");
  await line.getByLabel("Setup", { exact: true }).selectOption({ label: "Upstairs landing" });
  await expect(rows.filter({ hasText: /things were changed at once/ }).first()).toBeVisible();
});
