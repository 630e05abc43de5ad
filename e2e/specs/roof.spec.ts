import { join } from "node:path";
import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, openDemo, type Program, test } from "../program";

test("another kind of page is pointed at field by field, saved, and read from then on", async ({
  page,
  demo,
}) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/settings`);
  const address = page.getByLabel("Address of its status page or modem");
  await address.fill(demo.addresses.status_url.replace("status.json", "other.json"));
  await page.getByRole("button", { name: "Test this gateway" }).click();
  await expect(page.getByText("There is no list of carriers at /radio/carriers.")).toBeVisible();
  await page.getByRole("button", { name: "Save the addresses" }).click();
  await page.getByRole("link", { name: "Sign-in and fields" }).click();
  await page.getByRole("button", { name: "Test this gateway" }).click();
  await page.getByRole("button", { name: "Begin an empty map" }).click();
  await page.getByRole("button", { name: "Point at Stand at" }).click();
  await page.getByRole("button", { name: "Point at /wwan/lte", exact: true }).click();
  const add = page.getByLabel("Add a field");
  await add.selectOption({ label: "Technology (LTE or NR)" });
  await page.getByLabel("Which").selectOption({ label: "always LTE" });
  await add.selectOption({ label: "Signal (RSRP), dBm" });
  await page.getByRole("button", { name: "Point at /wwan/lte/rsrp" }).click();
  await add.selectOption({ label: "Signal-to-noise (SINR), dB" });
  await page.getByRole("button", { name: "Point at /wwan/lte/sinr" }).click();
  await page.getByLabel("Times").last().fill("0.1");
  await page.getByRole("button", { name: "Test this gateway" }).click();
  await expect(page.getByText("It works.")).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
  await page.getByRole("button", { name: "Save how it is read" }).click();
  const strip = page.getByRole("region", { name: "Link strip" });
  await expect(strip.getByText("LTE only, one carrier")).toBeVisible();
  await expect(strip.getByRole("heading", { name: /Heard now/ })).toBeVisible();

  // As a file, and back.
  const [file] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("button", { name: "Save as a file" }).click(),
  ]);
  await page.getByRole("button", { name: "Back to the plain page" }).click();
  await page.getByLabel("Take one from a file").setInputFiles(await file.path());
  await expect(page.getByLabel("Signal (RSRP), dBm", { exact: true })).toHaveValue("/rsrp");
});

test("a gateway behind a form is signed in to, and two wrong passwords are the last", async ({
  page,
  demo,
}) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/settings`);
  const address = page.getByLabel("Address of its status page or modem");
  await address.fill(demo.addresses.status_url.replace("status.json", "door/status.json"));
  await page.getByRole("button", { name: "Save the addresses" }).click();
  await page.getByRole("link", { name: "Sign-in and fields" }).click();
  await page
    .getByLabel("Does it want to be signed in to?")
    .selectOption({ label: "A form with name and password" });
  await page.getByLabel("Form is sent to").fill("/door/login");
  await page.getByLabel("Name", { exact: true }).fill("keeper");
  await page.getByLabel("Password").fill("wrong");
  await page.getByRole("button", { name: "Keep name and password" }).click();
  const test = page.getByRole("button", { name: "Test this gateway" });
  for (const words of [
    "It refused the login (status 401).",
    "It refused the login (status 401).",
    "Two logins failed; no further one is tried",
  ]) {
    // The second answer has the words of the first: without waiting for it the third press would come too early.
    const answered = page.waitForResponse((one) => one.request().method() === "POST");
    await test.click();
    await answered;
    await expect(test).toBeEnabled();
    await expect(page.getByRole("region", { name: "Try it" }).getByText(words)).toBeVisible();
  }
  await page.reload();
  await expect(page.getByText("Two logins failed. No further one is tried")).toBeVisible();
  await page.getByLabel("Password").fill("lantern & oil");
  await page.getByRole("button", { name: "Keep name and password" }).click();
  await test.click();
  await expect(page.getByText("It works.")).toBeVisible();
});

/** Begins a sweep at the demo site and opens its page for the roof. */
async function roof(page: Page, demo: Program): Promise<void> {
  await page.setViewportSize({ width: 390, height: 844 });
  const base = await openDemo(page, demo);
  await page.goto(`${base}/aim`);
  await page.getByRole("button", { name: "Begin another sweep" }).click();
  await page.getByLabel("At", { exact: true }).selectOption({ label: "East gable" });
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  await page.getByRole("link", { name: "Roof view" }).click();
  await expect(page.getByText("Point 1 of 7: turn to 75° T and hold still.")).toBeVisible();
}

