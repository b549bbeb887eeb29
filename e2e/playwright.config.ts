import { defineConfig } from '@playwright/test'
import { browser } from './lib/browser'

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  globalSetup: './globalSetup.ts',
  timeout: 240_000,
  expect: { timeout: 30_000 },
  // files run side by side, each with an app of its own; the tests of one file in turn
  workers: 3,
  fullyParallel: false,
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: { ...browser, viewport: { width: 1280, height: 800 }, trace: 'off', actionTimeout: 30_000 },
})
