import { readFileSync } from "node:fs";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: "Kit" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Log-periodic, thick cable. Expect");
});

const region = (page: Page, name: string) => page.getByRole("region", { name, exact: true });

test("a plug that does not fit is named at its joint, mended in one press, and kept", async ({ page }) => {
  await page.getByRole("link", { name: /^Wide panel, thin cable/ }).click();
  await expect(page.getByText("One thing must be fixed before it works.")).toBeVisible();
  const chain = region(page, "From the antenna to the gateway");
  await expect(chain.getByText(/SMA-male does not fit N-male. Add SMA-female to N-female/)).toBeVisible();
  await chain.getByRole("button", { name: /^Put in: Adapter/ }).click();
  await expect(chain.getByText(/does not fit/)).toHaveCount(0);
  // The slider answers at once: more cable, more loss, less speed.
  const loss = chain.getByText(/feed line [\d.]+ dB/);
  const before = Number(/feed line ([\d.]+)/.exec((await loss.textContent()) ?? "")?.[1]);
  await chain.getByLabel("Cable length").fill("30");
  await expect(async () => {
    const after = Number(/feed line ([\d.]+)/.exec((await loss.textContent()) ?? "")?.[1]);
    expect(after).toBeGreaterThan(before + 5);
  }).toPass();
  await expect(chain.getByText(/the feed line takes/)).toBeVisible();
  // What is not saved yet outlives a reload.
  await page.reload();
  await expect(chain.getByLabel("Length, m", { exact: true })).toHaveValue("30");
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(page.getByText("The kit is saved.", { exact: true })).toBeVisible();
  await expect(page.getByRole("button", { name: "Save the kit" })).toHaveCount(0);
  await expect(page.getByText("One thing must be fixed before it works.")).toHaveCount(0);
});

test("a length that cannot be is refused beside its field and stays as typed", async ({ page }) => {
  const chain = region(page, "From the antenna to the gateway");
  await chain.getByLabel("Length, m", { exact: true }).fill("950");
  await expect(chain.getByText(/Between 0 and 200/)).toBeVisible();
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(page.getByText(/Between 0 and 200/).first()).toBeVisible();
  await expect(chain.getByLabel("Length, m", { exact: true })).toHaveValue("950");
});

