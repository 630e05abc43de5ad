import { expect, test } from "../program";
const S = "/tmp/shots";
test("rehearse", async ({ page, program }) => {
  test.setTimeout(200_000);
  await page.goto(program.address);
  await page.evaluate(() =>
    fetch("/api/sites", {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify({ id: "0198f000-0000-7000-8000-000000000001", name: "Home", time_zone: "UTC" }),
    }),
  );
  await page.goto(program.address);
  await page.getByRole("button", { name: "Rehearse: One clean mast" }).click();
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  const next = page.getByRole("region", { name: "Next step" });
  const enough = next.getByRole("button", { name: "It is set and tight" });
  const point = next.getByRole("button", { name: "I am pointing there: measure" });
  for (let points = 0; points < 24; points += 1) {
    await expect(enough.or(point)).toBeVisible({ timeout: 40_000 });
    if (await enough.isVisible()) break;
    await next.getByRole("button", { name: "Turn the simulated antenna there" }).click();
    await page.waitForTimeout(250);
    await point.click();
    await page.waitForTimeout(800);
    await expect(enough.or(point)).toBeVisible({ timeout: 40_000 });
    console.log("[p]", points, (await next.textContent())?.slice(0, 200), await page.getByRole("region", { name: "Link strip" }).innerText());
  }
});
