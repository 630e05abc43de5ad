import { changeSettings, expect, openDemo, SHORT_TESTS, test } from "../program";

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`before a run only what is not known is asked, and it is carried over, on ${size}`, async ({
    demo,
    page,
  }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await changeSettings(page, base.split("/").at(-1) ?? "", SHORT_TESTS);
    await page.goto(`${base}/log`);
    const before = page.getByRole("group").filter({ hasText: "Before the next run" });
    await expect(before).toContainText(/Before the next run: .*question/);
    const open = async () => {
      if (!(await before.getByLabel("Weather, leaves").isVisible()))
        await before.getByText("Before the next run").click();
    };
    await open();
    await expect(before.getByText("What is the weather, and are there leaves on the trees?")).toBeVisible();
    await before.getByLabel("Weather, leaves").fill("drizzle, leaves off");
    await before.getByLabel("Gateway since the antenna was moved").selectOption("kept_attached");
    await page.getByRole("button", { name: "One speed test" }).click();
    await expect(page.getByRole("button", { name: "One speed test" })).toHaveCount(0);
    await expect(page.getByRole("button", { name: "One speed test" })).toBeVisible({ timeout: 60_000 });

    // The next run has it from this one, on a page that was never opened before, too.
    await page.reload();
    await expect(before).toBeVisible();
    await open();
    await expect(before.getByText(/Weather as noted before: drizzle, leaves off\./)).toBeVisible();
    await expect(before.getByText(/The gateway stayed attached, as noted before\./)).toBeVisible();
    await expect(before.getByText(/The antenna stands as in the run of /)).toBeVisible();
    await expect(before.getByLabel("Weather, leaves")).toHaveValue("drizzle, leaves off");
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(wide).toBeLessThanOrEqual(0);

    // What happened since the baseline was tested is said.
    const line = page.getByRole("region", { name: "Time line" });
    await line.getByRole("textbox", { name: "What happened" }).fill("Firmware updated");
    await line.getByRole("button", { name: "Note it" }).click();
    await expect(before.getByText(/Since the baseline was tested, .*“Firmware updated”/)).toBeVisible();
    await expect(before).toContainText("Before the next run: 1 warning");
  });
}
