#!/usr/bin/env node
// For developers: database, API rebuilt and restarted on change, and the web application with reload.
import { spawn } from 'node:child_process'
import { watch } from 'node:fs'
import { join } from 'node:path'
import { needDebian, root } from './lib/run.mjs'
import { needPackages } from './lib/packages.mjs'
import { say, step } from './lib/say.mjs'

await needPackages()
await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
const { startDatabase } = await import('./lib/database.mjs')
const { buildStale } = await import('./lib/build.mjs')
const database = await step('Starting the database', () => startDatabase(join(root, 'data-dev')))
let server = null
let stopping = false

async function serve() {
  try {
    await buildStale(['server'])
  } catch (error) {
    say(error.message)
    return
  }
  server?.kill('SIGKILL')
  server = spawn(process.execPath, ['--enable-source-maps', join(root, 'server/dist/main.mjs')], {
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    env: { ...process.env, ...database.env, VERIMEND_PORT: '4310', VERIMEND_DEMO: '1', VERIMEND_LOG: 'warn' },
  })
}
await serve()
let timer
for (const part of ['core/src', 'contract/src', 'server/src'])
  watch(join(root, part), { recursive: true }, () => {
    clearTimeout(timer)
    timer = setTimeout(serve, 200)
  })
const { createServer } = await import('vite')
const web = await createServer({ root: join(root, 'web'), configFile: join(root, 'web/vite.config.ts') })
await web.listen()
web.printUrls()
const stop = async () => {
  if (stopping) return
  stopping = true
  server?.kill('SIGKILL')
  await web.close()
  await database.stop()
  process.exit(0)
}
process.on('SIGINT', stop)
process.on('SIGTERM', stop)
