import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import {
  chmodSync,
  existsSync,
  mkdirSync,
  openSync,
  readFileSync,
  rmSync,
  statSync,
  writeFileSync,
} from 'node:fs'
import { createServer, connect } from 'node:net'
import { join } from 'node:path'
import { userInfo } from 'node:os'
import { run } from './run.mjs'

/** A free port on loopback. */
export function freePort() {
  return new Promise((resolve, reject) => {
    const s = createServer()
    s.on('error', reject)
    s.listen(0, '127.0.0.1', () => {
      const { port } = s.address()
      s.close(() => resolve(port))
    })
  })
}

const pause = (ms) => new Promise((r) => setTimeout(r, ms))

/** Whether a MariaDB greets on the port. */
function greets(port) {
  return new Promise((resolve) => {
    const c = connect(port, '127.0.0.1')
    const end = (v) => {
      c.destroy()
      resolve(v)
    }
    c.setTimeout(1000, () => end(false))
    c.on('error', () => end(false))
    c.on('close', () => end(false)) // hung up without a word: killed while starting
    c.on('data', () => end(true))
  })
}

/** The password of this data folder's database; made once, readable by its owner only. */
function passwordOf(folder) {
  const file = join(folder, 'database-password')
  if (!existsSync(file)) writeFileSync(file, randomBytes(24).toString('base64url'), { mode: 0o600 })
  chmodSync(file, 0o600)
  return readFileSync(file, 'utf8').trim()
}

/** True when the process is there and is a MariaDB on this folder. */
export function isOurs(pid, folder) {
  try {
    const line = readFileSync(`/proc/${pid}/cmdline`, 'utf8')
    return line.includes('mariadbd') && line.includes(join(folder, 'mariadb'))
  } catch {
    return false
  }
}

/** Ends a database that a killed start has left behind. */
export async function endLeftover(folder) {
  const file = join(folder, 'mariadb.pid')
  if (!existsSync(file)) return
  const pid = Number(readFileSync(file, 'utf8'))
  if (pid > 1 && isOurs(pid, folder)) {
    process.kill(pid, 'SIGTERM')
    for (let i = 0; i < 200 && isOurs(pid, folder); i++) await pause(50)
    if (isOurs(pid, folder)) process.kill(pid, 'SIGKILL')
    for (let i = 0; i < 40 && isOurs(pid, folder); i++) await pause(50)
  }
  rmSync(file, { force: true })
}

/**
 * A place for temporary tables of its own: a MariaDB that starts clears its temporary folder, and in a shared one
 * it would take those of another that runs.
 */
function temporary(folder) {
  const own = join(folder, 'mariadb-tmp')
  mkdirSync(own, { recursive: true, mode: 0o700 })
  return `--tmpdir=${own}`
}

/** Lays the database's files on first use. */
export async function prepare(folder) {
  const data = join(folder, 'mariadb')
  if (existsSync(join(folder, 'mariadb-ready'))) return
  rmSync(data, { recursive: true, force: true }) // a first start that was killed half way
  mkdirSync(data, { recursive: true })
  const user = process.getuid?.() === 0 ? [`--user=${userInfo().username}`] : []
  await run('mariadb-install-db', [
    '--no-defaults',
    '--auth-root-authentication-method=normal',
    '--skip-test-db',
    `--datadir=${data}`,
    temporary(folder),
    ...user,
  ])
  writeFileSync(join(folder, 'mariadb-ready'), '')
}

/** Starts that find their port taken by somebody who was quicker. */
const TRIES = 5

/**
 * Starts MariaDB on loopback with its own data folder, password and free port.
 * @returns how to reach it, its process, and how to stop it
 */
export async function startDatabase(folder) {
  for (let tries = 1; ; tries++) {
    try {
      return await startOnce(folder)
    } catch (error) {
      // between being found free and being taken a port can go to another
      if (tries === TRIES || !error.portTaken) throw error
    }
  }
}

async function startOnce(folder) {
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  await endLeftover(folder)
  await prepare(folder)
  const password = passwordOf(folder)
  const port = await freePort()
  const init = join(folder, 'database-init.sql')
  const users = ['localhost', '127.0.0.1']
    .map(
      (h) =>
        `CREATE USER IF NOT EXISTS 'verimend'@'${h}';\nALTER USER 'verimend'@'${h}' IDENTIFIED BY '${password}';\nGRANT ALL ON \`verimend%\`.* TO 'verimend'@'${h}';`,
    )
    .join('\n')
  writeFileSync(
    init,
    `CREATE DATABASE IF NOT EXISTS verimend CHARACTER SET utf8mb4;\n${users}\nALTER USER 'root'@'localhost' IDENTIFIED BY '${password}';\n`,
    { mode: 0o600 },
  )
  chmodSync(init, 0o600)
  const logFile = join(folder, 'mariadb.log')
  const log = openSync(logFile, 'a')
  const logged = statSync(logFile).size
  const child = spawn(
    'mariadbd',
    [
      '--no-defaults',
      `--datadir=${join(folder, 'mariadb')}`,
      temporary(folder),
      `--socket=${join(folder, 'db.sock').length < 100 ? join(folder, 'db.sock') : `/tmp/verimend-${port}.sock`}`,
      `--pid-file=${join(folder, 'mariadb.pid')}`,
      '--bind-address=127.0.0.1',
      `--port=${port}`,
      `--init-file=${init}`,
      '--skip-name-resolve',
      '--skip-log-bin',
      '--innodb-flush-log-at-trx-commit=1',
      '--innodb-buffer-pool-size=64M',
      '--character-set-server=utf8mb4',
      ...(process.getuid?.() === 0 ? [`--user=${userInfo().username}`] : []),
    ],
    // its own group: Ctrl-C reaches the starter only, which then ends it in good order
    { stdio: ['ignore', log, log], detached: true },
  )
  let ended = null
  const exit = new Promise((resolve) =>
    child.on('exit', (code, signal) => {
      ended = { code, signal }
      resolve(ended)
    }),
  )
  for (let i = 0; ; i++) {
    if (ended) {
      const said = readFileSync(logFile, 'utf8').slice(logged)
      throw Object.assign(new Error(`The database ended at once; see ${logFile}`), {
        portTaken: /Address already in use|Do you already have another/.test(said),
      })
    }
    if (await greets(port)) break
    if (i > 600) throw new Error(`The database did not answer in a minute; see ${logFile}`)
    await pause(50)
  }
  return {
    port,
    password,
    pid: child.pid,
    exit,
    env: {
      VERIMEND_DB_PORT: String(port),
      VERIMEND_DB_PASSWORD: password,
      VERIMEND_FILES: join(folder, 'files'),
    },
    async stop() {
      if (ended) return
      child.kill('SIGTERM')
      const late = setTimeout(() => child.kill('SIGKILL'), 15_000)
      await exit
      clearTimeout(late)
    },
  }
}
