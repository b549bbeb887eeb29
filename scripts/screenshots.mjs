#!/usr/bin/env node
// Makes docs/screenshots anew from the demo data: one picture of each main view.
import { join } from 'node:path'
import { buildStale } from './lib/build.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian, root, run } from './lib/run.mjs'

await needPackages()
await needDebian('chromium-headless-shell', 'chromium-headless-shell', 'Chromium, which takes the pictures')
await buildStale()
await run(
  join(root, 'node_modules/.bin/playwright'),
  ['test', '-c', 'e2e/pictures', ...process.argv.slice(2)],
  { show: true },
)
