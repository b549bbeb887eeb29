import { expect, test } from '@playwright/test'
import { execFileSync, spawn } from 'node:child_process'
import {
  chmodSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  statSync,
} from 'node:fs'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { fileURLToPath } from 'node:url'
import { App } from './lib/app'

// the start itself: where it is killed, what it leaves behind, who can get at what it keeps; no browser
const root = join(fileURLToPath(import.meta.url), '..', '..')
const made: string[] = []
test.afterAll(() => made.forEach((f) => rmSync(f, { recursive: true, force: true })))
const pause = (ms: number) => new Promise((r) => setTimeout(r, ms))

/** Processes that have the folder in their command line or their environment. */
const about = (folder: string): number[] =>
  execFileSync('sh', ['-c', 'ls /proc'], { encoding: 'utf8' })
    .split('\n')
    .map(Number)
    .filter((pid) => {
      if (!pid || pid === process.pid) return false
      try {
        const of = (what: string) => readFileSync(`/proc/${pid}/${what}`, 'latin1')
        return (of('cmdline') + of('environ')).includes(folder)
      } catch {
        return false
      }
    })
const until = async (holds: () => boolean, what: string, s = 60) => {
  for (const end = Date.now() + s * 1000; !holds(); await pause(25))
    if (Date.now() > end) throw new Error(`${what} did not come`)
}

test('the database lets nobody in but the application, and its owner through the socket; what was wider is closed', async () => {
  // a folder with a name that not every program can do with, left wide open by an older start
  const app = new App(['--no-demo'], mkdtempSync(join(tmpdir(), 'verimend e2e ü ')))
  try {
    chmodSync(app.folder, 0o755)
    await app.start()
    const ask = (sql: string, ...how: string[]) =>
      execFileSync('mariadb', ['--no-defaults', '--batch', '--skip-column-names', ...how, '-e', sql], {
        encoding: 'utf8',
        stdio: ['ignore', 'pipe', 'pipe'],
      }).trim()
    const { port } = app.database()
    const password = readFileSync(join(app.folder, 'database-password'), 'utf8').trim()
    const socket = `--socket=${app.database().socket}`
    const tcp = (host: string, user: string) => [`--host=${host}`, `--port=${port}`, `--user=${user}`]
    for (const user of ['root', userInfo().username, '', 'mariadb.sys', 'nobody'])
      for (const host of ['127.0.0.1'])
        expect(() => ask('SELECT 1', ...tcp(host, user), '--skip-password'), `${user}@${host}`).toThrow(
          /denied/,
        )
    // its owner, through the socket
    const owner = [socket, '--protocol=socket', `--user=${userInfo().username}`]
    expect(ask('SELECT COUNT(*) FROM verimend.machines', ...owner)).toBe('0')
    // what an older start left: an open account and one with every right
    ask(
      "CREATE USER 'root'@'127.0.0.1'; GRANT ALL ON *.* TO 'root'@'127.0.0.1'; CREATE USER ''@'localhost'",
      ...owner,
    )
    ask("GRANT FILE ON *.* TO 'verimend'@'127.0.0.1'", ...owner)
    expect(ask('SELECT 1', ...tcp('127.0.0.1', 'root'), '--skip-password')).toBe('1')
    for (const file of ['server.log', 'standin.log', 'mariadb.log']) chmodSync(join(app.folder, file), 0o644)
    await app.stop()
    await app.start()
    const now = app.database()
    const again = [`--socket=${now.socket}`, '--protocol=socket', `--user=${userInfo().username}`]
    const users = ask("SELECT CONCAT(User,'@',Host) FROM mysql.global_priv ORDER BY 1", ...again).split('\n')
    const kept = ['mariadb.sys@localhost', 'root@localhost', `${userInfo().username}@localhost`]
    expect(users).toEqual([...new Set([...kept, 'verimend@127.0.0.1', 'verimend@localhost'])].sort())
    const app127 = [`--host=127.0.0.1`, `--port=${now.port}`, '--user=verimend', `--password=${password}`]
    expect(ask('SHOW GRANTS', ...app127)).not.toMatch(/FILE|ALL PRIVILEGES ON \*\.\*|SUPER/)
    expect(() => ask("SELECT LOAD_FILE('/etc/passwd') INTO OUTFILE '/tmp/verimend-out'", ...app127)).toThrow(
      /denied/,
    )
    for (const [file, mode] of [
      ['', 0o700],
      ['mariadb', 0o700],
      ['server.log', 0o600],
      ['standin.log', 0o600],
      ['mariadb.log', 0o600],
      ['database-init.sql', 0o600],
      ['running.json', 0o600],
    ] as const)
      expect((statSync(join(app.folder, file)).mode & 0o777).toString(8), file).toBe(mode.toString(8))
  } finally {
    await app.end()
  }
})