test("through fifty dropped connections everything arrives once and in order", async ({ page, demo }) => {
  test.setTimeout(480_000);
  await roof(page, demo);
  expect(await page.evaluate(() => document.documentElement.scrollWidth - innerWidth)).toBeLessThanOrEqual(0);
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
  // Numbers that look random and are the same in every run.
  let state = 7;
  const dice = () => {
    state = (state * 1103515245 + 12345) % 2147483648;
    return state / 2147483648;
  };
  let dropped = 0;
  // Dropped before the request reaches the server, or after it has done its work: the phone cannot know which.
  await page.route("**/notes", async (route) => {
    if (dropped < 50 && dice() < 0.75) {
      dropped += 1;
      if (dice() < 0.5) return route.abort("connectionreset");
      await route.fetch();
      return route.abort("connectionreset");
    }
    await route.continue();
  });
  const notes = Array.from({ length: 20 }, (_, index) => `note ${String(index).padStart(2, "0")}`);
  const waits = page.getByRole("region", { name: "Waiting on this device" });
  for (const [index, note] of notes.entries()) {
    await page.getByLabel("Note from the roof").fill(note);
    await page.getByRole("button", { name: "Save", exact: true }).click();
    await expect(page.getByLabel("Note from the roof")).toHaveValue("");
    if (index === 8) await page.reload();
  }
  await expect(async () => {
    if (await waits.isVisible()) {
      if (!(await waits.getByRole("button", { name: "Try to send now" }).isVisible()))
        await waits.locator("summary").click();
      for (let press = 0; press < 10 && (await waits.isVisible()); press += 1)
        await waits.getByRole("button", { name: "Try to send now" }).click({ timeout: 1000 });
    }
    await expect(waits).not.toBeVisible({ timeout: 300 });
  }).toPass({ timeout: 150_000 });
  expect(dropped).toBe(50);
  await page.reload();
  const kept = page.getByRole("region", { name: "Notes" }).getByRole("listitem");
  await expect(kept).toHaveCount(notes.length);
  const texts = (await kept.allTextContents()).map((text) => /note \d\d/.exec(text)?.[0]);
  expect(texts).toEqual(notes);
});

test("a point pressed while the computer is out of reach waits, survives a reload, and is measured from what was heard", async ({
  page,
  demo,
}) => {
  test.setTimeout(480_000);
  await roof(page, demo);
  await page.route("**/api/**", (route) => route.abort("connectionrefused"));
  await page.getByRole("button", { name: "I am pointing there: measure" }).click();
  const waits = page.getByRole("region", { name: "Waiting on this device" });
  await expect(waits).toContainText("1 thing waits on this device");
  await expect(page.getByText(/Hold still at 75°.T: \d+.s/)).toBeVisible();
  await expect(page.getByText("Meanwhile, the next of the plan:")).toBeVisible();
  await page.waitForTimeout(8000);
  // Reloaded with no server: the last look and what waits are there.
  await page.reload();
  await expect(waits).toContainText("1 thing waits");
  await expect(page.getByText(/Worked out .* ago/)).toBeVisible();
  await page.unroute("**/api/**");
  await expect(waits).not.toBeVisible({ timeout: 30_000 });
  await page.getByRole("link", { name: "All of Aim" }).click();
  const row = page.getByRole("region", { name: "Points" }).getByRole("row", { name: /^75°/ });
  await expect(row).toHaveCount(1);
  await expect(row.getByRole("cell").nth(1)).toHaveText(/^−\d+$/);
});

