import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { changeSettings, expect, type Program, SHORT_TESTS, test } from "../program";

/** The Bands stage of the demo site, with short speed tests. */
async function open(demo: Program, page: Page): Promise<string> {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page
    .getByRole("navigation", { name: "Stages of the job" })
    .getByRole("link", { name: "Bands" })
    .click();
  const id = /sites\/([0-9a-f-]+)/.exec(page.url())?.[1] ?? "";
  await changeSettings(page, id, SHORT_TESTS);
  await page.reload();
  return id;
}

const lock = async (demo: Program) => await (await fetch(`${demo.addresses.control_url}/lock`)).json();
const free = { way: "any", lte: [], nr: [] };

/** Ticks one choice and no other. */
async function only(page: Page, wanted: RegExp): Promise<void> {
  const list = page.getByRole("list", { name: "Choices to try" });
  // Its boxes are counted at once: the page must be there.
  await expect(list).toBeVisible();
  for (const box of await list.getByRole("checkbox").all()) {
    if ((await box.isEnabled()) && (await box.isChecked())) await box.uncheck();
  }
  await list.getByRole("listitem").filter({ hasText: wanted }).getByRole("checkbox").check();
}

async function readUndo(page: Page): Promise<void> {
  await page.getByRole("link", { name: "First: how to undo a lock" }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("How to undo a band lock");
  await expect(page.getByText(/pull the gateway's power plug/)).toBeVisible();
  await page.getByRole("button", { name: "I have read this" }).click();
}

/** Begins trials of one choice, and waits until the gateway was told it. */
async function underLock(demo: Program, page: Page): Promise<void> {
  await open(demo, page);
  await readUndo(page);
  await only(page, /^SA, n78/);
  await page.getByRole("button", { name: "Begin the trials" }).click();
  await expect.poll(() => lock(demo), { timeout: 120_000 }).toEqual({ way: "sa", lte: [], nr: [78] });
}

const running = (page: Page) => page.getByRole("region", { name: "Trials going on" });

test("trials show what was obtained, by hour and for each need", async ({ demo, page }) => {
  await open(demo, page);
  await expect(page.getByRole("heading", { level: 1 })).toContainText(/household's needs/);
  const rows = page.getByRole("list", { name: "Choices tried" }).locator(":scope > li");
  await expect(rows).toHaveCount(5);
  const sa = rows.filter({ hasText: /^SA/ });
  await expect(sa).toContainText(/n78 90 MHz: −\d+ dBm, [\d.]+ dB/);
  await expect(sa.getByRole("img", { name: /^10 tests, median/ })).toBeVisible();
  await page.getByLabel("Tests made").selectOption({ label: "12 to 15 o'clock" });
  await expect(page).toHaveURL(/part=12-15/);
  await expect(sa.getByRole("img", { name: /^6 tests, median/ })).toBeVisible();
  await page.getByRole("radio", { name: "Upload" }).click();
  const best = page.getByRole("region", { name: "Best for what" });
  await expect(best.getByText("upload", { exact: true })).toBeVisible();
  await expect(best.getByText("18 to 21 o'clock")).toBeVisible();
  await expect(
    page.getByRole("img", { name: /^Bands\. B20 .*n28 .*shares spectrum with B20/ }),
  ).toBeVisible();
  await page.getByText("Band by band: mast, gateway").click();
  await page.getByLabel(/^Combinations the gateway aggregates/).fill("B3+n78, B20");
  await page.keyboard.press("Tab");
  await expect(page.getByText(/bands joined by \+, for instance B3\+B20/)).toBeVisible();
  await page.getByLabel(/^Combinations the gateway aggregates/).fill("B3+n78 B20+n28");
  await page.keyboard.press("Tab");
  // Stored, it is shown as it is understood.
  await expect(page.getByLabel(/^Combinations the gateway aggregates/)).toHaveValue("B3+n78, B20+n28");
  await page.reload();
  await page.getByText("Band by band: mast, gateway").click();
  await expect(page.getByLabel(/^Combinations the gateway aggregates/)).toHaveValue("B3+n78, B20+n28");
  await page.getByText("Why may SA ping better than NSA?").click();
  await expect(page.getByText(/SA \d+\sms idle, NSA \d+\sms/)).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
});

test("a lock is tried after the undo page, goes back, and the winner is kept", async ({ demo, page }) => {
  test.setTimeout(480_000);
  await open(demo, page);
  await only(page, /^LTE only, B20/);
  await readUndo(page);
  await only(page, /^LTE only, B20/);
  await page.getByRole("button", { name: "Begin the trials" }).click();
  await expect(running(page)).toContainText("Nothing locked");
  await expect(running(page)).toContainText("LTE only, B20", { timeout: 120_000 });
  await expect.poll(() => lock(demo), { timeout: 60_000 }).toEqual({ way: "lte", lte: [20], nr: [] });
  await page.reload();
  await expect(running(page)).toBeVisible();
  await expect(running(page)).toBeHidden({ timeout: 240_000 });
  expect(await lock(demo)).toEqual(free);
  await expect(page.getByRole("region", { name: "Rounds of trials" })).toContainText("The winner is clear");
  const rows = page.getByRole("list", { name: "Choices tried" }).locator(":scope > li");
  await expect(rows.filter({ hasText: "LTE only, B20" })).toContainText(/Dropped: \d+\s% of the best/);
  // One carrier was obtained, as asked.
  await expect(rows.filter({ hasText: "LTE only, B20" })).toContainText(/B20 10 MHz: −\d+ dBm/);
  await page.getByLabel("Tests made").selectOption({ label: "at any hour" });
  await page.getByLabel("Optimise for").selectOption({ label: "Latency under load" });
  // The press goes to the choice that is best for what is asked now.
  await expect(page.getByRole("heading", { level: 1 })).toContainText("latency under load");
  const keep = page.getByRole("button", { name: "Keep this" });
  await expect(keep).toBeVisible();
  await keep.click();
  await expect(page.getByText("This is how it is now.")).toBeVisible({ timeout: 120_000 });
  expect(await lock(demo)).not.toEqual(free);
  await page.getByRole("button", { name: "Take every lock away" }).click();
  await expect(page.getByText("No lock is kept")).toBeVisible({ timeout: 120_000 });
  expect(await lock(demo)).toEqual(free);
});

test("a gateway that only says it went back is not believed", async ({ demo, page }) => {
  test.setTimeout(480_000);
  await underLock(demo, page);
  await demo.fault("ignores_locks");
  await page.getByRole("button", { name: "Cancel, and go back" }).click();
  const alert = page.getByRole("alert", { name: "Not back yet" });
  await expect(alert).toContainText("it took the order and still uses only what the lock allows", {
    timeout: 180_000,
  });
  await expect(alert).toContainText("By hand, on the gateway's own page");
  await alert.getByRole("button", { name: "I have put it back by hand" }).click();
  await expect(alert).toBeHidden({ timeout: 30_000 });
  await expect(running(page)).toBeHidden({ timeout: 30_000 });
});

test("a killed program puts the gateway back first thing", async ({ demo, page }) => {
  test.setTimeout(480_000);
  await underLock(demo, page);
  await demo.stop("SIGKILL");
  expect(await lock(demo)).toEqual({ way: "sa", lte: [], nr: [78] });
  await demo.start();
  await expect.poll(() => lock(demo), { timeout: 60_000 }).toEqual(free);
  await page.reload();
  const rounds = page.getByRole("region", { name: "Rounds of trials" });
  await expect(rounds).toContainText("The program ended meanwhile; the gateway was put back");
  // What was measured before is kept.
  await expect(rounds.getByRole("listitem").first()).toContainText(/[2-9] tests/);
});

test("a cap and a second browser are met with the figure", async ({ demo, page, context }) => {
  test.setTimeout(480_000);
  await open(demo, page);
  await readUndo(page);
  await page.getByLabel("Data these trials may use, MB").fill("20");
  await page.keyboard.press("Tab");
  await expect(page.getByText(/more than your cap of 20\sMB/)).toBeVisible();
  await expect(page.getByRole("button", { name: "Begin, and stop at the cap" })).toBeVisible();
  await page.getByLabel("Data these trials may use, MB").fill("");
  await page.keyboard.press("Tab");
  const begin = page.getByRole("button", { name: "Begin the trials" });
  await expect(begin).toBeEnabled();
  const other = await context.newPage();
  await other.goto(page.url());
  await expect(other.getByRole("button", { name: "Begin the trials" })).toBeEnabled();
  // The second browser has not heard of the first one's press yet.
  await other.route("**/bands?**", (route) => route.abort());
  await other.route("**/bands", (route) => route.abort());
  await begin.click();
  await expect(running(page)).toBeVisible();
  await other.getByRole("button", { name: "Begin the trials" }).click();
  // The answer to the press; the link strip says the same of what is going on.
  await expect(other.getByRole("alert").getByText(/perhaps from another browser/)).toBeVisible();
  await page.getByRole("button", { name: "Cancel, and go back" }).click();
  await expect(running(page)).toBeHidden({ timeout: 120_000 });
  expect(await lock(demo)).toEqual(free);
});

test("by hand and on a phone, each trial is a card with its masks", async ({ demo, page }) => {
  test.setTimeout(480_000);
  await page.setViewportSize({ width: 390, height: 844 });
  await open(demo, page);
  await readUndo(page);
  await page.getByLabel("I set the locks by hand").check();
  await only(page, /^LTE only, B20/);
  await expect(page.getByText("524288")).toBeVisible();
  await page.getByRole("button", { name: "Begin the trials" }).click();
  await expect(running(page)).toContainText("set the network mode to LTE only (4G only)", {
    timeout: 60_000,
  });
  await expect(running(page)).toContainText("0x80000");
  expect(await lock(demo)).toEqual(free);
  const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(over).toBeLessThanOrEqual(0);
  await page.getByRole("button", { name: "Cancel, and go back" }).click();
  const notBack = page.getByRole("alert", { name: "Not back yet" });
  await expect(notBack).toBeVisible({ timeout: 20_000 });
  await notBack.getByRole("button", { name: "I have put it back by hand" }).click();
  await expect(notBack).toBeHidden();
});

test("how a gateway is locked is written down, and nothing that writes an identity", async ({
  demo,
  page,
}) => {
  const id = await open(demo, page);
  await page.goto(`${demo.address}/sites/${id}/gateway`);
  const lockPart = page.getByRole("region", { name: "Locking bands" });
  await expect(lockPart.getByLabel("Path that sets a lock")).toHaveValue("/lock");
  await lockPart.getByLabel("Path that sets a lock").fill("lock me");
  await page.getByRole("button", { name: "Save how it is read" }).click();
  await expect(lockPart.getByText("A path on the gateway itself, for instance /lock.")).toBeVisible();
  // Typed back to what is stored there is nothing to save, and nothing is wrong.
  await lockPart.getByLabel("Path that sets a lock").fill("/lock");
  await expect(page.getByRole("button", { name: "Save how it is read" })).toBeDisabled();
  await expect(lockPart.getByText("A path on the gateway itself, for instance /lock.")).toBeHidden();
  await lockPart.getByLabel("Path that sets a lock").fill("/lock/set");
  await page.getByRole("button", { name: "Save how it is read" }).click();
  await expect(page.getByText("How this gateway is read is saved.", { exact: true })).toBeVisible();
});
