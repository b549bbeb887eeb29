import { spawn } from 'node:child_process'
import { randomBytes } from 'node:crypto'
import {
  chmodSync,
  existsSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
  statfsSync,
  writeFileSync,
} from 'node:fs'
import { createServer, connect } from 'node:net'
import { dirname, join } from 'node:path'
import { userInfo } from 'node:os'
import { aside, keepPrivate, privateFolder } from './folder.mjs'
import { databaseElsewhere } from './elsewhere.mjs'
import { databaseIn, setAside } from './pieces.mjs'
import { run } from './run.mjs'
import { say } from './say.mjs'

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

/** How the database of a folder is reached that somebody else has started. */
export const accessOf = (folder, port) =>
  databaseElsewhere(folder)?.env ?? {
    VERIMEND_DB_PORT: String(port),
    VERIMEND_DB_PASSWORD: passwordOf(folder),
    VERIMEND_FILES: join(folder, 'files'),
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
const temporary = (folder) => `--tmpdir=${privateFolder(join(folder, 'mariadb-tmp'))}`

/** MariaDB gives up its rights when root starts it, unless it is told whom to run as. */
const asOwner = () => (process.getuid?.() === 0 ? [`--user=${userInfo().username}`] : [])

/** Takes a folder away, if whoever still writes to it lets one. */
function clear(folder) {
  try {
    rmSync(folder, { recursive: true, force: true })
  } catch {
    // an installer of a killed start is at work there; a later start clears it
  }
}

/**
 * Lays the database's files on first use: in a folder of its own, which takes its name when all is there. The installer of a start
 * that was killed may go on writing; it does so elsewhere.
 */
export async function prepare(folder, signal) {
  const ready = join(folder, 'mariadb-ready')
  const { state, missing } = databaseIn(folder)
  if (state === 'whole') {
    // the mark is empty: a program that copies folders may have left it out
    if (!existsSync(ready)) writeFileSync(ready, '', { mode: 0o600 })
    return
  }
  if (state === 'broken')
    throw new Error(
      `The database in ${folder} is not whole: ${missing.join(', ')} ${missing.length > 1 ? 'are' : 'is'} missing. Nothing was changed. Copy the folder again from where it came from, or put a backup into another folder: npm run restore -- FILE --data DIR`,
    )
  if (state === 'half') say(`A half-made database was moved to ${setAside(folder, ['mariadb']).join(', ')}.`)
  const { bavail, bsize } = statfsSync(folder)
  if (bavail * bsize < NEW_DATABASE)
    throw new Error(
      `There is too little room on the disk of ${folder}: a new database takes ${NEW_DATABASE / 1e6} MB, and ${Math.round((bavail * bsize) / 1e6)} MB are free. Make room, or choose another place with --data.`,
    )
  const data = join(folder, 'mariadb')
  for (const name of readdirSync(folder)) if (name.startsWith('mariadb-laying-')) clear(join(folder, name))
  const laying = privateFolder(join(folder, `mariadb-laying-${randomBytes(6).toString('hex')}`))
  // the installer cannot do with every character of a path: it gets a plain one that leads there
  await aside(laying, (plain) =>
    run(
      'mariadb-install-db',
      [
        '--no-defaults',
        '--auth-root-authentication-method=socket',
        '--skip-test-db',
        `--datadir=${plain}`,
        `--tmpdir=${privateFolder(join(dirname(plain), 'tmp'))}`,
        ...asOwner(),
      ],
      { signal },
    ),
  )
  // an empty folder of that name gives way
  renameSync(laying, data)
  writeFileSync(ready, '', { mode: 0o600 })
}

const quoted = (text) => `'${text.replaceAll('\\', '\\\\').replaceAll("'", "''")}'`

/**
 * What the database is told at each start, one statement a line. Its accounts are those of the application, and of the
 * folder's owner through the socket; all others are taken away, and what an older start left open is closed.
 * @param password of the application
 * @param owner name of the account on this machine that owns the folder
 */
export function accounts(password, owner) {
  const own = [`${quoted(owner)}@'localhost'`]
  if (owner !== 'root') own.push(`'root'@'localhost'`)
  const app = ['localhost', '127.0.0.1'].map((host) => `'verimend'@'${host}'`)
  const kept = [...own, ...app, `'mariadb.sys'@'localhost'`]
  return [
    'CREATE DATABASE IF NOT EXISTS verimend CHARACTER SET utf8mb4;',
    ...own.flatMap((who) => [
      `CREATE USER IF NOT EXISTS ${who} IDENTIFIED VIA unix_socket;`,
      `ALTER USER ${who} IDENTIFIED VIA unix_socket;`,
      `GRANT ALL ON *.* TO ${who} WITH GRANT OPTION;`,
    ]),
    ...app.flatMap((who) => [
      `CREATE USER IF NOT EXISTS ${who};`,
      `ALTER USER ${who} IDENTIFIED BY ${quoted(password)};`,
      `REVOKE ALL PRIVILEGES, GRANT OPTION FROM ${who};`,
      `GRANT ALL ON \`verimend%\`.* TO ${who};`,
    ]),
    `SET @others = (SELECT GROUP_CONCAT(QUOTE(User), '@', QUOTE(Host)) FROM mysql.global_priv WHERE CONCAT(QUOTE(User), '@', QUOTE(Host)) NOT IN (${kept.map(quoted).join(', ')}));`,
    `EXECUTE IMMEDIATE IF(@others IS NULL, 'DO 0', CONCAT('DROP USER ', @others));`,
    'DROP DATABASE IF EXISTS test;',
    '',
  ].join('\n')
}

/** Bytes that a new database takes. */
const NEW_DATABASE = 180e6

/** How long one that is told to end while it starts may take, ms. */
const WAKING_MS = 4000
/** Starts that find their port taken by somebody who was quicker. */
const TRIES = 5

/**
 * Starts MariaDB on loopback with its own data folder, password and free port; or tells how the one is reached that
 * `VERIMEND_DATABASE_URL` names.
 * @param signal ends it again while it is starting
 * @param started told of its process as soon as it runs
 * @returns how to reach it, its process, and how to stop it
 */
export async function startDatabase(folder, { signal, started } = {}) {
  const elsewhere = databaseElsewhere(folder)
  if (elsewhere) return elsewhere
  for (let tries = 1; ; tries++) {
    try {
      return await startOnce(folder, { signal, started })
    } catch (error) {
      // between being found free and being taken a port can go to another
      if (tries === TRIES || !error.portTaken || signal?.aborted) throw error
    }
  }
}

async function startOnce(folder, { signal, started }) {
  privateFolder(folder)
  await endLeftover(folder)
  await prepare(folder, signal)
  const password = passwordOf(folder)
  const port = await freePort()
  const init = join(folder, 'database-init.sql')
  writeFileSync(init, accounts(password, userInfo().username), { mode: 0o600 })
  chmodSync(init, 0o600)
  const logFile = join(folder, 'mariadb.log')
  const log = openSync(logFile, 'a', 0o600)
  keepPrivate(logFile)
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
      '--local-infile=0',
      `--secure-file-priv=${join(folder, 'mariadb-tmp')}`,
      '--skip-log-bin',
      '--innodb-flush-log-at-trx-commit=1',
      '--innodb-buffer-pool-size=64M',
      '--character-set-server=utf8mb4',
      ...asOwner(),
    ],
    // its own group: Ctrl-C reaches the starter only, which then ends it in good order
    { stdio: ['ignore', log, log], detached: true },
  )
  started?.(child)
  // a word that comes while it is waking up may be lost on it; what it had written it finds again
  const leave = () => {
    child.kill('SIGTERM')
    setTimeout(() => child.kill('SIGKILL'), WAKING_MS).unref()
  }
  if (signal?.aborted) leave()
  signal?.addEventListener('abort', leave)
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
    if (!signal?.aborted && (await greets(port))) break
    if (i > 1200) {
      child.kill('SIGKILL')
      throw new Error(`The database did not answer in a minute; see ${logFile}`)
    }
    await pause(50)
  }
  signal?.removeEventListener('abort', leave)
  return {
    port,
    password,
    pid: child.pid,
    exit,
    env: accessOf(folder, port),
    async stop() {
      if (ended) return
      child.kill('SIGTERM')
      const late = setTimeout(() => child.kill('SIGKILL'), 15_000)
      await exit
      clearTimeout(late)
    },
  }
}
