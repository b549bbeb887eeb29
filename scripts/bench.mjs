#!/usr/bin/env node
// Performance as ratios within one run. `npm run bench -- core`, `planner`, `advice`, `loop`, `application` or `screens` runs one part.
import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { buildStale } from './lib/build.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian, root, run } from './lib/run.mjs'

/** Bundles a bench written on core and runs it. */
async function bundled(source, name) {
  const { rolldown } = await import('rolldown')
  const bundle = await rolldown({
    input: join(root, `scripts/bench/${source}.ts`),
    platform: 'node',
    // its WebAssembly lies beside it
    external: ['manifold-3d'],
  })
  mkdirSync(join(root, '.cache'), { recursive: true })
  const file = join(root, `.cache/${name}.mjs`)
  await bundle.write({ file, format: 'esm' })
  await run(process.execPath, [file], { stdio: 'inherit' })
}

const parts = {
  core: () => bundled('core', 'bench'),
  planner: () => bundled('planner', 'planner'),
  advice: () => bundled('advice', 'advice'),
  loop: () => bundled('loop', 'loop'),
  application: () => import('./bench/application.mjs'),
  async screens() {
    await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
    await needDebian('chromium', 'chromium', 'Chromium, which shows the screens')
    await buildStale()
    await run('npx', ['playwright', 'test', '-c', 'e2e/speed'], { stdio: 'inherit' })
  },
}

const named = process.argv.slice(2)
const unknown = named.find((name) => !(name in parts))
if (unknown) {
  console.error(`There is no part "${unknown}"; there are ${Object.keys(parts).join(', ')}.`)
  process.exit(1)
}
await needPackages()
// the loop takes an hour: it is run by its own name
for (const name of named.length ? named : Object.keys(parts).filter((p) => p !== 'loop')) await parts[name]()
