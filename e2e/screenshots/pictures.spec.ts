import { join } from "node:path";
import { test } from "../program";

const folder = join(import.meta.dirname, "../../docs/screenshots");

test("pictures of the main views", async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  const site = page.url().replace(/\/log.*/, "");
  const take = async (name: string) => {
    await page.getByText(/measures anew about every/).waitFor({ timeout: 20_000 });
    await page.screenshot({ path: join(folder, `${name}.png`) });
  };
  for (const view of ["verdict", "log", "mount", "settings"]) {
    await page.goto(`${site}/${view}`);
    await take(view);
  }
  await page.goto(`${site}/log`);
  await page.getByRole("button", { name: "Type it in" }).click();
  await page.getByLabel("Signal power (RSRP), dBm").fill("97");
  await page.getByLabel("Clean signal (SINR), dB").fill("60");
  await page.getByLabel("Download, Mbit/s").fill("42,5");
  await page.getByLabel("Upload, Mbit/s").focus();
  await page.getByText(/Values run from/).waitFor();
  await take("type-in");
  await page.keyboard.press("Escape");
  await page.getByRole("button", { name: "Record 10 samples" }).click();
  await page.getByText(/Sample [4-9] of 10/).waitFor({ timeout: 20_000 });
  await take("recording");

  await page.evaluate(() => localStorage.setItem("theme", "dark"));
  await page.goto(`${site}/verdict`);
  await take("verdict-attic");
  await page.evaluate(() => localStorage.setItem("theme", "sun"));
  await page.setViewportSize({ width: 390, height: 844 });
  await page.goto(`${site}/log`);
  await take("log-phone-sun");
});
