import { defineConfig } from '@playwright/test';
import chromium from '../tools/parts/chromium.json' with { type: 'json' };

/** Journeys through the real interface, one after the other: they share one house, as people do. */
export default defineConfig({
  testDir: './journeys',
  outputDir: '../test-results',
  workers: 1,
  fullyParallel: false,
  retries: 0,
  timeout: 150_000,
  expect: { timeout: 25_000 },
  reporter: [['line'], ['json']],
  globalSetup: './support/demo-house.ts',
  use: {
    viewport: { width: 1280, height: 800 },
    contextOptions: { reducedMotion: 'reduce' },
    timezoneId: 'Europe/London',
    locale: 'en-GB',
    trace: 'off',
    launchOptions: chromium,
  },
});
