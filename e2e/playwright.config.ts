import { defineConfig } from '@playwright/test'
import { browser } from './lib/browser'

/** Longest that anything on a page is waited for, ms. */
const WAIT_MS = 180_000

const LONG = /\/(face|parts|prints|partFiles|crash|diagnosis|start|elsewhere|measure|journey)\.spec\.ts$/

export default defineConfig({
  testDir: '.',
  testMatch: '*.spec.ts',
  globalSetup: './globalSetup.ts',
  // what is waited for is waited for however slow the machine is; what never comes ends the test
  timeout: 900_000,
  expect: { timeout: WAIT_MS, toPass: { timeout: WAIT_MS } },
  // files run side by side, each with an app of its own; the tests of one file in turn. They wait a good part of
  // their time: four keep two cores busy.
  workers: 4,
  fullyParallel: false,
  // one that passes only then is named at the end of the checks
  retries: 1,
  // the files that take longest begin first, so that all workers stay busy to the end
  projects: [
    { name: 'long', testMatch: LONG },
    { name: 'others', testIgnore: LONG },
  ],
  reporter: [['list'], ['json', { outputFile: '../test-results/e2e.json' }]],
  outputDir: '../test-results/e2e',
  use: { ...browser, viewport: { width: 1280, height: 800 }, trace: 'off', actionTimeout: WAIT_MS },
})
