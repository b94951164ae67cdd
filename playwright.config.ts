import { defineConfig } from '@playwright/test'
import { CHROMIUM_ARGS } from './scripts/lib/chromium-args.mjs'

/**
 * A software renderer on a small machine is slow: limits that only a hang reaches. Tests wait most of their time, so
 * two of them go beside each other.
 */
export default defineConfig({
  testDir: 'tests/e2e',
  outputDir: 'test-results',
  workers: 2,
  timeout: 600_000,
  expect: { timeout: 90_000 },
  reporter: [['list']],
  use: {
    testIdAttribute: 'data-test',
    viewport: { width: 1280, height: 800 },
    // A quarter of the pixels to draw; nothing else changes.
    deviceScaleFactor: 0.5,
    contextOptions: { reducedMotion: 'reduce' },
    actionTimeout: 90_000,
    launchOptions: {
      executablePath: process.env.CHROMIUM,
      args: CHROMIUM_ARGS,
    },
  },
})
