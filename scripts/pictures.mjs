#!/usr/bin/env node
// Makes the pictures of signs anew from a simulated machine: npm run pictures
import { join } from 'node:path'
import { bundled } from './lib/bundled.mjs'
import { needPackages } from './lib/packages.mjs'
import { root, run } from './lib/run.mjs'

await needPackages()
const list = join(root, 'web/src/drawing/signPictures.ts')
await bundled('standin/pictures/make.ts', 'pictures', [join(root, 'web/public/signs'), list])
await run(join(root, 'node_modules/.bin/prettier'), ['--write', list])
