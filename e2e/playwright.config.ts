import { defineConfig } from '@playwright/test';

const BARE = /(frames|preview|reading)\.spec\.ts$/;

/** The real interface in Debian's Chromium, against a real server with data of its own. */
export default defineConfig({
  testDir: '.',
  // First what can do without the demo shots: they are read meanwhile.
  projects: [
    { name: 'files', testMatch: BARE },
    { name: 'bench', testMatch: '*.spec.ts', testIgnore: BARE },
  ],
  timeout: 180_000,
  // Long enough for a machine that does something else besides; nothing waits longer than it has to.
  expect: { timeout: 30_000 },
  globalSetup: './setup.ts',
  workers: 2,
  fullyParallel: false,
  retries: 0,
  outputDir: '../test-results',
  use: {
    actionTimeout: 60_000,
    viewport: { width: 1280, height: 800 },
    launchOptions: {
      executablePath: process.env.LURN_CHROMIUM ?? '/usr/bin/chromium',
      args: [
        '--no-sandbox',
        '--disable-background-networking',
        '--disable-component-update',
        '--disable-sync',
        '--no-first-run',
        '--disable-quic',
        '--enable-unsafe-swiftshader',
      ],
    },
  },
});
