import { defineConfig } from "@playwright/test";
import { common } from "./common";

export default defineConfig({
  ...common,
  testDir: "specs",
  workers: 1,
  timeout: 180_000,
  // A test that passes only the second time is reported as flaky, with a trace of the second.
  retries: 1,
  forbidOnly: true,
  reporter: [["list"]],
});
