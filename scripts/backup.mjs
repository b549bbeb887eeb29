#!/usr/bin/env node
// Writes everything that is kept into one file, whether Verimend runs or not.
import { isAbsolute, join, resolve } from 'node:path'
import { takeFolder, usualFolder } from './lib/folder.mjs'
import { databaseElsewhere } from './lib/elsewhere.mjs'
import { optionsOf } from './lib/options.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian } from './lib/run.mjs'
import { say, step } from './lib/say.mjs'
import { tool } from './lib/tool.mjs'

const HELP = `npm run backup -- [FILE] [options]
  FILE         where to (backups/ in the data folder)
  --data DIR   data folder (verimend in the user’s data directory)
  --help`

const given = optionsOf(
  HELP,
  { data: { type: 'string' } },
  (files) => files.length > 1 && 'One file is enough.',
)
const here = process.env.INIT_CWD ?? process.cwd()
const from = (path) => (isAbsolute(path) ? path : resolve(here, path))
const folder = given.values.data ? from(given.values.data) : usualFolder().folder
const moment = new Date().toISOString()
const file = given.positionals[0]
  ? from(given.positionals[0])
  : join(
      folder,
      'backups',
      `verimend-${moment.slice(0, 10)}-${moment.slice(11, 19).replaceAll(':', '')}-asked.tar.gz`,
    )

async function main() {
  const { existsSync } = await import('node:fs')
  if (!databaseElsewhere(folder) && !existsSync(join(folder, 'mariadb-ready')))
    throw new Error(`Nothing is kept in ${folder}.`)
  await needPackages()
  await needDebian('mariadb-dump', 'mariadb-client', 'the MariaDB client')
  const { buildStale } = await import('./lib/build.mjs')
  await buildStale(['server'])
  const { startDatabase, accessOf } = await import('./lib/database.mjs')
  const { taken, other } = takeFolder(folder, 0, 'writing a backup')
  if (other?.doing) throw new Error(`Another is ${other.doing} here just now. Try again when that is done.`)
  if (other && (other.leaving || !other.databasePort))
    throw new Error(
      `Verimend is just ${other.leaving ? 'closing' : 'starting'} on this data folder. Try again in a moment.`,
    )
  let database = null
  try {
    const env = other
      ? accessOf(folder, other.databasePort)
      : (database = await step('Starting the database', () =>
          startDatabase(folder, { started: (c) => taken.started(c.pid) }),
        )).env
    const made = await step('Writing the backup', () => tool(env, 'backup', file))
    await step('Checking it', () => tool(env, 'check', file))
    say(`\n${file}\n${made.files} files and the database.`)
    if (made.missing.length) say(`${made.missing.length} kept files were not there any more.`)
  } finally {
    await database?.stop()
    taken?.release()
  }
}

main().catch((error) => {
  console.error(`\n${error.message}`)
  process.exit(1)
})
