import AxeBuilder from "@axe-core/playwright";
import type { Page } from "@playwright/test";
import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page
    .getByRole("navigation", { name: "Stages of the job" })
    .getByRole("link", { name: "Aim" })
    .click();
});

/** The demo site has a finished sweep; another one is begun. */
async function begin(page: Page): Promise<void> {
  await page.getByRole("button", { name: "Begin another sweep" }).click();
  await page.getByLabel("At", { exact: true }).selectOption({ label: "East gable" });
  await page.getByRole("button", { name: "Begin the sweep" }).click();
}

/** After so many the program stops, unsure as it may be. How few are needed is checked in the core, against hidden truths. */
const MOST_POINTS = 24;

/** Does what the screen asks until it says that it is enough; answers how many points that took. */
async function obey(page: Page): Promise<number> {
  const next = page.getByRole("region", { name: "Next step" });
  for (let points = 0; points <= MOST_POINTS; points += 1) {
    const enough = next.getByRole("button", { name: "It is set and tight" });
    const point = next.getByRole("button", { name: "I am pointing there: measure" });
    await expect(enough.or(point)).toBeVisible({ timeout: 20_000 });
    if (await enough.isVisible()) return points;
    await next.getByRole("button", { name: "Turn the simulated antenna there" }).click();
    await page.waitForTimeout(250);
    await point.click();
    await expect(page.getByRole("region", { name: "Points" }).getByRole("row")).toHaveCount(points + 2, {
      timeout: 40_000,
    });
  }
  throw new Error("the sweep does not end");
}

test("a sweep on the simulated antenna finds the mast", async ({ page }) => {
  test.setTimeout(480_000);
  await begin(page);
  await expect(page.getByText("Point 1 of 7: turn to 75° T and hold still.")).toBeVisible();
  await expect(page.getByText(/^\d+° on a compass/)).toBeVisible();
  // The stand-in lives by the clock: in its evening the neighbours' loads scatter the noise ratio, and more points are asked for.
  expect(await obey(page)).toBeLessThanOrEqual(MOST_POINTS);
  const title = (await page.getByRole("heading", { level: 1 }).textContent()) ?? "";
  const to = Number(/(\d+)°/.exec(title)?.[1]);
  // The mast stands at 143°; a 60° beam loses 0.4 dB eleven degrees off.
  expect(Math.abs(to - 143)).toBeLessThanOrEqual(14);
  await expect(page.getByRole("img", { name: /^Strongest at 1\d\d° T, cleanest at 1\d\d° T/ })).toBeVisible();
  await page.setViewportSize({ width: 360, height: 800 });
  expect(
    await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth),
  ).toBeLessThanOrEqual(0);
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
  await page.getByRole("button", { name: "It is set and tight" }).click();
  await expect(page.getByText(/This sweep ended: the antenna was set to/)).toBeVisible();
  await page.reload();
  await expect(page.getByText(/This sweep ended/)).toBeVisible();
  await page.getByRole("button", { name: "Resume sweep" }).click();
  await expect(page.getByRole("button", { name: "It is set and tight" })).toBeVisible();
});

test("a closed page neither stops nor loses a point, and one can be left out", async ({ page, demo }) => {
  await begin(page);
  const next = page.getByRole("region", { name: "Next step" });
  await next.getByRole("button", { name: "◀ 5° left" }).click();
  await expect(next.getByText("70° T", { exact: true })).toBeVisible();
  await next.getByRole("button", { name: "I am pointing there: measure" }).click();
  await expect(next.getByText("Hold still at 70° T.")).toBeVisible();
  const address = page.url();
  await page.goto("about:blank");
  await page.waitForTimeout(6000);
  await page.goto(address);
  const points = page.getByRole("region", { name: "Points" });
  await expect(points.getByRole("row", { name: /^70° T/ })).toBeVisible({ timeout: 20_000 });
  await points.getByRole("button", { name: "Leave it out" }).click();
  await expect(points.getByRole("button", { name: "Take it in again" })).toBeVisible();
  // A gateway that falls silent is named, and the point is not half kept.
  await demo.fault("hung");
  await next.getByRole("button", { name: "I am pointing there: measure" }).click();
  await next.getByRole("button", { name: "Cancel this point" }).click();
  await expect(next.getByRole("alert")).toContainText("It was cancelled. Nothing of that point was kept.");
});

