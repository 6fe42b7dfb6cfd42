import { defineConfig } from '@playwright/test';

/** The browser tests run against the server that `./wergeld test browser` has started. */
export default defineConfig({
  testDir: 'e2e',
  fullyParallel: false,
  workers: 1,
  // A loaded machine may be slow to wake a page; a second try is told apart as flaky in the report.
  retries: 1,
  timeout: 120_000,
  expect: { timeout: 15_000 },
  reporter: [['line'], ['json']],
  use: {
    baseURL: process.env.WERGELD_URL,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-gpu',
        '--disable-quic',
        '--no-first-run',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
      ],
    },
  },
});
