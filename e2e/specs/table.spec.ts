import { expect, openDemo, test } from "../program";

const TABLE = [
  "Measured at;Where;Band;RSRP;Download (kbit/s);Upload (kbit/s);Ping",
  "12/01/2026 18:30;gable 143;n78;-92;266200;23600;36",
  "12/01/2026 18:30;gable 143;B20;-81;;;",
  "13/01/2026 19:10;woodshed;;;12500;4100;48",
  "13/01/2026 25:10;gable 143;;;12500;4100;48",
].join("\n");

for (const [size, viewport] of [
  ["a desk", { width: 1280, height: 800 }],
  ["a phone", { width: 390, height: 844 }],
] as const) {
  test(`a table made elsewhere is asked about, kept once and remembered, on ${size}`, async ({
    demo,
    page,
  }) => {
    await page.setViewportSize(viewport);
    const base = await openDemo(page, demo);
    await page.goto(`${base}/log`);
    const file = { name: "spring.csv", mimeType: "text/csv", buffer: Buffer.from(TABLE) };
    const sheet = page.getByRole("dialog");
    const choose = async () => {
      await page.getByRole("button", { name: "Type in many" }).click();
      await sheet.getByRole("button", { name: "Import a table" }).click();
      await sheet.getByLabel("Table (CSV)").setInputFiles(file);
    };
    await choose();
    await sheet.getByText("Columns: Date and time, Position or setup").click();
    await expect(sheet.getByLabel("Column Measured at taken as")).toHaveValue("time");
    await expect(sheet.getByLabel("Column Where taken as")).toHaveValue("place");
    await expect(sheet.getByLabel("Unit of Download (kbit/s)")).toHaveValue("kbit/s");

    // One date can only be read in one way; whose time it is, and what the woodshed is, is asked.
    await expect(sheet.getByLabel("Dates")).toHaveValue("day_first");
    await expect(sheet.getByText("2 questions to answer first.")).toBeVisible();
    const keep = sheet.getByRole("button", { name: /^Keep / });
    await expect(keep).toBeDisabled();
    await sheet.getByLabel("Times").selectOption("utc");
    await sheet.getByLabel("“woodshed” is").selectOption({ index: 1 });
    await expect(sheet.getByText(/questions? to answer first/)).toHaveCount(0);
    await expect(sheet.getByText(/^Line 5: “13\/01\/2026 25:10” is no date/)).toBeVisible();
    await expect(sheet.getByText(/n78, −92\sdBm, 266.2\sMbit\/s down, 23.6 up, 36\sms/)).toBeVisible();
    const wide = await page.evaluate(() => document.documentElement.scrollWidth - window.innerWidth);
    expect(wide).toBeLessThanOrEqual(0);
    await sheet.getByRole("button", { name: "Keep 3 rows" }).click();
    await expect(sheet).toHaveCount(0);
    await expect(page.getByText("3 rows kept in 2 runs.", { exact: true })).toBeVisible();

    // The same file again: everything is here, in whatever order the answers come.
    await choose();
    await sheet.getByLabel("Times").selectOption("utc");
    await sheet.getByLabel("“woodshed” is").selectOption({ index: 1 });
    await expect(sheet.getByText("Left out: 3 rows here already, 1 row that cannot be read.")).toBeVisible();
    await expect(sheet.getByRole("button", { name: "Nothing new to keep" })).toBeDisabled();
  });
}
