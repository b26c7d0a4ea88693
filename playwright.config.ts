import { defineConfig } from '@playwright/test';

export default defineConfig({
  testDir: 'tests/e2e',
  // Pictures for the docs are made by hand only.
  testMatch: process.env.PICTURES ? 'pictures.ts' : '*.spec.ts',
  outputDir: 'test-results',
  // Each has a demo of its own.
  workers: 2,
  fullyParallel: true,
  timeout: 90_000,
  expect: { timeout: 15_000 },
  reporter: 'line',
  globalSetup: './tests/e2e/setup.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    trace: 'off',
    launchOptions: {
      executablePath: '/usr/bin/chromium-headless-shell',
      // Without a window's compositing it takes half the time.
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
