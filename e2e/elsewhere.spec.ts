import { expect, test } from '@playwright/test'
import { execFileSync, spawn, type ChildProcess } from 'node:child_process'
import { mkdirSync, mkdtempSync, rmSync } from 'node:fs'
import { connect, createServer } from 'node:net'
import { tmpdir, userInfo } from 'node:os'
import { join } from 'node:path'
import { App } from './lib/app'

// a MariaDB server of somebody's own, over TLS only, in place of the one that comes along; no browser
const folder = mkdtempSync(join(tmpdir(), 'verimend-elsewhere-'))
const apps: App[] = []
let database: ChildProcess
let port = 0
const inFolder = (name: string) => join(folder, name)
const freePort = () =>
  new Promise<number>((resolve) => {
    const s = createServer().listen(0, '127.0.0.1', () => {
      const { port } = s.address() as { port: number }
      s.close(() => resolve(port))
    })
  })
const listens = () =>
  new Promise<boolean>((resolve) => {
    const s = connect(port, '127.0.0.1')
    s.on('connect', () => (s.end(), resolve(true))).on('error', () => resolve(false))
  })
const sql = (text: string) =>
  execFileSync(
    'mariadb',
    [
      '--no-defaults',
      `--socket=${inFolder('db.sock')}`,
      `--user=${userInfo().username}`,
      '--batch',
      '--skip-column-names',
      '-e',
      text,
    ],
    { encoding: 'utf8' },
  ).trim()

test.beforeAll(async () => {
  const openssl = (...given: string[]) => execFileSync('openssl', given, { cwd: folder, stdio: 'ignore' })
  openssl(
    'req',
    '-x509',
    '-newkey',
    'rsa:2048',
    '-nodes',
    '-keyout',
    'ca.key',
    '-out',
    'ca.pem',
    '-days',
    '2',
    '-subj',
    '/CN=own authority',
  )
  openssl(
    'req',
    '-newkey',
    'rsa:2048',
    '-nodes',
    '-keyout',
    'db.key',
    '-out',
    'db.csr',
    '-subj',
    '/CN=localhost',
  )
  execFileSync(
    'sh',
    [
      '-c',
      `printf 'subjectAltName=DNS:localhost,IP:127.0.0.1' > san; openssl x509 -req -in db.csr -CA ca.pem -CAkey ca.key -CAcreateserial -days 2 -extfile san -out db.pem 2>/dev/null`,
    ],
    { cwd: folder },
  )
  mkdirSync(inFolder('data'))
  execFileSync(
    'mariadb-install-db',
    [
      '--no-defaults',
      `--datadir=${inFolder('data')}`,
      '--auth-root-authentication-method=socket',
      `--auth-root-socket-user=${userInfo().username}`,
      '--skip-test-db',
      `--user=${userInfo().username}`,
    ],
    { stdio: 'ignore' },
  )
  port = await freePort()
  database = spawn(
    'mariadbd',
    [
      '--no-defaults',
      `--datadir=${inFolder('data')}`,
      `--socket=${inFolder('db.sock')}`,
      '--bind-address=127.0.0.1',
      `--port=${port}`,
      `--ssl-cert=${inFolder('db.pem')}`,
      `--ssl-key=${inFolder('db.key')}`,
      ...(userInfo().uid === 0 ? ['--user=root'] : []),
    ],
    { stdio: 'ignore' },
  )
  for (let i = 0; i < 400 && !(await listens()); i++) await new Promise((r) => setTimeout(r, 50))
  sql(
    "CREATE DATABASE workshop; CREATE USER 'garden'@'localhost' IDENTIFIED BY 'pa ss/wört' REQUIRE SSL; GRANT ALL ON workshop.* TO 'garden'@'localhost'",
  )
})
test.afterAll(async () => {
  for (const app of apps) await app.end()
  database?.kill('SIGKILL')
  rmSync(folder, { recursive: true, force: true })
})

const URL_OF = () => `mariadb://garden:${encodeURIComponent('pa ss/wört')}@localhost:${port}/workshop`
const withDatabase = (env: NodeJS.ProcessEnv) => {
  const app = new App([], undefined, { VERIMEND_DATABASE_URL: URL_OF(), ...env })
  apps.push(app)
  return app
}

test('two starts at once on one empty database of somebody else: laid out once, served by both, over TLS; a backup of it can be made', async () => {
  // a password in the clear is not sent: what TLS asks for is not there
  await expect(withDatabase({ VERIMEND_DATABASE_TLS: 'off' }).start()).rejects.toThrow(/start ended with 1/)
  // a certificate nobody vouches for is refused
  await expect(withDatabase({ VERIMEND_DATABASE_TLS: 'verified' }).start()).rejects.toThrow(
    /start ended with 1/,
  )
  const trusted = { VERIMEND_DATABASE_TLS: 'verified', VERIMEND_DATABASE_CA: inFolder('ca.pem') }
  const [one, two] = [withDatabase(trusted), withDatabase(trusted)]
  await Promise.all([one.start(), two.start()])
  expect(one.said).toContain(`Using the database localhost:${port}/workshop`)
  const names = async (app: App) =>
    ((await (await fetch(`${app.url}/api/machines`)).json()) as { machine: { name: string } }[])
      .map((m) => m.machine.name)
      .sort()
  expect(await names(one)).toEqual(['Greenhouse', 'Potting shed'])
  expect(await names(two)).toEqual(await names(one))
  const twice = sql('SELECT name, COUNT(*) FROM workshop.migrations GROUP BY name HAVING COUNT(*) > 1')
  expect(twice).toBe('')
  expect(Number(sql('SELECT COUNT(*) FROM workshop.machines'))).toBe(2)
  // they are in, and this account is let in over TLS only
  const open = sql("SELECT COUNT(*) FROM information_schema.processlist WHERE user = 'garden'")
  expect(Number(open)).toBeGreaterThan(0)
  const file = inFolder('backup.tar.gz')
  const told = execFileSync(process.execPath, ['scripts/backup.mjs', file, '--data', one.folder], {
    encoding: 'utf8',
    env: { ...process.env, VERIMEND_DATABASE_URL: URL_OF(), ...trusted },
  })
  expect(told).toContain('files and the database')
})
