import { defineConfig } from '@playwright/test';
import { chromiumOptions } from './chromium.ts';

// What measures speed runs by itself, when all else is done.
export default defineConfig({
  testDir: '.',
  timeout: 180_000,
  expect: { timeout: 30_000 },
  workers: 2,
  // A machine that others use as well may stall for half a minute: a test that failed is run once more, and told of as such.
  retries: 1,
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  projects: [
    { name: 'flows', testIgnore: 'pace.spec.ts' },
    { name: 'pace', testMatch: 'pace.spec.ts', dependencies: ['flows'] },
  ],
  use: {
    viewport: { width: 1280, height: 800 },
    colorScheme: 'light',
    trace: 'retain-on-failure',
    launchOptions: chromiumOptions,
  },
});