test("the live number shows its best, its trend and what it is of, and sounds", async ({ page }) => {
  await begin(page);
  const live = page.getByRole("region", { name: "Live number" });
  await expect(live.getByText(/−?\d+(\.5)? dB$/).first()).toBeVisible();
  await live.getByRole("button", { name: "Signal (RSRP)" }).click();
  await expect(live.getByText(/^−\d+ dBm$/)).toBeVisible();
  const number = async () =>
    Number(/−(\d+)/.exec((await live.getByText(/^−\d+ dBm$/).textContent()) ?? "")?.[1]);
  const before = await number();
  await page.getByRole("button", { name: "5° right ▶" }).click();
  await page.getByRole("button", { name: "Turn the simulated antenna there" }).click();
  await expect.poll(number, { timeout: 15_000 }).toBeGreaterThan(before + 3);
  await expect(live.getByText(/below the best/)).toBeVisible();
  await live.getByRole("button", { name: "Play sound" }).click();
  await expect(live.getByRole("button", { name: "Stop sound" })).toBeVisible();
  await live.getByLabel("Volume").fill("0.2");
  await live.getByRole("button", { name: "Stop sound" }).click();
  await expect(live.getByLabel("Volume")).toHaveCount(0);
});

test("a bearing that is none is told, and what was typed stays", async ({ page }) => {
  await expect(page.getByText(/This sweep ended: the antenna was set to 143°/)).toBeVisible();
  await page.getByRole("button", { name: "Begin another sweep" }).click();
  const field = page.getByLabel("Mast expected at, degrees from true north");
  await field.fill("north-east");
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  await expect(page.getByRole("alert")).toContainText("143 for instance");
  await field.fill("800");
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  await expect(page.getByRole("alert")).toBeVisible();
  await expect(field).toHaveValue("800");
});

test("where several cells answered, the page asks which one is meant, on the roof too", async ({ page }) => {
  await begin(page);
  await expect(page.getByText("Point 1 of 7: turn to 75° T and hold still.")).toBeVisible();
  const site = new URL(page.url()).pathname.split("/")[2];
  const sweeps = `${new URL(page.url()).origin}/api/sites/${site}/sweeps`;
  const newest = new URL(page.url()).searchParams.get("sweep");
  for (const [place, band] of [3, 3, 20, 3, 20, 3, 20, 3].entries()) {
    const typed = {
      id: `0190f000-0000-7000-8000-00000000000${place}`,
      angle_deg: 100 + 10 * place,
      technology: "lte",
      band,
      rsrp_dbm: [-97, -98],
      sinr_db: [],
    };
    const answer = await page.request.post(`${sweeps}/${newest}/typed-stops`, { data: typed });
    expect(answer.status()).toBe(201);
  }
  const which = page.getByRole("region", { name: "Which cell" });
  await expect(which.getByText("Which cell do you aim at?")).toBeVisible();
  await which.getByRole("button", { name: "B20, 3 bearings" }).click();
  await expect(which.getByText("You aim at B20.")).toBeVisible();
  await expect(page.getByRole("region", { name: "Points" }).getByText("another cell")).toHaveCount(5);
  await page.setViewportSize({ width: 390, height: 844 });
  await page.getByRole("link", { name: /roof/i }).click();
  await expect(which.getByText("You aim at B20.")).toBeVisible();
  await which.getByRole("button", { name: "B3, 5 bearings" }).click();
  await expect(which.getByText("You aim at B3.")).toBeVisible();
  const found = await new AxeBuilder({ page }).analyze();
  expect(found.violations.map(({ id }) => id)).toEqual([]);
});
