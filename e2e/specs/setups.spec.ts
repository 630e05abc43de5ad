import { expect, test } from "../program";

test.beforeEach(async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: "Mount" }).click();
});

test("a setup that has runs is not changed: an edit makes a new one", async ({ page }) => {
  await page.getByRole("button", { name: /^143/ }).click();
  await expect(page.getByRole("button", { name: "Save as a new setup" })).toBeDisabled();
  await page.getByLabel(/Azimuth, true north/).fill("131");
  await page.getByRole("button", { name: "Save as a new setup" }).click();
  await expect(
    page.getByText("A new setup was made; the old one keeps its runs.", {
      exact: true,
    }),
  ).toBeVisible();
  await expect(page.getByRole("button", { name: /^131/ })).toHaveAttribute("aria-current", "true");
  await expect(page.getByRole("button", { name: /^143/ })).toContainText("25 tests");
  // The new one has no runs yet, so it changes in place.
  await page.getByLabel(/Tilt, up positive/).fill("95");
  await page.getByRole("button", { name: "Save the setup" }).click();
  await expect(page.getByText(/Values run from −90 to 90/)).toBeVisible();
  await page.getByLabel(/Tilt, up positive/).fill("3,5");
  await page.getByRole("button", { name: "Save the setup" }).click();
  await expect(page.getByRole("button", { name: /^131/ })).toHaveCount(1);
});

test("archiving is undone in one press, and setups and positions are duplicated", async ({ page }) => {
  await page.getByRole("button", { name: /^138/ }).click();
  await page.getByRole("button", { name: "Archive the setup" }).click();
  await expect(page.getByRole("button", { name: /^138/ })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("button", { name: /^138/ })).toHaveCount(1);

  await page.getByRole("button", { name: /^138/ }).click();
  await page.getByRole("button", { name: "Duplicate the setup" }).click();
  await expect(page.getByRole("button", { name: /^138.*nothing recorded/ })).toHaveCount(1);
  await page.getByRole("button", { name: "Duplicate the position" }).click();
  const list = page.getByLabel("Positions and setups");
  await expect(list.getByText("Attic, south, copy", { exact: true })).toBeVisible();
});

test("the simulated antenna follows the setup being worked on until it is turned by hand", async ({
  page,
}) => {
  await page.getByRole("button", { name: /^53/ }).click();
  const drawer = page.getByRole("group").filter({ hasText: "Simulated antenna" });
  await expect(drawer.getByText(/^53°/)).toBeVisible();
  await drawer.getByRole("button", { name: "Turn 5 degrees right" }).click();
  await expect(drawer.getByText(/^58°/)).toBeVisible();
  await expect(drawer.getByLabel("Follow the setup being worked on")).not.toBeChecked();
  await page.getByRole("button", { name: /^143/ }).click();
  await expect(drawer.getByText(/^58°/)).toBeVisible();
  await drawer.getByLabel("Follow the setup being worked on").click();
  await expect(drawer.getByText(/^143°/)).toBeVisible();
});

test("a list of sites: duplicate, archive, undo", async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("button", { name: "Duplicate Hulderbekk croft" }).click();
  await expect(page.getByRole("link", { name: "Hulderbekk croft, copy" })).toBeVisible();
  await page.getByRole("button", { name: "Archive Hulderbekk croft, copy" }).click();
  await expect(page.getByRole("link", { name: "Hulderbekk croft, copy" })).toHaveCount(0);
  await page.getByRole("button", { name: "Undo" }).click();
  await expect(page.getByRole("link", { name: "Hulderbekk croft, copy" })).toBeVisible();
});
