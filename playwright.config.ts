import { defineConfig } from '@playwright/test';

/** The browser tests: each worker has a server on its own copy of the demo, which `./wergeld test browser` has loaded. */
export default defineConfig({
  testDir: 'e2e',
  fullyParallel: false,
  workers: 2,
  // What passes only on a second try has failed.
  retries: 0,
  timeout: 120_000,
  expect: { timeout: 15_000 },
  reporter: [['line'], ['json']],
  // Roles come first and look at the demo as it was loaded, before the others of the same worker send, post and close.
  projects: [
    { name: 'roles', testMatch: 'roles.spec.ts', fullyParallel: true },
    { name: 'work', testIgnore: 'roles.spec.ts' },
  ],
  use: {
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
