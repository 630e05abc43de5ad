import type { Page } from "@playwright/test";
import { expect, test } from "../program";

/** Care for what was entered: outages, phones, keyboards, two pages at once. */
async function openKit(address: string, page: Page) {
  await page.goto(address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page
    .getByRole("navigation", { name: "Stages of the job" })
    .getByRole("link", { name: "Kit" })
    .click();
  await expect(page.getByRole("region", { name: "What it does here" })).toBeVisible();
}

test("killed while a kit is being changed, nothing typed and nothing saved is lost", async ({
  demo,
  page,
}) => {
  await openKit(demo.address, page);
  const details = page.getByRole("region", { name: "Name, dates and notes" });
  await details.getByLabel("Notes").fill("Ask the neighbour for the long ladder.");
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(page.getByText("The kit is saved.", { exact: true })).toBeVisible();
  await demo.stop("SIGKILL");
  await details.getByLabel("Name", { exact: true }).fill("Log-periodic, second thoughts");
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(
    page.getByText(/Is the program still running\? What you entered is kept here\./).first(),
  ).toBeVisible();
  await demo.start();
  await page.goto(`${demo.address}${new URL(page.url()).pathname}`);
  await expect(details.getByLabel("Notes")).toHaveValue("Ask the neighbour for the long ladder.");
  await expect(details.getByLabel("Name", { exact: true })).toHaveValue("Log-periodic, second thoughts");
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(page.getByRole("link", { name: /^Log-periodic, second thoughts/ })).toBeVisible();
});

test("a kit saved in one page shows in another", async ({ demo, page, context }) => {
  await openKit(demo.address, page);
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(second.getByRole("heading", { level: 1 })).toContainText("Log-periodic, thick cable");
  await page.getByRole("link", { name: /^Omni on the gable/ }).click();
  await page.getByRole("button", { name: "Archive this kit" }).click();
  await expect(second.getByRole("link", { name: /^Omni on the gable/ })).toHaveCount(0);
});

test("a part is changed from the keyboard alone", async ({ demo, page }) => {
  await openKit(demo.address, page);
  const band = page.getByRole("button", { name: "B3", exact: true });
  await band.focus();
  await page.keyboard.press("Enter");
  await expect(band).toHaveAttribute("aria-pressed", "true");
  const slider = page.getByLabel("Cable length");
  await slider.focus();
  for (let press = 0; press < 6; press++) await page.keyboard.press("ArrowRight");
  await expect(page.getByLabel("Length, m", { exact: true })).toHaveValue("12");
  await page.getByLabel("Gateway", { exact: true }).focus();
  await page.keyboard.type("Stue travel");
  await expect(page.getByText("SMA-male does not fit CRC9-female.", { exact: false })).toBeVisible();
});

test("on a phone a kit is mended and its job card read", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await openKit(demo.address, page);
  await page.getByRole("link", { name: /^Wide panel, thin cable/ }).click();
  await page.getByRole("button", { name: /^Put in: Adapter/ }).click();
  await expect(page.getByText(/SMA-male does not fit/)).toHaveCount(0);
  await page.getByRole("button", { name: "Save the kit" }).click();
  await page.getByRole("link", { name: "Job card" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("Job card: Wide panel");
  const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(over).toBeLessThanOrEqual(0);
});

test("a kit to be given back is remembered where tests are planned", async ({ demo, page }) => {
  await openKit(demo.address, page);
  const details = page.getByRole("region", { name: "Name, dates and notes" });
  const soon = new Date(Date.now() + 5 * 86_400_000).toISOString().slice(0, 10);
  await details.getByLabel("Can be given back until").fill(soon);
  await page.getByRole("button", { name: "Save the kit" }).click();
  await expect(page.getByText("The kit is saved.", { exact: true })).toBeVisible();
  const stages = page.getByRole("navigation", { name: "Stages of the job" });
  for (const stage of ["Mount", "Log"]) {
    await stages.getByRole("link", { name: stage }).click();
    await expect(
      page.getByText(/can be given back until .*(4|5|6) days from now: end its tests before\./),
    ).toBeVisible();
  }
});

test("a home that is rented is planned without a hole", async ({ demo, page }) => {
  await openKit(demo.address, page);
  const household = page.getByRole("region", { name: "The household and the site" });
  await household.getByLabel(/^Rented/).check();
  await household.getByRole("button", { name: "Save household and site" }).click();
  await expect(page.getByText(/holes to drill, in a home that must be given back/)).toBeVisible();
  const suggest = page.getByRole("region", { name: "Let the catalogue suggest one" });
  await suggest.getByRole("button", { name: "Suggest" }).click();
  await expect(suggest.getByText(/nothing drilled/)).toHaveCount(2);
});
