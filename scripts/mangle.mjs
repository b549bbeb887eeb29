#!/usr/bin/env node
// Gives the application nonsense: broken requests and broken files, many thousands of each. Prints what came of it; with --write
// it goes to docs/reliability.md.
import { buildStale } from './lib/build.mjs'
import { bundled } from './lib/bundled.mjs'
import { optionsOf } from './lib/options.mjs'
import { needPackages } from './lib/packages.mjs'
import { renewSection } from './lib/page.mjs'
import { needDebian } from './lib/run.mjs'

const HELP = `npm run mangle -- [options]
  --requests N   broken requests (100000)
  --files N      broken files over all readers (20000)
  --seed N       which (1)
  --write        writes docs/reliability.md
  --help`
const { values } = optionsOf(HELP, {
  requests: { type: 'string', default: '100000' },
  files: { type: 'string', default: '20000' },
  seed: { type: 'string', default: '1' },
  write: { type: 'boolean', default: false },
})

/** MB that the readers may hold. */
const HEAP = 1400

await needPackages()
await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
await buildStale()
let good = true
const said = []
if (Number(values.files) > 0) {
  const told = await bundled('scripts/mangle/files.ts', 'mangle', [values.files, values.seed], {
    external: ['sequelize', 'mariadb', '@nestjs/common', 'tar-stream', 'umzug'],
    heap: HEAP,
    keep: true,
  }).catch((error) => {
    good = false
    return error.out ?? error.message
  })
  said.push(told.trim())
}
if (Number(values.requests) > 0) {
  const { mangleRequests } = await import('./mangle/requests.mjs')
  const told = await mangleRequests(Number(values.requests), Number(values.seed))
  good &&= !told.bad.length
  for (const line of [...new Set(told.bad)].slice(0, 20)) console.error(line)
  said.push(
    `${told.requests} broken requests over every address of the interface: ${told.taken} taken, ${told.refused} refused in a sentence, ${told.busy} told to come back later, ${told.bad.length} otherwise; the slowest took ${(told.slowest / 1000).toFixed(1)} s, the server held at most ${told.memory.toFixed(0)} MB.`,
  )
}
const text = said.join('\n\n')
console.log(`\n${text}`)
if (values.write) await renewSection('docs/reliability.md', 'nonsense', `${text} Seed ${values.seed}.`)
process.exit(good ? 0 : 1)
