import { defineConfig } from "@playwright/test";

export default defineConfig({
  testDir: ".",
  testMatch: "*.spec.ts",
  workers: 2,
  fullyParallel: true, // each test has programs and a folder of its own
  timeout: 90_000,
  expect: { timeout: 7_000 },
  reporter: [["list"]],
  use: {
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "UTC",
    launchOptions: {
      executablePath: "/usr/bin/chromium",
      args: [
        "--headless",
        "--no-sandbox",
        "--disable-gpu",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
      ],
    },
    trace: "off",
    actionTimeout: 20_000, // a control that never comes alive is named, not waited for until the test ends
  },
});
