#!/usr/bin/env node
// Starts Verimend: installs what is missing, starts the database, builds what is stale, serves, prints the address.
import { spawn } from 'node:child_process'
import { createWriteStream, existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join, resolve } from 'node:path'
import { parseArgs } from 'node:util'
import { needDebian, root } from './lib/run.mjs'
import { needPackages } from './lib/packages.mjs'
import { say, sinceStart, step } from './lib/say.mjs'

const HELP = `npm start -- [options]
  --port N     port on 127.0.0.1 (4310)
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
const port = Number(options.port)
if (!Number.isInteger(port) || port < 1 || port > 65535) {
  console.error(`--port takes a number from 1 to 65535, not ${options.port}.`)
  process.exit(2)
}

let folder = resolve(options.data)
if (options.fresh && existsSync(folder)) {
  const day = new Date().toISOString().slice(0, 10)
  let n = 1
  while (existsSync(`${folder}-${day}-${n}`)) n++
  folder = `${folder}-${day}-${n}`
}

const lock = join(folder, 'running.json')
const alive = (pid) => {
  try {
    process.kill(pid, 0)
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes('start.mjs')
  } catch (error) {
    return error.code === 'EPERM'
  }
}

/** Takes the data folder for this start; says where the first one is when it is taken. */
function take() {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  for (let tries = 0; tries < 2; tries++) {
    try {
      writeFileSync(lock, JSON.stringify({ pid: process.pid, port }), { flag: 'wx' })
      return
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
    }
    let other = {}
    try {
      other = JSON.parse(readFileSync(lock, 'utf8'))
    } catch {
      // a lock that was being written when its owner was killed
    }
    if (other.pid && other.pid !== process.pid && alive(other.pid)) {
      say(`Verimend is running on this data folder already: http://127.0.0.1:${other.port}`)
      process.exit(0)
    }
    rmSync(lock, { force: true })
  }
  throw new Error(`The data folder ${folder} cannot be taken.`)
}

let database = null
let server = null
let stopping = false
let serverLog = null

async function stop(code) {
  if (stopping) return
  stopping = true
  if (server && server.exitCode === null && server.signalCode === null) {
    const gone = new Promise((r) => server.once('exit', r))
    server.kill('SIGTERM')
    const late = setTimeout(() => server.kill('SIGKILL'), 8000)
    await gone
    clearTimeout(late)
  }
  await database?.stop()
  rmSync(lock, { force: true })
  process.exit(code)
}

/** Starts the server and waits until it listens. */
function startServer() {
  return new Promise((resolveListening, reject) => {
    serverLog ??= createWriteStream(join(folder, 'server.log'), { flags: 'a' })
    const child = spawn(process.execPath, ['--enable-source-maps', join(root, 'server/dist/main.mjs')], {
      cwd: root,
      detached: true,
      stdio: ['ignore', 'pipe', 'pipe', 'ipc'],
      env: {
        ...process.env,
        ...database.env,
        VERIMEND_PORT: String(port),
        VERIMEND_WEB: join(root, 'web/dist'),
        VERIMEND_DEMO: options['no-demo'] ? '0' : '1',
        NODE_ENV: 'production',
      },
    })
    server = child
    child.stdout.pipe(serverLog, { end: false })
    child.stderr.pipe(serverLog, { end: false })
    child.on('message', (m) => {
      if (m.listening) resolveListening(m.listening)
      if (m.failed)
        reject(
          new Error(
            m.failed.includes('EADDRINUSE') ? `Port ${port} is taken; choose another with --port.` : m.failed,
          ),
        )
    })
    child.on('exit', (code, signal) =>
      reject(new Error(`The server ended (${signal ?? code}); see ${join(folder, 'server.log')}`)),
    )
  })
}

const pause = (ms) => new Promise((r) => setTimeout(r, ms))

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
    server.once('exit', () => void again('The server', startServer).then(() => !stopping && followServer()))
  const followDatabase = () =>
    void database.exit.then(() =>
      again('The database', async () => {
        database = await startDatabase(folder)
        // Its port is new: the server has to learn it. It holds nothing that is not in the database, and a
        // server without its database cannot close in good order.
        server.kill('SIGKILL')
      }).then(() => !stopping && followDatabase()),
    )
  followServer()
  followDatabase()
}

async function main() {
  take()
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
  await step('Starting the server', startServer)
  watch(startDatabase)
  say(
    `\nVerimend is ready after ${sinceStart()}:  http://127.0.0.1:${port}\nCtrl-C stops it. Data is in ${folder}`,
  )
}

main().catch(async (error) => {
  console.error(`\n${error.message}`)
  await stop(1)
})
