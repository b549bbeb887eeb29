#!/usr/bin/env node
// Performance as ratios within one run.
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './lib/run.mjs'
import { needPackages } from './lib/packages.mjs'

await needPackages()
const { rolldown } = await import('rolldown')
const bundle = await rolldown({
  input: join(root, 'scripts/bench/bench.ts'),
  platform: 'node',
})
mkdirSync(join(root, '.cache'), { recursive: true })
const file = join(root, '.cache/bench.mjs')
await bundle.write({ file, format: 'esm' })
await import(file)
