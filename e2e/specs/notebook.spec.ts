import { expect, openDemo, test } from "../program";

const LINES = [
  "kitchen 140 n78 -104 3 31/7.2/38",
  "-105 2 33/7.8/37",
  "-104 3 30/7.1/39 rain",
  "kitchen 12:40 34/8/36",
  "east gable 143 n78 -90 24 251/21/36",
  "-91 23 244/20.5/37",
  "-90 24 260/22/36",
  "19:10 231/19/41",
];

test("eight results of two setups are typed by keyboard alone, at most 40 strokes a line", async ({
  demo,
  page,
}) => {
  const base = await openDemo(page, demo);
  await page.goto(`${base}/log`);
  const list = page.getByRole("region", { name: "What is measured, and what is missing" });
  const tests = (name: RegExp) => list.getByRole("row", { name }).getByRole("cell").nth(3);
  await expect(tests(/^Kitchen sill/)).toHaveText("9");
  await expect(tests(/^East gable at 143° T(?!,)/)).toHaveText("25");

  await page.getByRole("button", { name: "Type in many" }).focus();
  let strokes = 0;
  const press = async (key: string) => {
    strokes += 1;
    await page.keyboard.press(key);
  };
  await press("Enter");
  const results = page.getByRole("textbox", { name: "Results" });
  while (!(await results.evaluate((field) => field === document.activeElement))) await press("Tab");
  for (const [index, line] of LINES.entries()) {
    if (index > 0) await press("Enter");
    strokes += line.length;
    await page.keyboard.type(line);
  }
  const understood = page.getByRole("list", { name: "What is understood" }).getByRole("listitem");
  await expect(understood).toHaveCount(8);
  await expect(understood.first()).toContainText(
    "Kitchen sill: n78, −104 dBm, SINR 3 dB, 31 Mbit/s down, 7.2 up, 38 ms",
  );
  await expect(understood.nth(1)).toContainText("setup as before; band as before");
  await expect(understood.nth(2)).toContainText("note: rain");
  await expect(understood.last()).toContainText("East gable at 143° T: 231 Mbit/s down, 19 up, 41 ms at ");
  await press("Control+Enter");
  await expect(page.getByText("8 results kept.", { exact: true })).toBeVisible();
  expect(strokes / LINES.length).toBeLessThanOrEqual(40);

  await expect(tests(/^Kitchen sill/)).toHaveText("13");
  await expect(tests(/^East gable at 143° T(?!,)/)).toHaveText("29");
  // What is kept is not offered again.
  await page.getByRole("button", { name: "Type in many" }).click();
  await expect(results).toHaveValue("");
});

test("what is unclear is asked before anything is kept, on a phone", async ({ demo, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const base = await openDemo(page, demo);
  await page.goto(`${base}/log`);
  await page.getByRole("button", { name: "Type in many" }).click();
  const results = page.getByRole("textbox", { name: "Results" });
  await results.fill("roof 99/9\nattic 97 24\nroof 98/8");
  await expect(page.getByText("Line 1: No position is called “roof”. Choose what it means.")).toBeVisible();
  await expect(page.getByText("Line 2: What is 97 24?")).toBeVisible();
  await expect(page.getByRole("button", { name: "Save 3 results" })).toBeDisabled();
  const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
  expect(wide).toBeLessThanOrEqual(0);
  // Nothing that was entered is lost when the sheet is closed, or the page is left.
  await page.getByRole("button", { name: "Close" }).click();
  await page.reload();
  await page.getByRole("button", { name: "Type in many" }).click();
  await expect(results).toHaveValue("roof 99/9\nattic 97 24\nroof 98/8");

  await page.getByLabel("“roof” is").first().selectOption({ label: "Barn mast at 140° T" });
  await expect(page.getByText("Barn mast at 140° T: 98 Mbit/s down, 8 up")).toBeVisible();
  await results.fill("roof 99/9\nattic n28 -97 dBm 24 dB\nroof 98/8");
  await page.getByRole("button", { name: "Save 3 results" }).click();
  await expect(page.getByText("3 results kept.", { exact: true })).toBeVisible();
});
