import { defineConfig } from '@playwright/test'
import { browser } from '../lib/browser'

/** The pictures of docs/screenshots, made anew from the demo data. */
export default defineConfig({
  testDir: '.',
  testMatch: 'pictures.ts',
  workers: 1,
  timeout: 120_000,
  reporter: 'list',
  outputDir: '../../test-results/pictures',
  use: browser,
})
