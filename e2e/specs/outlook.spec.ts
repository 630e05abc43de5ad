import { expect, openDemo, test } from "../program";

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`every page with a setup expects the same of it, on ${size}`, async ({ demo, page }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    const said = new Set<string>();
    for (const stage of ["mount", "aim", "bands", "log", "verdict"]) {
      await page.goto(`${base}/${stage}`);
      const outlook = page.getByRole("region", { name: "What to expect of East gable at 143° T" });
      said.add((await outlook.getByText(/^Expect .* Measured with it: /).textContent()) ?? "");
      await expect(outlook.getByText(/at the slowest hour, about \d\d:00/)).toBeVisible();
      await expect(outlook.getByText(/^Three speed tests at another hour: /)).toBeVisible();
      await outlook.getByText("Show where these figures come from").click();
      await expect(outlook.getByRole("cell", { name: "Power of n78 (RSRP)" })).toBeVisible();
      await expect(outlook.getByRole("cell", { name: "Expected download" })).toBeVisible();
      await outlook.getByText("Carrier by carrier").click();
      const n28 = outlook.getByRole("row", { name: /^n28/ });
      await expect(n28.getByText("not counted: the network never gave it beside the others")).toBeVisible();
      const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
      expect(wide, stage).toBeLessThanOrEqual(0);
    }
    expect([...said]).toHaveLength(1);
    // What was measured lies in what is expected.
    const figures =
      /Expect (\d+) to (\d+).*down and (\d+) to (\d+).*up\. Measured with it: ([\d.]+).*down and ([\d.]+)/;
    const [low, high, lowUp, highUp, down, up] = (figures.exec([...said][0] ?? "") ?? [])
      .slice(1)
      .map(Number);
    expect(down).toBeGreaterThan(low ?? Number.NaN);
    expect(down).toBeLessThan(high ?? Number.NaN);
    expect(up).toBeGreaterThan(lowUp ?? Number.NaN);
    expect(up).toBeLessThan(highUp ?? Number.NaN);
  });
}
