import { defineConfig } from "@playwright/test";

const PORT = 4177;

export default defineConfig({
  testDir: "e2e",
  outputDir: "test-results/e2e",
  fullyParallel: true,
  forbidOnly: true,
  retries: 0,
  workers: 2,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: [["list"], ["json", { outputFile: "test-results/playwright.json" }]],
  use: {
    baseURL: `http://127.0.0.1:${PORT}`,
    // writes of the tests themselves come from no page
    extraHTTPHeaders: { "x-gearsense-client": "test" },
    viewport: { width: 1280, height: 800 },
    locale: "en-GB",
    timezoneId: "UTC",
    // a trace of everything costs a third of the run: TRACE=1 when a failure is to be looked into
    trace: process.env.TRACE ? "retain-on-failure" : "off",
    screenshot: "only-on-failure",
    acceptDownloads: true,
    // what it answers is out of a test's hands: allowed where it is what is tested
    serviceWorkers: "block",
    launchOptions: {
      executablePath: process.env.CHROMIUM ?? "/usr/bin/chromium",
      args: [
        "--no-sandbox",
        "--disable-gpu",
        "--disable-dev-shm-usage",
        "--disable-quic",
        "--no-first-run",
        "--disable-background-networking",
        "--disable-component-update",
        "--disable-sync",
        "--font-render-hinting=none",
      ],
    },
  },
  webServer: {
    command: "scripts/e2e-server.sh",
    env: { PORT: String(PORT), QUIET: "1" },
    url: `http://127.0.0.1:${PORT}/api/health`,
    reuseExistingServer: false,
    gracefulShutdown: { signal: "SIGTERM", timeout: 5000 },
    timeout: 90_000,
  },
});
