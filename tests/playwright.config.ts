import { defineConfig } from '@playwright/test';
import chromium from '../tools/parts/chromium.json' with { type: 'json' };

/** Journeys through the real interface: those of one file share a house, one after the other, as people do. */
export default defineConfig({
  testDir: './journeys',
  outputDir: '../test-results',
  workers: 2,
  fullyParallel: false,
  retries: 0,
  timeout: 150_000,
  expect: { timeout: 25_000 },
  reporter: [['list'], ['json']],
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
