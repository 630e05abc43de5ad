import { defineConfig } from "@playwright/test";
import { common } from "./common";

export default defineConfig({
  ...common,
  testDir: "specs",
  workers: 1,
  timeout: 180_000,
  forbidOnly: true,
  reporter: [["list"]],
});
