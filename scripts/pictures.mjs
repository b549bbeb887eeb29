#!/usr/bin/env node
// Makes the pictures of signs and of grades, and the photo of the demo, anew from a simulated machine: npm run pictures
import { mkdirSync } from 'node:fs'
import { dirname, join } from 'node:path'
import { bundled } from './lib/bundled.mjs'
import { needPackages } from './lib/packages.mjs'
import { root, run } from './lib/run.mjs'

await needPackages()
const list = join(root, 'web/src/drawing/signPictures.ts')
const grades = join(root, 'web/src/trials/gradePictures.ts')
const photo = join(root, 'web/public/demo/drip-line-clips.webp')
mkdirSync(dirname(photo), { recursive: true })
await bundled('standin/pictures/make.ts', 'pictures', [
  join(root, 'web/public/signs'),
  list,
  photo,
  join(root, 'web/public/grades'),
  grades,
])
await run(join(root, 'node_modules/.bin/prettier'), ['--write', list, grades])