/** Starts it and ends the starter when a moment has come. */
async function startAndEnd(data: string, port: number, signal: NodeJS.Signals, when: () => Promise<unknown>) {
  const child = spawn(
    process.execPath,
    [join(root, 'scripts/start.mjs'), '--data', data, '--port', String(port), '--no-build', '--no-demo'],
    { stdio: 'ignore' },
  )
  const gone = new Promise<void>((r) => child.once('exit', () => r()))
  await when()
  child.kill(signal)
  await gone
}

test('killed at any moment of its start, the next start needs no hand and nothing is left running', async () => {
  const app = new App(['--no-demo'])
  // a port of its own, known beforehand: a server that is left behind would hold it
  await app.start()
  await app.stop()
  const { folder, port } = app
  try {
    const moments = [
      () => pause(120),
      () => until(() => existsSync(join(folder, 'mariadb.pid')), 'the database'),
      () => until(() => about(join(folder, 'standin')).length > 0, 'the simulated machines'),
      async () => {
        await until(() => about(`${folder}/files`).length > 0, 'the server')
        await pause(150)
      },
    ]
    for (const signal of ['SIGKILL', 'SIGINT'] as const) {
      if (signal === 'SIGINT') {
        await app.start()
        await app.stop()
      }
      for (const [i, when] of moments.entries()) {
        rmSync(join(folder, 'mariadb.pid'), { force: true })
        await startAndEnd(folder, port, signal, when)
        // told to stop it leaves nothing; killed it leaves what ends by itself, or what the next start ends
        if (signal === 'SIGINT') expect(about(folder), `after moment ${i}`).toEqual([])
      }
    }
    await startAndEnd(folder, port, 'SIGKILL', () =>
      until(() => about(`${folder}/files`).length > 0, 'the server'),
    )
    await app.start()
    expect(app.port).toBe(port)
    expect((await fetch(`${app.url}/api/machines`)).status).toBe(200)
    const servers = about(`${folder}/files`).filter((pid) => pid !== app.pid)
    expect(servers).toEqual([app.serverPid()])
  } finally {
    await app.end()
  }
})

test('a copy of a data folder without its empty marks is the same bench; one of which pieces are missing is refused and left as it is', async () => {
  const app = new App()
  const at = (name: string) => join(app.folder, name)
  try {
    await app.start()
    const machines = async () => (await fetch(`${app.url}/api/machines`)).json()
    const before = await machines()
    expect(before).toHaveLength(2)
    await app.stop()
    // a program that copies folders may leave empty files out
    rmSync(at('mariadb-ready'))
    await app.start()
    expect(await machines()).toEqual(before)
    await app.stop()
    for (const missing of ['mariadb/ibdata1', 'mariadb']) {
      renameSync(at(missing), `${app.folder}-kept`)
      const there = readdirSync(app.folder, { recursive: true }).length
      await expect(app.start()).rejects.toThrow(
        /is not whole: (ibdata1|mariadb) is missing. Nothing was changed/,
      )
      expect(existsSync(at(missing))).toBe(false)
      expect(readdirSync(app.folder, { recursive: true }).length).toBeGreaterThanOrEqual(there)
      renameSync(`${app.folder}-kept`, at(missing))
    }
    await app.start()
    expect(await machines()).toEqual(before)
  } finally {
    await app.end()
  }
})

test('a first start that is killed while the database is laid out begins anew', async () => {
  const data = mkdtempSync(join(tmpdir(), 'verimend-first-'))
  made.push(data)
  const laying = () => readdirSync(data).filter((name) => name.startsWith('mariadb-laying-'))
  // its installer goes on for a while; what is made half is not taken for a whole
  await startAndEnd(data, 0, 'SIGKILL', () =>
    until(() => laying().some((name) => existsSync(join(data, name, 'ibdata1'))), 'its files'),
  )
  mkdirSync(join(data, 'mariadb', 'half-made'), { recursive: true })
  const app = new App(['--no-demo'], data)
  try {
    await app.start()
    expect((await fetch(`${app.url}/api/health`)).status).toBe(200)
    expect(existsSync(join(data, 'mariadb', 'half-made'))).toBe(false)
    expect(laying().length).toBeLessThan(2)
  } finally {
    await app.stop()
    await until(() => about(data).length === 0, 'the end of the installer')
    await app.end()
  }
})
