import { expect, test } from "../program";

test("an empty program asks for a name, then leads to a first position and setup", async ({
  program,
  page,
}) => {
  await page.goto(program.address);
  await expect(page.getByRole("heading", { name: "Which house is this about?" })).toBeVisible();

  // A place that cannot be is named beside its field; what was typed stays.
  await page.getByLabel("Name of the site").fill("North farm");
  await page.getByLabel("Latitude (optional)").fill("108");
  await page.getByLabel("Longitude (optional)").fill("61");
  await page.getByRole("button", { name: "Begin" }).click();
  await expect(page.getByText("Were latitude and longitude swapped?")).toBeVisible();
  await page.reload();
  await expect(page.getByLabel("Name of the site")).toHaveValue("North farm");
  await page.getByLabel("Latitude (optional)").fill("61,42");
  await page.getByLabel("Longitude (optional)").fill("8,21");
  await page.getByRole("button", { name: "Begin" }).click();

  await expect(page.getByRole("heading", { name: /Enter the gateway's address/ })).toBeVisible();
  await expect(page.getByText("No gateway is set")).toBeVisible();
  await page.getByRole("link", { name: "Log" }).click();
  await page.getByRole("main").getByRole("link", { name: "Add a position" }).click();
  await page.getByLabel("Name", { exact: true }).fill("Kitchen sill");
  await page.getByLabel(/Height above ground/).fill("4 ft");
  await page.getByLabel("Mount").focus();
  await expect(page.getByText(/Read as 1.22\s?m: converted/)).toBeVisible();
  await page.getByRole("button", { name: "Add the position" }).click();
  await expect(page.getByRole("button", { name: /stock antennas/ })).toBeVisible();
  await expect(page.getByRole("heading", { name: /Add a second setup/ })).toBeVisible();
});

test("an address that cannot be one is refused beside its field", async ({ demo, page }) => {
  await page.goto(demo.address);
  await page.getByRole("link", { name: "Hulderbekk croft" }).click();
  await page.getByRole("link", { name: "Settings" }).first().click();
  await page.getByLabel("Address of its status page or modem").fill("192.168.1.1");
  await page.getByRole("button", { name: "Save the addresses" }).click();
  await expect(page.getByText("A web address that begins with http://").first()).toBeVisible();
  await page.getByRole("button", { name: "Discard changes" }).click();
  await expect(page.getByLabel("Address of its status page or modem")).toHaveValue(demo.addresses.status_url);
});
