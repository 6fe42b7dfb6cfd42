import { defineConfig } from '@playwright/test';

/** The browser tests: each worker has a server, each test its own copy of the demo, which `./wergeld test browser` has loaded. */
export default defineConfig({
  testDir: 'e2e',
  // What kills everything is alone, and comes last.
  projects: [
    { name: 'desk', testIgnore: 'kill.spec.ts' },
    { name: 'kills', testMatch: 'kill.spec.ts' },
  ],
  fullyParallel: true,
  workers: 2,
  // What passes only on a second try has failed.
  retries: 0,
  timeout: 120_000,
  expect: { timeout: 15_000 },
  reporter: [['line'], ['json']],
  use: {
    trace: {
      mode: 'retain-on-failure',
      screenshots: false,
      snapshots: process.env.WERGELD_SNAPSHOTS === '1',
      sources: false,
    },
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      // Chromium without a window to draw: half the time, and the same pages.
      executablePath: '/usr/bin/chromium-headless-shell',
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
