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
  for (const view of ["baseline", "verdict", "bands", "log", "mount", "settings"]) {
    await page.goto(`${site}/${view}`);
    if (view === "bands") await page.getByRole("list", { name: "Choices tried" }).waitFor();
    if (view === "verdict") await page.getByRole("list", { name: "Chance of being the best" }).waitFor();
    await take(view);
  }
  await page.goto(`${site}/kit`);
  await page.getByRole("link", { name: /^Wide panel, thin cable/ }).click();
  await page.getByText(/does not fit/).waitFor();
  await take("kit");
  await page.getByRole("heading", { name: "What it does here" }).evaluate((at) => at.scrollIntoView());
  await take("kit-outlook");
  await page.goto(`${site}/catalogue`);
  await take("catalogue");
  await page.goto(`${site}/kit`);
  await page.getByRole("link", { name: "Job card" }).click();
  await page.getByRole("heading", { name: "Steps, in this order" }).waitFor();
  await page.screenshot({ path: join(folder, "job-card.png") });
  await page.goto(`${site}/survey`);
  await page.getByRole("heading", { name: /^Path:/ }).waitFor();
  await page.waitForTimeout(1500);
  await take("survey");
  await page.getByRole("button", { name: /^Draw the first/ }).click();
  await page.getByRole("heading", { name: /^Path:/ }).evaluate((at) => at.scrollIntoView());
  await take("survey-path");
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole("link", { name: "Aiming card" }).click();
  await page.getByText("On the compass").waitFor();
  await page.screenshot({ path: join(folder, "aiming-card.png") });
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${site}/aim`);
  await page.getByRole("img", { name: /^Strongest at/ }).waitFor();
  await page.waitForTimeout(1500);
  await take("aim");
  await page.goto(`${site}/baseline`);
  await page.getByRole("button", { name: "Paste or type a reading" }).click();
  await page
    .getByLabel("Paste the status page")
    .fill(
      "LTE\n  Band      B3\n  RSRP      97\n  SINR      8,5 dB\n5G NR\n  SS-RSRP   -88 dBm\n  SS-SINR   14.5 dB\n  Band      n78\nFirmware 7.1",
    );
  await page.getByRole("button", { name: "Read it" }).click();
  await page.getByText("Not understood: 1 part").waitFor();
  await take("paste");
  await page.keyboard.press("Escape");
  await page.goto(`${site}/log`);
  await page.getByRole("button", { name: "Type it in" }).click();
  await page.getByLabel("Signal power (RSRP), dBm").fill("97");
  await page.getByLabel("Signal-to-noise (SINR), dB").fill("60");
  await page.getByLabel("Download, Mbit/s").fill("42,5");
  await page.getByLabel("Upload, Mbit/s").focus();
  await page.getByText(/Values run from/).waitFor();
  await take("type-in");
  await page.keyboard.press("Escape");

  // On the roof: a sweep under way, on a phone.
  await page.goto(`${site}/aim`);
  await page.getByRole("button", { name: "Begin another sweep" }).click();
  await page.getByLabel("At", { exact: true }).selectOption({ label: "East gable" });
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  const next = page.getByRole("region", { name: "Next step" });
  await next.getByRole("button", { name: "Turn the simulated antenna there" }).click();
  await next.getByRole("button", { name: "I am pointing there: measure" }).click();
  await next.getByText(/Point 2 of 7/).waitFor({ timeout: 30_000 });
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole("link", { name: "Roof view" }).click();
  await page.getByText(/below the best|at the best so far/).waitFor();
  await page.waitForTimeout(1500);
  await page.screenshot({ path: join(folder, "roof-phone-sun.png") });
  await page.setViewportSize({ width: 1280, height: 800 });

  // A page in another layout, its map and its live answer.
  await page.goto(`${site}/settings`);
  await page
    .getByLabel("Address of its status page or modem")
    .fill(demo.addresses.status_url.replace("status.json", "other.json"));
  await page.getByRole("button", { name: "Save the addresses" }).click();
  await page.getByRole("link", { name: "Sign-in and fields" }).click();
  await page.getByRole("button", { name: "Test this gateway" }).click();
  await page.getByRole("button", { name: "Fill in what can be recognised" }).click();
  // That page shows SINR in tenths; band, RSRP and RSRQ stand before it.
  await page.getByLabel("Times").nth(3).fill("0.1");
  await page.getByRole("button", { name: "Save how it is read" }).click();
  await page.getByRole("heading", { name: "Fields" }).evaluate((at) => at.scrollIntoView());
  await page.getByRole("heading", { name: /Heard now/ }).waitFor();
  await page.waitForTimeout(13_000);
  await take("gateway");
  await page.setViewportSize({ width: 1280, height: 800 });
  await page.goto(`${site}/as-built`);
  await page
    .getByLabel("Cable route")
    .fill("Down the gable, drip loop, in by the attic hatch, to the kitchen shelf");
  await page
    .getByLabel("Joints")
    .fill("Two N joints at the antenna, self-amalgamating tape with vinyl tape over it");
  await page.getByRole("button", { name: "Draw up the sheet" }).click();
  await page.getByRole("article", { name: "As-built sheet" }).evaluate((at) => at.scrollIntoView());
  await page.screenshot({ path: join(folder, "as-built.png") });
});
