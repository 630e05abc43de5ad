import AxeBuilder from "@axe-core/playwright";
import type { Locator, Page } from "@playwright/test";
import { expect, openDemo, test } from "../program";

const open = async (address: string, page: Page) => {
  await page.goto(address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: "Verdict" }).click();
};

test("the setup aimed at the mast beats the one turned away, in numbers and words", async ({
  demo,
  page,
}) => {
  await open(demo.address, page);
  const away = "East gable at 53°\u202fT";
  await page.getByLabel("Compared with").selectOption({ label: away });
  // The setup itself, not one of the locks that a band round tried on it.
  const ledger = page.getByRole("list", { name: "Ledger" });
  const aimed = ledger.getByRole("button", { name: /^East gable at 143°\sT(?!,)/ });
  await aimed.click();
  const against = page.getByRole("region", { name: /East gable at 143°\sT against East gable at 53/ });
  await expect(against.getByText(/gives \d\.\d times the download of East gable at 53/)).toBeVisible();
  await expect(aimed).toContainText("clear gain");
  await expect(aimed).toContainText(/\d+ tests in \w+ sittings/);
  await expect(against.getByText(/^Wide panel, thin cable; bearing 143°\sT; tilt 2°/)).toBeVisible();
  await expect(ledger.getByRole("button", { name: /Barn mast/ })).toContainText(/cannot tell|likely/);
  await expect(against.getByText("What else was different")).toBeVisible();
  await expect(
    against.getByText(/Other cells answered|Only this setup used|here only/).first(),
  ).toBeVisible();
  // The choice stands in the address.
  await page.reload();
  await expect(against).toBeVisible();
  await page.getByRole("radio", { name: "Idle latency" }).click();
  await expect(page).toHaveURL(/figure=idle_latency/);
});

test("on paper the rows keep their names, upright and across", async ({ demo, page }) => {
  await open(demo.address, page);
  const barn = page.getByRole("list", { name: "Ledger" }).getByRole("button", { name: /Barn mast/ });
  await expect(barn).toBeVisible();
  await page.emulateMedia({ media: "print" });
  // A4 at 96 dots an inch.
  for (const size of [
    { width: 794, height: 1123 },
    { width: 1123, height: 794 },
  ]) {
    await page.setViewportSize(size);
    await expect(barn).toBeVisible();
    await expect(page.getByRole("radio", { name: "Upload" })).toBeHidden();
    const wide = await page.getByRole("main").evaluate((main) => main.getBoundingClientRect().width);
    expect(wide).toBeGreaterThan(0.9 * size.width);
  }
});

test("setups can be left out of the comparison", async ({ demo, page }) => {
  await open(demo.address, page);
  await page.getByText("Which setups are shown").click();
  await page.getByRole("checkbox", { name: /Barn mast/ }).uncheck();
  await expect(
    page.getByRole("list", { name: "Ledger" }).getByRole("button", { name: /Barn mast/ }),
  ).toHaveCount(0);
});

test("export, wipe, import gives the same screen", async ({ demo, program, page }) => {
  await open(demo.address, page);
  const ledger = page.getByRole("main");
  await expect(ledger.getByRole("heading", { level: 1 })).toContainText("equally well");
  await expect(ledger.getByText(/^Expect .* Measured with it: /)).toBeVisible();
  const before = await settled(ledger);
  await page.getByRole("link", { name: "Settings" }).first().click();
  const [download] = await Promise.all([
    page.waitForEvent("download"),
    page.getByRole("link", { name: "Export as zip (CSV)" }).click(),
  ]);

  await page.goto(`${program.address}/import`);
  await page.getByLabel("File").setInputFiles(await download.path());
  await expect(page.getByText(/6 positions, 11 setups, \d+ runs/)).toBeVisible();
  await page.getByRole("button", { name: "Import", exact: true }).click();
  await expect(page.getByRole("heading", { level: 1 })).toContainText("equally well");
  await expect(page.getByText(/^Expect .* Measured with it: /)).toBeVisible();
  expect(await settled(page.getByRole("main"))).toBe(before);
});

/** The text of a part of the page once nothing is added to it any more. */
async function settled(part: Locator): Promise<string> {
  let [before, now] = ["", (await part.textContent()) ?? ""];
  while (now !== before) {
    await part.page().waitForTimeout(700);
    [before, now] = [now, (await part.textContent()) ?? ""];
  }
  return now;
}

test("a file that is none is refused in words", async ({ program, page }) => {
  await page.goto(`${program.address}/import`);
  await page
    .getByLabel("File")
    .setInputFiles({ name: "x.json", mimeType: "application/json", buffer: Buffer.from("{}") });
  await expect(page.getByText("1 row cannot be taken, so nothing would be.")).toBeVisible();
  await expect(page.getByText(/this is not a site export/)).toBeVisible();
});

