#!/usr/bin/env node
// Puts back what a backup holds, into an empty or a new data folder.
import { existsSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { isAbsolute, join, resolve } from 'node:path'
import { takeFolder, usualFolder } from './lib/folder.mjs'
import { databaseElsewhere } from './lib/elsewhere.mjs'
import { optionsOf } from './lib/options.mjs'
import { needPackages } from './lib/packages.mjs'
import { setAside } from './lib/pieces.mjs'
import { end } from './lib/processes.mjs'
import { needDebian } from './lib/run.mjs'
import { say, step } from './lib/say.mjs'
import { tool } from './lib/tool.mjs'

const HELP = `npm run restore -- FILE [options]
  FILE         a backup
  --data DIR   data folder it is restored into: an empty or a new one (verimend in the user’s data directory)
  --help`

const given = optionsOf(
  HELP,
  { data: { type: 'string' } },
  (files) => files.length !== 1 && 'Which backup? Give its file.',
)
const here = process.env.INIT_CWD ?? process.cwd()
const from = (path) => (isAbsolute(path) ? path : resolve(here, path))
const file = from(given.positionals[0])
const folder = given.values.data ? from(given.values.data) : usualFolder().folder

async function main() {
  await needPackages()
  if (databaseElsewhere(folder)) await needDebian('mariadb', 'mariadb-client', 'the MariaDB client')
  else await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  const { buildStale } = await import('./lib/build.mjs')
  await buildStale(['server'])
  const held = await step('Checking the backup', () => tool({}, 'check', file))
  const { taken, other, left } = takeFolder(folder, 0, 'putting a backup back')
  if (other?.doing) throw new Error(`Another is ${other.doing} here just now. Try again when that is done.`)
  if (other) throw new Error(`Verimend is running on ${folder}. Stop it, or restore into another folder.`)
  const { startDatabase } = await import('./lib/database.mjs')
  const mark = join(folder, 'restoring')
  let database = null
  try {
    for (const one of left) await end(one)
    const elsewhere = databaseElsewhere(folder)
    // what a restore that was cut short has left in this very database may be written over; nothing else may
    const over = !!elsewhere && existsSync(mark) && readFileSync(mark, 'utf8') === elsewhere.where
    if (!elsewhere && existsSync(mark)) {
      const aside = setAside(folder, ['mariadb', 'mariadb-ready', 'files', 'standin'])
      if (aside.length) say(`What a restore that was cut short had written is now ${aside.join(', ')}.`)
    }
    database = await step('Starting the database', () =>
      startDatabase(folder, { started: (c) => taken.started(c.pid) }),
    )
    if (!over) await tool(database.env, 'empty')
    // from here on the folder is nobody's bench until all of the backup is in it
    writeFileSync(mark, elsewhere?.where ?? '', { mode: 0o600 })
    await step('Restoring', () =>
      tool({ ...database.env, VERIMEND_RESTORE: over ? 'over' : '' }, 'restore', file),
    )
    rmSync(mark, { force: true })
    say(
      `\nRestored as it was on ${held.madeAt.slice(0, 10)}: the database and ${held.files} files, each checked.`,
    )
    if (held.missing.length) say(`${held.missing.length} kept files were missing already when it was made.`)
    say(`Data is in ${folder}. Start it with: npm start${given.values.data ? ` -- --data ${folder}` : ''}`)
  } finally {
    await database?.stop()
    taken.release()
  }
}

main().catch((error) => {
  console.error(`\n${error.message}`)
  process.exit(1)
})
