#!/usr/bin/env node
// Writes docs/recipe-2.schema.json anew: what a recipe file has to look like.
import { mkdirSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { needPackages } from './lib/packages.mjs'
import { root, run } from './lib/run.mjs'

await needPackages()
const { rolldown } = await import('rolldown')
const bundle = await rolldown({ input: join(root, 'contract/src/index.ts'), platform: 'node' })
const file = join(root, '.cache/contract.mjs')
mkdirSync(join(root, '.cache'), { recursive: true })
await bundle.write({ file, format: 'esm' })
const { recipeFileJsonSchema } = await import(file)
const schema = join(root, 'docs/recipe-2.schema.json')
writeFileSync(schema, `${JSON.stringify(recipeFileJsonSchema(), null, 2)}\n`)
await run(join(root, 'node_modules/.bin/prettier'), ['--write', schema])