test("killed and started again, the page finds everything as it was", async ({ demo, page }) => {
  await open(demo.address, page);
  const before = await page.getByRole("heading", { level: 1 }).textContent();
  await demo.stop("SIGKILL");
  await expect(page.getByText("Open Beacon does not answer; trying again.")).toBeVisible();
  await demo.start();
  await expect(page.getByText("Open Beacon does not answer; trying again.")).toHaveCount(0, {
    timeout: 20_000,
  });
  await page.reload();
  await expect(page.getByRole("heading", { level: 1 })).toHaveText(before ?? "");
});

test("two tabs share one event stream", async ({ demo, page, context }) => {
  const streams: string[] = [];
  context.on("request", (request) => request.url().endsWith("/events") && streams.push(request.url()));
  await open(demo.address, page);
  await expect(page.getByText(/Heard now/)).toBeVisible();
  const second = await context.newPage();
  await second.goto(page.url());
  await expect(second.getByText(/Heard now/)).toBeVisible();
  expect(streams).toHaveLength(1);
  // The tab with the stream goes; the other takes over.
  await page.close();
  await expect.poll(() => streams.length).toBe(2);
});

test("the stages answer to their keys", async ({ demo, page }) => {
  await open(demo.address, page);
  await page.keyboard.press("1");
  await expect(page).toHaveURL(/\/baseline/);
  await page.keyboard.press("2");
  await expect(page).toHaveURL(/\/kit/);
  await page.keyboard.press("3");
  await expect(page).toHaveURL(/\/survey/);
  await page.keyboard.press("4");
  await expect(page).toHaveURL(/\/mount/);
  await page.keyboard.press("6");
  await expect(page).toHaveURL(/\/bands/);
  await page.keyboard.press("7");
  await expect(page).toHaveURL(/\/log/);
  await page.keyboard.press("0");
  await expect(page).toHaveURL(/\/settings/);
});

for (const theme of ["light", "dark", "sun"]) {
  test(`no accessibility violations, ${theme}`, async ({ demo, page }) => {
    test.setTimeout(480_000);
    await page.addInitScript((chosen) => localStorage.setItem("theme", chosen), theme);
    await open(demo.address, page);
    const site = page.url().replace(/\/verdict.*/, "");
    const pages = [
      `${site}/baseline`,
      `${site}/kit`,
      `${site}/catalogue`,
      `${site}/survey`,
      `${site}/bands`,
      `${site}/verdict`,
      `${site}/log`,
      `${site}/mount`,
      `${site}/settings`,
      demo.address,
      `${demo.address}/new`,
      `${demo.address}/import`,
    ];
    for (const address of pages) {
      await page.goto(address);
      await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
      if (address.includes("/sites/")) await expect(page.getByText(/Heard now/)).toBeVisible();
      const found = await new AxeBuilder({ page }).analyze();
      const short = found.violations.map(
        ({ id, nodes }) => `${id}: ${nodes.map((node) => node.target).join(" | ")}`,
      );
      expect(short, `${theme} ${address}`).toEqual([]);
    }
    await page.goto(`${site}/log`);
    await page.getByRole("button", { name: "Type it in" }).click();
    await expect(page.getByRole("dialog")).toBeVisible();
    const found = await new AxeBuilder({ page }).include("[role=dialog]").analyze();
    expect(
      found.violations.map(({ id, nodes }) => `${id}: ${nodes.map((node) => node.target).join(" | ")}`),
    ).toEqual([]);
  });
}

test("on a phone nothing runs out of the screen", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  await open(demo.address, page);
  for (const stage of ["Baseline", "Kit", "Survey", "Mount", "Bands", "Log", "Verdict"]) {
    await page
      .getByRole("navigation", { name: "Stages of the job" })
      .getByRole("link", { name: stage })
      .click();
    await expect(page.getByRole("heading", { level: 1 })).toBeVisible();
    const over = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(over, stage).toBeLessThanOrEqual(0);
  }
});

for (const size of [
  { width: 1280, height: 800 },
  { width: 390, height: 844 },
])
  test(`what was predicted stands beside what was measured, ${size.width} wide`, async ({ demo, page }) => {
    await page.setViewportSize(size);
    await openDemo(page, demo);
    await page.goto(page.url().replace(/\/[a-z]+(\?.*)?$/, "/verdict"));
    const part = page.getByRole("region", { name: "Predicted and measured", exact: true });
    const title = part.getByText(/^Of \d+ predicted ranges, \d+ held what was measured; 8 in 10 should\.$/);
    const [ranges, held] = ((await title.textContent()) ?? "").match(/\d+/g)?.map(Number) ?? [];
    await part.getByText("Setup by setup").click();
    const table = part.getByRole("region", { name: "Predicted and measured, setup by setup" });
    await expect(table.getByText(/from 4 masts$/)).toBeVisible();
    // The sentence counts what the table shows.
    await expect(table.getByRole("cell", { name: "inside" })).toHaveCount(held ?? 0);
    await expect(table.getByRole("cell", { name: "outside" })).toHaveCount((ranges ?? 0) - (held ?? 0));
    const beyond = await table.evaluate((box) => box.scrollWidth - box.clientWidth);
    expect(beyond).toBe(0);
    const found = await new AxeBuilder({ page }).include("main").analyze();
    expect(found.violations).toEqual([]);
  });
