import type { Page } from "@playwright/test";
import { expect, test } from "../program";

const open = async (address: string, page: Page, stage: string) => {
  await page.goto(address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: stage }).first().click();
  await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
};

test("a spot in the house is described, checked, and shows up at the baseline", async ({ demo, page }) => {
  await open(demo.address, page, "Mount");
  await page.getByRole("link", { name: "Add a position" }).first().click();
  await page.getByLabel("Name").fill("Bedroom shelf");
  await page.getByLabel("Floor").fill("Upstairs");
  await page.getByLabel("Room").fill("bedroom");
  await page.getByLabel("Near which window").fill("the north window");
  await page.getByLabel("Facing, °").fill("400");
  await page.getByRole("button", { name: "Add the position" }).click();
  await expect(page.getByText(/Values run from 0 to 360/)).toBeVisible();
  await page.getByLabel("Facing, °").fill("12");
  await page.getByRole("button", { name: "Add the position" }).click();
  await expect(page.getByLabel("Positions and setups").getByText("Bedroom shelf")).toBeVisible();
  await expect(page).toHaveURL(/setup=/);
  // Typed in there, it joins the table of spots.
  await page.goto(page.url().replace("/mount", "/log"));
  await page.getByRole("button", { name: "Type it in" }).click();
  await page.getByLabel("Signal power (RSRP), dBm").fill("108");
  await page.getByLabel("Signal-to-noise (SINR), dB").fill("4,5");
  await page.getByLabel("Width, MHz").fill("10");
  await page.getByRole("dialog").getByLabel("Band").first().fill("B20");
  await page.getByRole("button", { name: "Save", exact: true }).click();
  await page.getByRole("link", { name: /Baseline/ }).click();
  const spots = page.getByRole("region", { name: "Spots" });
  await expect(spots.getByRole("button", { name: "Bedroom shelf" })).toBeVisible();
  await expect(spots.getByText("Upstairs, bedroom, by the north window")).toBeVisible();
  await expect(page.getByText(/Bedroom shelf faces away from Skarvnut: 131/)).toBeVisible();
});

test("the mast and the operator are set once and used everywhere", async ({ demo, page }) => {
  await open(demo.address, page, "Settings");
  await page.getByLabel("Operator in use").fill("Nordlig");
  await page.getByLabel("Direction from the house, °").fill("90");
  await page.getByLabel("Distance, m").fill("2400");
  await page.getByRole("button", { name: "Save the site" }).click();
  await expect(page.getByText("The site is saved.", { exact: true })).toBeVisible();
  await page.getByRole("link", { name: /Baseline/ }).click();
  await expect(page.getByRole("button", { name: "Nordlig" })).toBeVisible();
  await expect(page.getByRole("img", { name: /Skarvnut lies at 90°/ })).toBeVisible();
});

test("a distance that is no number is said beside its field", async ({ demo, page }) => {
  await open(demo.address, page, "Settings");
  await page.getByLabel("Distance, m").fill("far");
  await page.getByRole("button", { name: "Save the site" }).click();
  await expect(page.getByText("A number of metres, for instance 4700.")).toBeVisible();
});

test("a half-filled sheet survives a reload", async ({ demo, page }) => {
  await open(demo.address, page, "Log");
  await page.getByRole("button", { name: "Type it in" }).click();
  await page.getByLabel("Signal power (RSRP), dBm").fill("-93");
  await page.getByLabel("Download, Mbit/s").fill("41");
  await page.reload();
  await page.getByRole("button", { name: "Type it in" }).click();
  await expect(page.getByLabel("Signal power (RSRP), dBm")).toHaveValue("-93");
  await expect(page.getByLabel("Download, Mbit/s")).toHaveValue("41");
});

test("the phone shows the stage first and the positions on request", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await open(demo.address, page, "Baseline");
  const summary = page.getByText(/, change$/);
  await expect(page.getByRole("heading", { level: 1 })).toBeInViewport();
  await summary.click();
  await page.getByRole("button", { name: /138°/ }).first().click();
  await expect(page).toHaveURL(/setup=/);
});

test("every part of the baseline is reached by keyboard", async ({ demo, page }) => {
  await open(demo.address, page, "Baseline");
  await page.getByRole("button", { name: "Upstairs landing" }).focus();
  await page.keyboard.press("Enter");
  await expect(page.getByRole("heading", { name: "What Upstairs landing is connected to" })).toBeVisible();
  await page.getByRole("tab").first().focus();
  await page.keyboard.press("ArrowRight");
  await expect(page.getByRole("tab").nth(1)).toHaveAttribute("aria-selected", "true");
  await page.getByText("What this assumes").focus();
  await page.keyboard.press("Enter");
  await expect(page.getByLabel("Stock antennas, dBi")).toBeVisible();
});

test("a change in one tab shows in another", async ({ demo, page, context }) => {
  await open(demo.address, page, "Baseline");
  const other = await context.newPage();
  await open(demo.address, other, "Settings");
  await other.getByLabel("Operator in use").fill("Nordlig");
  await other.getByRole("button", { name: "Save the site" }).click();
  await expect(page.getByRole("button", { name: "Nordlig" })).toBeVisible();
});
