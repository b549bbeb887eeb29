#!/usr/bin/env node
// For developers, beside a running `npm start`: ports, data and builds of its own; the server starts again and the
// page reloads when a file changes.
import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import { watch } from 'node:fs'
import { join } from 'node:path'
import { takeFolder } from './lib/folder.mjs'
import { needPackages } from './lib/packages.mjs'
import { needDebian, root } from './lib/run.mjs'
import { startServer, startStandin, stopServer } from './lib/server.mjs'
import { say, step } from './lib/say.mjs'

const BUILT = '.cache/dev'
const demo = !process.argv.includes('--no-demo')
const folder = join(root, 'data-dev')
const { taken: lock, other } = takeFolder(folder, 0)
if (other) {
  say('A developer’s start is running already; it reloads by itself.')
  process.exit(0)
}
await needPackages()
await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
const { startDatabase } = await import('./lib/database.mjs')
const { buildStale } = await import('./lib/build.mjs')
const { keepStylesTyped } = await import('./lib/styles.mjs')
const database = await step('Starting the database', () => startDatabase(folder))

let server = null
const token = randomBytes(24).toString('base64url')
await buildStale(['standin'], BUILT)
const standin = await startStandin({ folder, port: 0, token, built: BUILT })
/** Free at the first start, the same at the next ones. */
let port = 0
async function serve() {
  try {
    await buildStale(['server'], BUILT)
    await stopServer(server)
    const started = await startServer({
      program: `${BUILT}/server/main.mjs`,
      env: {
        ...database.env,
        VERIMEND_PORT: String(port),
        VERIMEND_DEMO: demo ? '1' : '0',
        VERIMEND_LOG: 'warn',
        VERIMEND_STANDIN_URL: `http://127.0.0.1:${standin.port}`,
        VERIMEND_STANDIN_TOKEN: token,
      },
    })
    server = started.child
    port = started.port
  } catch (error) {
    // the next change tries again
    say(error.message)
  }
}
let web = null
let stopping = false
async function stop(code = 0) {
  if (stopping) return
  stopping = true
  await stopServer(server)
  await stopServer(standin.child)
  web?.kill('SIGTERM')
  await database.stop()
  lock.release()
  process.exit(code)
}
process.on('SIGINT', () => void stop())
process.on('SIGTERM', () => void stop())

await serve()
if (!port) {
  say('The server does not start; mend that first.')
  await stop(1)
}
let timer
let working = Promise.resolve()
for (const part of ['core/src', 'contract/src', 'server/src'])
  watch(join(root, part), { recursive: true }, () => {
    clearTimeout(timer)
    timer = setTimeout(() => (working = working.then(() => !stopping && serve())), 200)
  })
await keepStylesTyped()
// a process of its own: it would end this one when told to stop, before the database is closed in good order
web = spawn(join(root, 'node_modules/.bin/vite'), ['--clearScreen', 'false'], {
  cwd: join(root, 'web'),
  detached: true,
  stdio: ['pipe', 'inherit', 'inherit'],
  env: { ...process.env, NODE_ENV: 'development', VERIMEND_SERVER: `http://127.0.0.1:${port}` },
})
web.on('exit', () => void stop(1))
say(`\nThe server:  http://127.0.0.1:${port}\nCtrl-C stops both. Data is in ${folder}`)
