import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './chromium.ts';

export default defineConfig({
  testDir: '.',
  globalSetup: './prepare.ts',
  timeout: 180_000,
  expect: { timeout: 30_000 },
  workers: 2,
  // A machine that others use as well may stall for half a minute: a test that failed is run once more, and told of as such.
  retries: 1,
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    trace: 'on-first-retry',
    contextOptions: { reducedMotion: 'reduce' },
    launchOptions: chromiumOptions,
  },
});