test("a kit is composed from nothing to a working one", async ({ page }) => {
  await page.getByRole("button", { name: "Compose a new one" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("New kit.");
  const chain = region(page, "From the antenna to the gateway");
  await expect(chain.getByText("Choose a gateway: it decides bands, ports and streams.")).toBeVisible();
  await chain.getByLabel("Gateway").selectOption({ label: "Utvei 5 outdoor unit, 5G" });
  await expect(
    region(page, "What to fix, and what to know").getByText(/needs an Ethernet cable/),
  ).toBeVisible();
  const where = region(page, "Where it goes");
  await where.getByLabel("Ethernet cable").selectOption({ label: "Outdoor Ethernet cable, 24 AWG copper" });
  await where.getByLabel("Power injector").selectOption({ label: "Injector, passive 48 V, 24 W" });
  await expect(page.getByText(/never mix them/)).toBeVisible();
  await where.getByLabel("Power injector").selectOption({ label: "Injector, standard 54 V, 30 W" });
  await expect(page.getByText(/never mix them/)).toHaveCount(0);
  await expect(page.getByText(/arrive at the unit/)).toBeVisible();
  await expect(region(page, "What it does here").getByText("Expected together")).toBeVisible();
});

test("a suggestion says why the others lost, and is kept as a kit", async ({ page }) => {
  const suggest = region(page, "Let the catalogue suggest one");
  await suggest.getByLabel(/Maximum price/).fill("minus");
  await suggest.getByRole("button", { name: "Suggest" }).click();
  await expect(suggest.getByText(/Between 1 and 1000000/)).toBeVisible();
  await suggest.getByLabel(/Maximum price/).fill("400");
  await suggest.getByRole("button", { name: "Suggest" }).click();
  await expect(suggest.getByText(/kits were weighed/)).toBeVisible();
  const losers = suggest.getByRole("region", { name: "Kits that were not suggested" });
  await suggest.getByRole("button", { name: /^All \d+/ }).click();
  await expect(losers.getByText(/over the price/).first()).toBeVisible();
  await suggest.getByRole("button", { name: "Keep this as a kit" }).last().click();
  await expect(page.getByRole("navigation", { name: "Kits" }).getByRole("link")).toHaveCount(5);
});

test("more of the household's uses raise the need", async ({ page }) => {
  const household = region(page, "The household and the site");
  await household.getByLabel("UHD streams: how many").fill("3");
  await household.getByLabel("Bands on offer that were not heard").fill("B99x");
  await household.getByRole("button", { name: "Save household and site" }).click();
  await expect(household.getByText(/a band and its width in MHz/)).toBeVisible();
  await household.getByLabel("Bands on offer that were not heard").fill("B7 20");
  await household.getByRole("button", { name: "Save household and site" }).click();
  await expect(page.getByText("The household and the site are saved.", { exact: true })).toBeVisible();
  const outlook = region(page, "What it does here");
  await expect(outlook.getByRole("row", { name: /The household needs/ })).toContainText("110");
  await expect(outlook.getByRole("row", { name: /B7/ })).toContainText("by the path model");
});

test("ways to plug the leads are queued for the Log", async ({ page }) => {
  const ports = region(page, "Which lead goes to which port");
  await expect(ports.getByRole("img", { name: "lead 1 to port 1, lead 2 to port 2" })).toBeVisible();
  await ports.getByRole("combobox", { name: /Lead 1/ }).selectOption("3");
  await expect(region(page, "From the antenna to the gateway").getByText(/one crossed pair/)).toBeVisible();
  await expect(ports.getByRole("button", { name: "Queue them for the Log" })).toBeDisabled();
  await page.getByRole("button", { name: "Back to what was saved" }).click();
  await ports.getByRole("button", { name: "Queue them for the Log" }).click();
  await expect(
    page.getByText("3 setups wait in the Log, one for each way to plug.", { exact: true }),
  ).toBeVisible();
  const list = page.getByLabel("Positions and setups");
  await expect(list.getByRole("button", { name: /leads 1→2 2→1.*nothing recorded/ })).toBeVisible();
});

test("the catalogue takes own prices and models, and gives them back", async ({ page }) => {
  await page.getByRole("link", { name: "Catalogue and prices" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("as it came");
  await page.getByRole("button", { name: "Copy Spyd high-gain panel, 2 leads" }).click();
  const sheet = page.getByRole("dialog");
  await sheet.getByLabel("Gain by frequency").fill("1700:45 3800:60");
  await sheet.getByRole("button", { name: "Save the part" }).click();
  await expect(sheet.getByText(/A beam of that width has at most/).first()).toBeVisible();
  await sheet.getByLabel("Gain by frequency").fill("1700:14 3800:16,5");
  await sheet.getByRole("button", { name: "Save the part" }).click();
  await expect(sheet.getByText(/a frequency in MHz and a gain in dBi/)).toBeVisible();
  await sheet.getByLabel("Gain by frequency").fill("1700:14 3800:16.5");
  await sheet.getByLabel("Measured pattern in azimuth, CSV").setInputFiles({
    name: "pattern.csv",
    mimeType: "text/csv",
    buffer: Buffer.from(
      [...Array(36).keys()].map((step) => `${step * 10},${-Math.min(step, 36 - step)}`).join("\n"),
    ),
  });
  await expect(sheet.getByText(/36 points are kept/)).toBeVisible();
  await sheet.getByLabel("In your own stock, pieces").fill("4");
  await sheet.getByRole("button", { name: "Save the part" }).click();
  await expect(
    page.getByText("Spyd high-gain panel, 2 leads, own is in the catalogue.", { exact: true }),
  ).toBeVisible();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("1 part of your own");
  const download = page.waitForEvent("download");
  await page.getByRole("link", { name: "Export your own" }).click();
  const file = await (await download).path();
  expect(JSON.parse(readFileSync(file, "utf8")).parts).toHaveLength(1);
  await page.getByRole("button", { name: "Archive Spyd high-gain panel, 2 leads, own" }).click();
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(
    page.getByRole("button", { name: "Archive Spyd high-gain panel, 2 leads, own" }),
  ).toBeVisible();
  await page.getByLabel("Import").setInputFiles(file);
  await expect(page.getByText(/has 0 new parts, changes 0 and repeats 1/)).toBeVisible();
  // A built-in part takes the user's changes, and gives them up again.
  await page.getByRole("button", { name: "Change Utvei 5 outdoor unit, 5G" }).click();
  await sheet.getByLabel("Metrics its pages show").fill("bars");
  await sheet.getByRole("button", { name: "Save the part" }).click();
  await expect(sheet.getByText(/of RSRP, RSRQ, SINR and RSSI, for instance/)).toBeVisible();
  await sheet.getByLabel("Metrics its pages show").fill("rsrp");
  await sheet.getByLabel("Least voltage at the unit, V").fill("40");
  await sheet.getByRole("button", { name: "Save the part" }).click();
  await page.getByRole("button", { name: "Reset Utvei 5 outdoor unit, 5G" }).click();
  await expect(page.getByRole("button", { name: "Reset Utvei 5 outdoor unit, 5G" })).toHaveCount(0);
});

test("the job card has parts, steps and only the cautions that apply", async ({ page }) => {
  await page.getByRole("link", { name: "Job card" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Job card: Log-periodic, thick cable");
  const cautions = region(page, "Cautions");
  await expect(cautions.getByText(/^Overhead lines: look for them/)).toBeVisible();
  await expect(cautions.getByText(/^Lightning/)).toBeVisible();
  await expect(cautions.getByText(/^Attic/)).toHaveCount(0);
  await expect(cautions.getByText(/^Opening the gateway/)).toHaveCount(0);
  await expect(region(page, "Parts").getByRole("row", { name: /2 × 400-class line/ })).toContainText("9.0");
  await expect(region(page, "Steps").getByText(/lead 1 to port 1, lead 2 to port 2/)).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(
    found.violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target).join(" | ")}`),
  ).toEqual([]);
});

test("kits are archived with a way back, and compared side by side", async ({ page }) => {
  const compare = region(page, "Comparison of kits");
  await expect(compare.getByRole("columnheader", { name: "Outdoor unit" })).toBeVisible();
  await expect(compare.getByRole("row", { name: /Net gain on n78/ })).toContainText("best, and it decides");
  await page.getByRole("button", { name: "Archive this kit" }).click();
  await expect(compare.getByRole("columnheader", { name: "Log-periodic, thick cable" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(compare.getByRole("columnheader", { name: "Log-periodic, thick cable" })).toBeVisible();
});
