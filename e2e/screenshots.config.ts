import { defineConfig } from "@playwright/test";
import { common } from "./common";

/** Takes the pictures in docs/screenshots; started by `cargo xtask screenshots`. */
export default defineConfig({
  ...common,
  testDir: "screenshots",
  workers: 1,
  timeout: 90_000,
  reporter: [["list"]],
});
