import { defineConfig } from '@playwright/test'
import { browser } from '../lib/browser'

/** What the screens cost a slow machine's main thread; measured, never asserted. */
export default defineConfig({
  testDir: '.',
  testMatch: 'screens.ts',
  workers: 1,
  timeout: 400_000,
  reporter: 'list',
  outputDir: '../../test-results/speed',
  use: { ...browser, viewport: { width: 1280, height: 800 } },
})
