import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
});

test("the link strip tells live, frozen, nonsense and silence apart", async ({ demo, page }) => {
  const strip = page.getByRole("region", { name: "Link strip" });
  await expect(strip.getByText(/Heard now/)).toBeVisible();
  const carrier = strip.getByRole("listitem").filter({ hasText: "B3" });
  await expect(carrier).toContainText("1.8");
  for (const word of ["RSRP", "SINR", "RSRQ", "PCI 211", "EARFCN 1300", "20"])
    await expect(carrier).toContainText(word);
  await expect(strip.getByText(/measures anew about every/)).toBeVisible();

  await demo.fault("login_page");
  await expect(strip.getByText(/Answering nonsense since/)).toBeVisible();
  await expect(strip.getByText(/Please sign in/)).toBeVisible();
  await demo.fault("wrong_type");
  await expect(strip.getByText(/\/rsrp holds "strong"/)).toBeVisible();
  await demo.fault("hung");
  await expect(strip.getByText(/Unreachable since/)).toBeVisible();
  await demo.fault("none");
  await expect(strip.getByText(/Heard now/)).toBeVisible({ timeout: 20_000 });
  await demo.fault("frozen");
  await expect(strip.getByText(/Stale: heard/)).toBeVisible({ timeout: 30_000 });
});

test("a recording takes ten independent samples, shows progress, and is kept", async ({ page }) => {
  await page.getByRole("button", { name: /^143/ }).click();
  await page.getByRole("button", { name: "Record 10 samples" }).click();
  await expect(page.getByText(/Sample \d+ of 10/)).toBeVisible();
  await expect(page.getByText(/Sample [5-9] of 10/)).toBeVisible({ timeout: 20_000 });
  const run = page.getByRole("region", { name: "Runs" }).getByRole("listitem").first();
  await expect(run).toContainText("10 samples", { timeout: 30_000 });
  await run.getByRole("button", { expanded: false }).click();
  await expect(run.getByText(/All 10 raw samples/)).toBeVisible();
  await expect(run.getByRole("row", { name: /n78.*trickle/ }).first()).toBeVisible();
});

test("a cancelled recording keeps what it took and is marked partial", async ({ page }) => {
  await page.getByRole("button", { name: "Record 10 samples" }).click();
  await expect(page.getByText(/Sample [3-9] of 10/)).toBeVisible({ timeout: 20_000 });
  await page.getByRole("button", { name: "Cancel, keep what was taken" }).click();
  const run = page.getByRole("region", { name: "Runs" }).getByRole("listitem").first();
  await expect(run).toContainText("partial");
  await run.getByRole("button", { expanded: false }).click();
  await expect(run.getByText(/It was cancelled. \d of 10 samples were taken/)).toBeVisible();
});

test("a speed test moves real bytes; a failure half-way keeps the rest", async ({ demo, page }) => {
  await page.getByRole("button", { name: "One speed test" }).click();
  await expect(page.getByText("Test 1 of 1: download")).toBeVisible({ timeout: 20_000 });
  await expect(page.getByText("Mbit/s now")).toBeVisible();
  const run = page.getByRole("region", { name: "Runs" }).getByRole("listitem").first();
  await expect(run).toContainText("1 speed test", { timeout: 40_000 });
  await run.getByRole("button", { expanded: false }).click();
  await expect(run.getByRole("table").first()).toContainText("MB");
  await run.getByText(/^How the test at .* went$/).click();
  await expect(run.getByRole("img", { name: /^Download of the test at/ })).toBeVisible();
  await expect(run.getByRole("img", { name: /^Upload of the test at/ })).toBeVisible();
  await expect(
    run.getByText(/^On the idle line a round trip takes .* While downloading a round trip takes/),
  ).toBeVisible();

  await demo.fault("no_upload");
  await page.getByRole("button", { name: "Three speed tests" }).click();
  await expect(page.getByText(/The last run stopped early. The upload broke off/)).toBeVisible({
    timeout: 60_000,
  });
  await expect(page.getByRole("region", { name: "Runs" }).getByRole("listitem").first()).toContainText(
    "partial",
  );
});

test("typing in forgives, stops beside the field, and keeps what is meant", async ({ page }) => {
  await page.getByRole("button", { name: /^140/ }).click();
  await page.getByRole("button", { name: "Type it in" }).click();
  const sheet = page.getByRole("dialog");
  await sheet.getByLabel("Band").fill("B3");
  await sheet.getByLabel("Signal power (RSRP), dBm").fill("97");
  await sheet.getByLabel("Signal-to-noise (SINR), dB").fill("60");
  await expect(sheet.getByText(/Read as −97\s?dBm: minus sign added/)).toBeVisible();
  await sheet.getByLabel("Download, Mbit/s").fill("42,5 Mbps");
  await sheet.getByRole("button", { name: "Save", exact: true }).click();
  await expect(sheet.getByText(/Values run from −23 to 40/)).toBeVisible();
  await expect(sheet.getByText("Some fields need a look; they are marked above.")).toBeVisible();
  // Nothing that was entered is lost to a reload.
  await page.reload();
  await page.getByRole("button", { name: "Type it in" }).click();
  await expect(sheet.getByLabel("Signal-to-noise (SINR), dB")).toHaveValue("60");
  await sheet.getByLabel("Keep as reported").check();
  await sheet.getByRole("button", { name: "Save", exact: true }).click();
  await expect(sheet).toHaveCount(0);
  const run = page.getByRole("region", { name: "Runs" }).getByRole("listitem").first();
  await expect(run).toContainText("1 sample, 1 speed test, typed in");
});

test("a run is left out of all figures and taken back", async ({ page }) => {
  await page.getByRole("button", { name: /^143/ }).click();
  const title = page.getByRole("heading", { level: 1 });
  // Nine of the log, and those of the band rounds that were tested with nothing locked.
  await expect(title).toContainText("25 tests in five sittings");
  await page.getByRole("button", { name: "Leave out" }).first().click();
  await expect(title).toContainText("23 tests");
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(title).toContainText("25 tests");
});
