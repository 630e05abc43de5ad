import { defineConfig } from "@playwright/test";
import { common } from "./common";
export default defineConfig({ ...common, testDir: "zz", workers: 1, timeout: 120_000, reporter: [["list"]] });
