#!/usr/bin/env node
// Performance as ratios within one run. `npm run bench -- core`, `planner`, `advice`, `fits`, `loop`, `load`, `application` or `screens` runs one part.
import { buildStale } from './lib/build.mjs'
import { bundled } from './lib/bundled.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian, run } from './lib/run.mjs'

const named = process.argv.slice(2).filter((word) => !word.startsWith('--'))
const flags = process.argv.slice(2).filter((word) => word.startsWith('--'))
const bench = (source, name) => bundled(`scripts/bench/${source}.ts`, name, flags)

const parts = {
  core: () => bench('core', 'bench'),
  planner: () => bench('planner', 'planner'),
  advice: () => bench('advice', 'advice'),
  fits: () => bench('fits', 'fits'),
  loop: () => bench('loop', 'loop'),
  application: () => import('./bench/application.mjs'),
  load: () => import('./bench/load.mjs'),
  async screens() {
    await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
    await needDebian(
      'chromium-headless-shell',
      'chromium-headless-shell',
      'Chromium, which shows the screens',
    )
    await buildStale()
    await run('npx', ['playwright', 'test', '-c', 'e2e/speed'], { stdio: 'inherit' })
  },
}

const unknown = named.find((name) => !(name in parts))
if (unknown) {
  console.error(`There is no part "${unknown}"; there are ${Object.keys(parts).join(', ')}.`)
  process.exit(1)
}
await needPackages()
// the loop takes an hour, the fits some minutes and the load a minute of everything: they are run by their own names
for (const name of named.length
  ? named
  : Object.keys(parts).filter((p) => !['loop', 'load', 'fits'].includes(p)))
  await parts[name]()
