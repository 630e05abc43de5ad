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

test("where the gateway cannot be read, a sweep is typed bearing by bearing", async ({ program, page }) => {
  await page.setViewportSize({ width: 390, height: 844 });
  const site = "0190d1f0-0000-7000-8000-000000000101";
  const send = (path: string, data: object) => page.request.post(`${program.address}${path}`, { data });
  await send("/api/sites", {
    id: site,
    name: "North farm",
    time_zone: "UTC",
    place: { latitude_deg: 61.42, longitude_deg: 8.21 },
  });
  await send(`/api/sites/${site}/positions`, {
    id: "0190d1f0-0000-7000-8000-000000000102",
    name: "East gable",
    mount: "gable",
    height_above_ground_m: 6,
  });
  await page.goto(`${program.address}/sites/${site}/aim`);
  await page.getByLabel("Mast expected at, degrees from true north").fill("140");
  await page.getByRole("button", { name: "Begin the sweep" }).click();
  const next = page.getByRole("region", { name: "Next step" });
  await next.getByLabel("Band").fill("B3");
  await next.getByLabel("RSRP").fill("ninety");
  await next.getByRole("button", { name: /Save this point at/ }).click();
  await expect(next.getByText(/number/i).first()).toBeVisible();
  // What was typed outlives a reload.
  await page.reload();
  await expect(next.getByLabel("RSRP")).toHaveValue("ninety");
  const points = page.getByRole("region", { name: "Points" }).getByRole("row");
  for (const [at, rsrp] of ["-109", "-99", "-95", "-99", "-109"].entries()) {
    await next.getByLabel("RSRP").fill(rsrp);
    await next.getByLabel("SINR").fill("9");
    await next.getByRole("button", { name: /Save this point at/ }).click();
    await expect(points).toHaveCount(at + 2);
    // The carrier stays, its figures are new at each bearing.
    await expect(next.getByLabel("Band")).toHaveValue("B3");
    await expect(next.getByLabel("RSRP")).toHaveValue("");
  }
  await expect(page.getByRole("img", { name: /^Strongest at \d+° T/ })).toBeVisible();
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