test.describe("opened where there is no network", () => {
  test.use({ serviceWorkers: "allow" });
  test("the page for the roof opens with its last fit", async ({ page, demo, context }) => {
    await roof(page, demo);
    await page.evaluate(async () => {
      await navigator.serviceWorker.ready;
    });
    await expect
      .poll(() =>
        page.evaluate(
          async () => (await caches.keys()).length + (navigator.serviceWorker.controller ? 10 : 0),
        ),
      )
      .toBeGreaterThanOrEqual(11);
    await demo.stop("SIGKILL");
    await context.setOffline(true);
    await page.reload();
    await expect(page.getByRole("heading", { name: "Hulderbekk croft" })).toBeVisible();
    await expect(page.getByText("Open Beacon does not answer")).toBeVisible();
    await page.getByLabel("Note from the roof").fill("written with no network");
    await page.getByRole("button", { name: "Save", exact: true }).click();
    const photo = join(import.meta.dirname, "../../web/public/icons/192.png");
    await page.getByLabel("Keep a photograph").setInputFiles(photo);
    await expect(page.getByText("2 things wait on this device")).toBeVisible();
    await context.setOffline(false);
    await demo.start();
    await expect(
      page.getByRole("region", { name: "Notes" }).getByText("written with no network"),
    ).toBeVisible({
      timeout: 30_000,
    });
    const kept = page.getByRole("img", { name: /^192\.png, / });
    await expect(kept).toBeVisible();
    expect(await kept.evaluate((one: HTMLImageElement) => one.decode().then(() => one.naturalWidth))).toBe(
      192,
    );
  });
});

test("a rehearsal is swept to its end and scored", async ({ page, program }) => {
  test.setTimeout(480_000);
  await page.goto(program.address);
  await page.getByRole("button", { name: "Rehearse: One clean mast" }).click();
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  await expect(page.getByText("A rehearsal: where the masts stand is hidden.")).toBeVisible();
  const next = page.getByRole("region", { name: "Next step" });
  const enough = next.getByRole("button", { name: "It is set and tight" });
  const point = next.getByRole("button", { name: "I am pointing there: measure" });
  for (let points = 0; points < 24; points += 1) {
    await expect(enough.or(point)).toBeVisible({ timeout: 30_000 });
    if (await enough.isVisible()) break;
    await next.getByRole("button", { name: "Turn the simulated antenna there" }).click();
    await page.waitForTimeout(250);
    await point.click();
    await expect(page.getByRole("region", { name: "Points" }).getByRole("row")).toHaveCount(points + 2, {
      timeout: 40_000,
    });
  }
  await enough.click();
  const score = page.getByRole("region", { name: "How it went" });
  await expect(score.getByText(/in \d+ points and \d+ minutes/)).toBeVisible();
  const lost = Number(/lost (\d+\.\d)/.exec((await score.textContent()) ?? "")?.[1]);
  expect(lost).toBeLessThan(2);
  // A restarted program takes its rehearsals up again.
  await program.stop("SIGKILL");
  await program.start();
  await page.reload();
  await expect(page.getByRole("heading", { name: /Heard now/ })).toBeVisible({ timeout: 20_000 });
});

test("a phone is let in by the code on the screen, and turned away again", async ({
  page,
  program,
  browser,
}) => {
  await program.stop();
  await program.start("--lan-plain", "--lan-port", "0");
  await page.goto(`${program.address}/new`);
  await page.getByLabel("Name of the site").fill("Home");
  await page.getByRole("button", { name: "Begin" }).click();
  await page.getByRole("link", { name: "Settings" }).first().click();
  const phones = page.getByRole("region", { name: "Phones" });
  await expect(phones.getByText("Over plain HTTP")).toBeVisible();
  await expect(phones.getByRole("img", { name: /^Code for http:/ })).toBeVisible();
  const link = (await phones.getByRole("img").getAttribute("alt"))?.replace("Code for ", "") ?? "";
  const { port, hash } = new URL(link);
  const context = await browser.newContext({ viewport: { width: 360, height: 780 } });
  const phone = await context.newPage();
  await phone.goto(`http://127.0.0.1:${port}/`);
  await expect(phone.getByRole("heading", { name: "Let this phone in." })).toBeVisible();
  await phone.goto(`http://127.0.0.1:${port}/pair${hash}`);
  await phone.reload();
  await expect(phone.getByLabel("Code on the computer's screen")).toHaveValue(hash.slice(1));
  await phone.getByRole("button", { name: "Let it in" }).click();
  await phone.getByRole("button", { name: "Go on" }).click();
  await expect(phone.getByRole("link", { name: "Home" })).toBeVisible();
  const found = await new AxeBuilder({ page: phone }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
  await page.reload();
  await phones.getByRole("button", { name: "Turn Phone on the roof away" }).click();
  await expect(phones.getByText("turned away")).toBeVisible();
  await phone.reload();
  await expect(phone.getByRole("heading", { name: "Let this phone in." })).toBeVisible();
  await context.close();
});
