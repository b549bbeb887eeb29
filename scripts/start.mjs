#!/usr/bin/env node
// Starts Verimend: installs what is missing, starts the database, builds what is stale, serves, prints the address.
import { randomBytes } from 'node:crypto'
import { createWriteStream } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { besides, takeFolder } from './lib/folder.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian, root } from './lib/run.mjs'
import { startServer, startStandin, stopServer } from './lib/server.mjs'
import { say, sinceStart, step } from './lib/say.mjs'

const HELP = `npm start -- [options]
  --port N     port on 127.0.0.1 (4310); 0: whichever is free
  --data DIR   data folder (data)
  --no-demo    leave an empty database empty
  --fresh      begin with a new data folder beside the old one; deletes nothing
  --no-build   serve what was built before
  --help`

let options
try {
  options = parseArgs({
    options: {
      port: { type: 'string', default: '4310' },
      data: { type: 'string', default: join(root, 'data') },
      'no-demo': { type: 'boolean', default: false },
      'no-build': { type: 'boolean', default: false },
      fresh: { type: 'boolean', default: false },
      help: { type: 'boolean', default: false },
    },
  }).values
} catch (error) {
  console.error(`${error.message}\n\n${HELP}`)
  process.exit(2)
}
if (options.help) {
  say(HELP)
  process.exit(0)
}
let port = Number(options.port)
if (!Number.isInteger(port) || port < 0 || port > 65535) {
  console.error(`--port takes a number from 0 to 65535, not ${options.port}.`)
  process.exit(2)
}

const folder = options.fresh ? besides(resolve(options.data)) : resolve(options.data)
const pause = (ms) => new Promise((r) => setTimeout(r, ms))
/** How long one that is closing is waited for, s. */
const CLOSING_S = 40
let claim = takeFolder(folder, 'start.mjs', port)
if (claim.other?.leaving) say('The one before is still closing; waiting for it.')
for (let i = 0; claim.other?.leaving && i < CLOSING_S * 5; i++) {
  await pause(200)
  claim = takeFolder(folder, 'start.mjs', port)
}
const { taken: lock, other } = claim
if (other) {
  say(`Verimend is running on this data folder already: http://127.0.0.1:${other.port}`)
  process.exit(0)
}

let database = null
let server = null
let standin = null
/** What the simulated machines are asked with: made anew at each start, told to nobody but the server. */
const standinToken = randomBytes(24).toString('base64url')
let standinPort = 0
let stopping = false
let serverLog = null
let standinLog = null

async function stop(code) {
  if (stopping) return
  stopping = true
  lock.leave(port)
  await stopServer(server)
  await stopServer(standin)
  await database?.stop()
  lock.release()
  process.exit(code)
}

/** Starts the simulated machines; without them the rest goes on. */
async function simulate() {
  standinLog ??= createWriteStream(join(folder, 'standin.log'), { flags: 'a', mode: 0o600 })
  const started = await startStandin({ folder, port: standinPort, token: standinToken, log: standinLog })
  standin = started.child
  // the server looks for them where they were
  standinPort = started.port
}

/** Starts the server and waits until it listens. */
async function serve() {
  serverLog ??= createWriteStream(join(folder, 'server.log'), { flags: 'a' })
  const started = await startServer({
    program: 'server/dist/main.mjs',
    env: {
      ...database.env,
      VERIMEND_PORT: String(port),
      VERIMEND_WEB: join(root, 'web/dist'),
      VERIMEND_STANDIN_URL: `http://127.0.0.1:${standinPort}`,
      VERIMEND_STANDIN_TOKEN: standinToken,
      VERIMEND_DEMO: options['no-demo'] ? '0' : '1',
      NODE_ENV: 'production',
    },
    log: serverLog,
  }).catch((error) => {
    throw new Error(`${error.message} See ${join(folder, 'server.log')}`)
  })
  server = started.child
  // whoever comes back after a crash comes back at the same address
  port = started.port
  lock.tell(port)
}

/** Keeps the server and the database up until we are asked to stop. */
function watch(startDatabase) {
  const again = async (what, work, failures = 0) => {
    if (stopping) return
    if (failures > 10) {
      say(`${what} does not start any more; giving up. See the logs in ${folder}.`)
      return stop(1)
    }
    if (!failures) say(`${what} has ended; starting it again.`)
    try {
      await work()
      say(`${what} is back.`)
    } catch (error) {
      if (stopping) return
      say(error.message)
      await pause(500)
      await again(what, work, failures + 1)
    }
  }
  const followServer = () =>
    server.once('exit', () => void again('The server', serve).then(() => !stopping && followServer()))
  const followDatabase = () =>
    void database.exit.then(() =>
      again('The database', async () => {
        database = await startDatabase(folder)
        // Its port is new: the server has to learn it. It holds nothing that is not in the database, and a
        // server without its database cannot close in good order.
        server.kill('SIGKILL')
      }).then(() => !stopping && followDatabase()),
    )
  const followStandin = () =>
    standin.once(
      'exit',
      () => void again('The simulated machines', simulate).then(() => !stopping && followStandin()),
    )
  followServer()
  followDatabase()
  followStandin()
}

async function main() {
  process.on('SIGINT', () => void stop(0))
  process.on('SIGTERM', () => void stop(0))
  process.on('SIGHUP', () => void stop(0))
  await needPackages()
  await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  const { startDatabase } = await import('./lib/database.mjs')
  const { buildStale } = await import('./lib/build.mjs')
  database = await step('Starting the database', () => startDatabase(folder))
  if (!options['no-build']) await buildStale()
  if (stopping) return database.stop()
  await simulate()
  await step('Starting the server', serve)
  watch(startDatabase)
  say(
    `\nVerimend is ready after ${sinceStart()}:  http://127.0.0.1:${port}\nCtrl-C stops it. Data is in ${folder}`,
  )
}

main().catch(async (error) => {
  console.error(`\n${error.message}`)
  await stop(1)
})
