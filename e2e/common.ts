import type { PlaywrightTestConfig } from "@playwright/test";

/** What tests and screenshots share: Debian's Chromium, kept from calling anywhere. */
export const common: PlaywrightTestConfig = {
  outputDir: "test-results",
  expect: { timeout: 20_000 },
  use: {
    // What fades in or out has another contrast meanwhile.
    contextOptions: { reducedMotion: "reduce" },
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "Europe/Oslo",
    // Only the tests of the roof page look at what is kept for no network.
    serviceWorkers: "block",
    trace: "on-first-retry",
    launchOptions: {
      executablePath: process.env.OPEN_BEACON_CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
};
