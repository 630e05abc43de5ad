import { test } from "../program";

test("look", async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  const site = page.url().replace(/\/log.*/, "");
  await page.goto(`${site}/bands`);
  await page.getByText(/measures anew about every/).waitFor({ timeout: 20_000 });
  await page.waitForTimeout(1500);
  await page.screenshot({ path: "/tmp/shots/1.png" });
  for (const [at, name] of [
    ["2", /^Bands here/],
    ["3", "Try by turns"],
  ] as const) {
    await page.getByRole("heading", { name }).evaluate((one) => one.scrollIntoView());
    await page.waitForTimeout(300);
    await page.screenshot({ path: `/tmp/shots/${at}.png` });
  }
  await page.goto(`${site}/undo`);
  await page.getByText("I have read this").waitFor();
  await page.screenshot({ path: "/tmp/shots/4.png" });
});
