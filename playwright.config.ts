import { defineConfig } from "@playwright/test";

/** The built application is started by scripts/test.mjs, which says where in the environment. */
export default defineConfig({
  testDir: "tests/e2e",
  globalSetup: "./tests/e2e/letIn.ts",
  testMatch: "*.spec.ts",
  workers: 1,
  fullyParallel: false,
  retries: 0,
  // A busy machine only takes longer; what hangs is ended all the same.
  timeout: 900_000,
  // Pages tell what was counted up to a minute ago where counting takes long, and ask again ten seconds later.
  expect: { timeout: 120_000 },
  reporter: [["list"]],
  use: {
    baseURL: `http://localhost:${process.env.TIN_WEB_PORT}`,
    // The session of an owner; who wants another begins with an empty one.
    storageState: process.env.TIN_TEST_SESSION,
    viewport: { width: 1280, height: 800 },
    // What cannot be clicked for so long never will be.
    actionTimeout: 120_000,
    timezoneId: "Europe/Berlin",
    trace: "off",
    // What moves on its own is painted sixty times a second, by processors that the tests need.
    contextOptions: { reducedMotion: "reduce" },
    launchOptions: {
      executablePath: process.env.TIN_TEST_CHROMIUM,
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
  },
});
