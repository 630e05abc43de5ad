import { defineConfig } from "@playwright/test";
import { common } from "./common";
export default defineConfig({ ...common, testDir: "zz", workers: 1, timeout: 180_000, reporter: [["list"]] });
