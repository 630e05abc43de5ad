import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, test } from "../program";

const open = async (address: string, page: Page) => {
  await page.goto(address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: /Baseline/ }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/outdoor antenna|radio could/);
};

test("the stage says whether an antenna is worth it, why, and what would change that", async ({
  demo,
  page,
}) => {
  await open(demo.address, page);
  await expect(page.getByText(/Yard table hears .* more than Kitchen sill/)).toBeVisible();
  await page.getByRole("link", { name: "See the readings" }).first().click();
  await expect(page).toHaveURL(/\/log\?.*setup=/);
  await page.goBack();
  const outlook = page.getByRole("region", { name: "What an outdoor antenna would do here" });
  const panel = outlook.getByRole("row", { name: /Wide panel/ });
  await expect(panel).toContainText(/\+\d+ to \+\d+/);
  const before = await panel.textContent();
  await outlook.getByText("What this assumes").click();
  await outlook.getByLabel("Cable and joints, dB").fill("9");
  await outlook.getByRole("button", { name: "Save the assumptions" }).click();
  await expect(panel).not.toHaveText(before ?? "");
  await outlook.getByLabel("Cable and joints, dB").fill("90");
  await outlook.getByRole("button", { name: "Save the assumptions" }).click();
  await expect(outlook.getByText(/Between 0 and 20/)).toBeVisible();
  await outlook.getByLabel("Cable and joints, dB").fill("thick");
  await outlook.getByLabel("Stock antennas, dBi").fill("");
  await outlook.getByRole("button", { name: "Save the assumptions" }).click();
  await expect(outlook.getByText(/Between 0 and 20/)).toHaveCount(1);
  await expect(outlook.getByText(/Between −10 and 15/)).toHaveCount(1);
  await outlook.getByLabel("Stock antennas, dBi").fill("1");
  await outlook.getByLabel("Cable and joints, dB").fill("3");
  await outlook.getByLabel("5G turns (TDD)").fill("DDXU");
  await outlook.getByRole("button", { name: "Save the assumptions" }).click();
  await expect(outlook.getByText(/one letter a slot, for instance DDDSU/)).toBeVisible();
  await expect(page.getByText("Bars are shown nowhere here.")).toBeVisible();
});

test("a spot and a carrier are explained one at a time, and stand in the address", async ({ demo, page }) => {
  await open(demo.address, page);
  await page.getByRole("button", { name: "Upstairs landing" }).click();
  await expect(page.getByRole("heading", { name: "What Upstairs landing is connected to" })).toBeVisible();
  await page.getByRole("tab", { name: "B20" }).click();
  await expect(page).toHaveURL(/carrier=lte-20/);
  const panel = page.getByRole("tabpanel");
  await expect(panel.getByText(/Signal power \(RSRP\) −\d+/)).toBeVisible();
  await expect(panel.getByText(/On an empty cell, .* down is possible/)).toBeVisible();
  await expect(panel.getByRole("img", { name: /of the symbols are taken for another/ })).toBeVisible();
  await panel.getByLabel(/Show it with 3/).check();
  await expect(page.getByText("Upstairs landing faces Skarvnut")).toBeVisible();
});

test("a pasted page is understood field by field, corrected, and kept with another operator", async ({
  demo,
  page,
}) => {
  await open(demo.address, page);
  await page.getByLabel("Another operator").fill("Tredje");
  await page.getByRole("button", { name: "Add its reading" }).click();
  const sheet = page.getByRole("dialog");
  await sheet
    .getByLabel("Paste the status page")
    .fill("Network type: LTE\nBand: B7\nEARFCN: 2850\nBandwidth: 20 MHz\nRSRP 101\nSINR: 8,5 dB\nMood: fine");
  await sheet.getByRole("button", { name: "Read it" }).click();
  await expect(sheet.getByText("Read as negative: the minus sign is missing.")).toBeVisible();
  await expect(sheet.getByText("Not understood: 1 part")).toBeVisible();
  await expect(sheet.getByLabel("Signal power (RSRP), dBm")).toHaveValue("−101");
  await sheet.getByLabel("Signal power (RSRP), dBm").fill("-99");
  const png = Buffer.from(
    "iVBORw0KGgoAAAANSUhEUgAAAAEAAAABCAYAAAAfFcSJAAAADUlEQVR4nGNgYGBgAAAABQABh6FO1AAAAABJRU5ErkJggg==",
    "base64",
  );
  await sheet
    .getByLabel(/Photo or screenshot/)
    .setInputFiles({ name: "page.png", mimeType: "image/png", buffer: png });
  const found = await new AxeBuilder({ page }).include("[role=dialog]").analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
  await sheet.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByRole("button", { name: "Tredje" }).click();
  await expect(page.getByRole("region", { name: "Spots" }).getByText(/RSRP −99/)).toBeVisible();
  // Another operator's run is kept with the setup and left out of the setup's own figures.
  await page.getByRole("region", { name: "Spots" }).getByRole("button", { name: "Kitchen sill" }).click();
  await expect(page).toHaveURL(/setup=/);
  await page.goto(page.url().replace("/baseline", "/log"));
  await page.getByRole("button", { name: /typed in, on Tredje/ }).click();
  await expect(page.getByRole("img", { name: "page.png" })).toBeVisible();
});

test("a page that says nothing is shown back whole", async ({ demo, page }) => {
  await open(demo.address, page);
  await page.getByRole("button", { name: "Paste or type a reading" }).click();
  await page.getByLabel("Paste the status page").fill("Please log in to continue.");
  await page.getByRole("button", { name: "Read it" }).click();
  await expect(page.getByText(/Nothing was understood/)).toBeVisible();
  await expect(page.getByRole("listitem").getByText("Please log in to continue.")).toBeVisible();
});

test("a speed-test address is checked before it is relied on", async ({ demo, page }) => {
  await open(demo.address, page);
  await page.getByRole("link", { name: "Settings" }).first().click();
  await page.getByRole("button", { name: "Check these addresses" }).click();
  await expect(page.getByText(/This address gives .* down and takes/)).toBeVisible({ timeout: 30_000 });
  await page.getByLabel("Download address", { exact: true }).fill("http://127.0.0.1:9/none");
  await page.getByRole("button", { name: "Check these addresses" }).click();
  await expect(page.getByText(/This address cannot be used: nothing answers/)).toBeVisible({
    timeout: 30_000,
  });
});
