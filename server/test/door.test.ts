import {
  closeSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  readdirSync,
  readFileSync,
  rmSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import express, { type NextFunction, type Request, type Response } from 'express'
import { Logger, type INestApplication } from '@nestjs/common'
import type { Problem } from '@verimend/contract'
import fc from 'fast-check'
import request from 'node:http'
import { connect, createServer, type AddressInfo, type Socket } from 'node:net'
import { DatabaseError } from 'sequelize'
import { knownNames, addressesForPhones, ownAddresses } from '../src/access/names'
import { LOOPBACK, readConfig, type Config } from '../src/config'
import { Guesses, GUESSES, GUESSES_OF_ALL, ownerOf, TURN } from '../src/access/guesses'
import { nestsTooDeep } from '../src/http/bodies'
import { limitCrowds } from '../src/http/crowd'
import { guard, hostOf } from '../src/http/guard'
import { logTo } from '../src/http/logTo'
import { headers, serveWeb } from '../src/http/web'
import { ProblemFilter } from '../src/problem/problem.filter'
import { tries } from '../../core/test/lib/property'

// what is logged here is meant to be
Logger.overrideLogger(false)

const ENV = {
  VERIMEND_DB_PORT: '1',
  VERIMEND_DB_PASSWORD: 'x',
  VERIMEND_FILES: '/tmp/none',
}
const config = (more: NodeJS.ProcessEnv = {}): Config => readConfig({ ...ENV, ...more })

describe('what goes wrong is told in a sentence', () => {
  /** What the filter answers to an error. */
  function told(error: unknown): Problem {
    let said = ''
    const response = {
      headersSent: false,
      destroyed: false,
      set: () => response,
      status: () => response,
      type: () => response,
      send: (body: string) => (said = body),
    }
    const host = { switchToHttp: () => ({ getResponse: () => response }) } as never
    new ProblemFilter().catch(error, host)
    return JSON.parse(said) as Problem
  }
  test.each([
    ['the system, writing a file', Object.assign(new Error('ENOSPC: no space left'), { code: 'ENOSPC' })],
    [
      'the database, whose table is full',
      new DatabaseError(
        Object.assign(new Error('The table is full'), { code: 'ER_RECORD_FILE_FULL', sql: '' }),
      ),
    ],
    [
      'the database, handing on the system’s number',
      new Error('Error writing file (Errcode: 28 "No space left on device")'),
    ],
  ])('a full disk, by %s', (_, error) => {
    const problem = told(error)
    expect([problem.status, problem.code]).toEqual([507, 'no-room'])
    expect(problem.detail).toMatch(/Make room/)
  })
  test('what the log cannot take is dropped: it holds nothing up', () => {
    // a device on which every write finds the disk full
    const full = openSync('/dev/full', 'w')
    expect(() => logTo(full).write('a line\n'.repeat(5000))).not.toThrow()
    closeSync(full)
  })

  test('a log that has grown long is laid aside, a few of them are kept, and no line is lost', () => {
    const folder = mkdtempSync(join(tmpdir(), 'verimend-log-'))
    const file = join(folder, 'server.log')
    const open = openSync(file, 'a')
    const log = logTo(open, 1000)
    for (let i = 0; i < 100; i++) log.write(`line ${String(i).padStart(3, '0')} ${'.'.repeat(30)}\n`)
    closeSync(open)
    expect(readdirSync(folder).sort()).toEqual(['server.log', 'server.log.1', 'server.log.2', 'server.log.3'])
    const kept = ['.3', '.2', '.1', ''].map((end) => readFileSync(`${file}${end}`, 'utf8')).join('')
    const numbers = [...kept.matchAll(/line (\d+)/g)].map(([, n]) => Number(n))
    expect(numbers.at(-1)).toBe(99)
    expect(numbers).toEqual(numbers.map((_, i) => numbers[0] + i))
    rmSync(folder, { recursive: true })
  })

  test('what nobody foresaw is a fault of ours, and gives nothing away', () => {
    const problem = told(new Error('secret: 28 is a number like any other'))
    expect(problem.status).toBe(500)
    expect(JSON.stringify(problem)).not.toContain('secret')
  })
})

describe('who is answered', () => {
  /** What becomes of a request: 'let in', or the problem's status. */
  async function ask(
    config: Config,
    {
      method = 'GET',
      path = '/api/cases',
      ...headers
    }: { method?: string; path?: string } & Record<string, string | undefined>,
  ): Promise<'let in' | number> {
    let became: 'let in' | number = 0
    const next = ((error?: { getStatus?: () => number }) => {
      became = error ? (error.getStatus?.() ?? 500) : 'let in'
    }) as unknown as NextFunction
    const accepts = (token?: string) => Promise.resolve(!config.passphrase || token === 'mine')
    await guard(config, { accepts })({ method, path, headers } as unknown as Request, {} as Response, next)
    return became
  }
  const home = config()

  test.each([
    ['127.0.0.1:4310', 'let in'],
    ['localhost:4310', 'let in'],
    ['[::1]:4310', 'let in'],
    ['LOCALHOST', 'let in'],
    ['verimend.example:4310', 403],
    ['127.0.0.1.example:4310', 403],
    ['localhost.example', 403],
    ['', 403],
    [undefined, 403],
  ])('at home, for the name %s: %s', async (host, became) => {
    expect(await ask(home, { host })).toBe(became)
  })

  test.each([
    [undefined, 'let in'],
    ['http://127.0.0.1:4310', 'let in'],
    ['http://127.0.0.1:4311', 403],
    ['http://localhost:4310', 403],
    ['https://example.org', 403],
    ['null', 403],
    ['not an address', 403],
  ])('from a page of %s: %s', async (origin, became) => {
    expect(await ask(home, { method: 'POST', host: '127.0.0.1:4310', origin })).toBe(became)
  })

  test('another site may link here, but not send anything', async () => {
    const from = { host: '127.0.0.1:4310', 'sec-fetch-site': 'cross-site' }
    expect(await ask(home, from)).toBe('let in')
    for (const method of ['POST', 'PUT', 'DELETE', 'PATCH'])
      expect(await ask(home, { ...from, method })).toBe(403)
    expect(await ask(home, { ...from, method: 'PUT', 'sec-fetch-site': 'same-origin' })).toBe('let in')
  })

  test('no name but the own ones is answered, whatever it looks like', async () => {
    const name = fc.oneof(fc.domain(), fc.ipV4(), fc.string())
    await fc.assert(
      fc.asyncProperty(name, fc.option(fc.nat(65_535)), async (name, port) => {
        const host = port === null ? name : `${name}:${port}`
        if ((await ask(home, { host })) === 'let in') expect(LOOPBACK).toContain(hostOf(host))
      }),
      tries(300),
    )
  })

  const wide = config({
    VERIMEND_HOST: '0.0.0.0',
    VERIMEND_PASSPHRASE: 'garden gate',
    VERIMEND_NAMES: 'bench.example',
  })
  const host = '127.0.0.1:4310'
  const cookie = 'theme=dark; verimend=mine'

  test('with a passphrase nothing of the API answers without a session, at home neither', async () => {
    for (const config_ of [wide, config({ VERIMEND_PASSPHRASE: 'garden gate' })]) {
      for (const path of [
        '/api/cases',
        '/API/cases',
        '/api',
        '/api/docs',
        '//api/cases',
        '/api/session/phone',
      ])
        expect([path, await ask(config_, { host, path })]).toEqual([path, 401])
      for (const wrong of ['verimend=', 'verimend=other', 'other=mine', 'verimend', '%', '=;=;'])
        expect(await ask(config_, { host, cookie: wrong })).toBe(401)
      expect(await ask(config_, { host, authorization: 'Bearer mine' })).toBe(401)
      expect(await ask(config_, { host, cookie })).toBe('let in')
      // the pages, and the way in
      for (const path of ['/', '/cases/some-id', '/assets/x.js', '/api/session'])
        expect(await ask(config_, { host, path })).toBe('let in')
      // signed in as it may be: another site stays outside
      expect(await ask(config_, { host, method: 'POST', cookie, origin: 'https://example.org' })).toBe(403)
    }
  })

  test('on every address: those of this machine are known, and the names it was told, and no other', async () => {
    const known = [
      ...ownAddresses().map((a) => (a.includes(':') ? `[${a}]` : a)),
      'bench.example',
      'localhost',
    ]
    for (const name of known)
      expect([name, await ask(wide, { host: `${name}:4310`, cookie })]).toEqual([name, 'let in'])
    for (const name of ['192.0.2.77', 'evil.example', 'bench.example.org', '0.0.0.0', ''])
      expect([name, await ask(wide, { host: `${name}:4310`, cookie })]).toEqual([name, 403])
  })

  test('on one address beyond home, only that name and the own ones are known', async () => {
    const one = config({ VERIMEND_HOST: '192.168.1.7', VERIMEND_PASSPHRASE: 'garden gate' })
    expect(await ask(one, { host: '192.168.1.7:4310', cookie })).toBe('let in')
    expect(await ask(one, { host: '192.168.1.8:4310', cookie })).toBe(403)
  })

  test('a phone is shown an address that is answered, and none where nothing is shared', () => {
    expect(addressesForPhones(home, 4310)).toEqual([])
    const secure = config({
      VERIMEND_HOST: '::',
      VERIMEND_PASSPHRASE: 'garden gate',
      VERIMEND_NAMES: 'bench.example',
      VERIMEND_TLS_CERT: 'a',
      VERIMEND_TLS_KEY: 'b',
    })
    for (const c of [wide, secure]) {
      const addresses = addressesForPhones(c, 4310)
      expect(addresses[0]).toBe(`${c.tls ? 'https' : 'http'}://bench.example:4310`)
      for (const a of addresses) expect(knownNames(c)(hostOf(new URL(a).host)!)).toBe(true)
    }
  })
})

describe('guesses', () => {
  afterEach(() => jest.useRealTimers())
  test('five wrong ones in a minute, then a wait that grows; others are not kept waiting', async () => {
    jest.useFakeTimers({ now: 1e12 })
    const guesses = new Guesses()
    const waits: number[] = []
    for (let round = 0; round < 8; round++) {
      for (let i = 0; i < GUESSES - 1; i++) expect(await guesses.wrong('a')).toBe(0)
      waits.push(await guesses.wrong('a'))
      expect(await guesses.wait('a')).toBeGreaterThan(0)
      expect(await guesses.wait('b')).toBe(0)
      jest.advanceTimersByTime(waits.at(-1)! * 1000 + 1)
      expect(await guesses.wait('a')).toBe(0)
    }
    expect(waits).toEqual([60, 120, 240, 480, 960, 1920, 3600, 3600])
  })
  test('a right one makes up for the wrong ones before it', async () => {
    const guesses = new Guesses()
    for (let i = 0; i < GUESSES - 1; i++) await guesses.wrong('a')
    await guesses.right('a')
    expect(await guesses.wrong('a')).toBe(0)
  })
  test('many addresses that guess together shut nobody out: one after the other has a turn', async () => {
    jest.useFakeTimers({ now: 1e12 })
    const guesses = new Guesses()
    expect(await guesses.turn('first')).toBe(true)
    for (let i = 0; i < GUESSES_OF_ALL; i++) await guesses.wrong(`address ${i}`)
    const had: string[] = []
    for (const who of ['a', 'b', 'honest', 'c']) void guesses.turn(who).then((turn) => turn && had.push(who))
    await jest.advanceTimersByTimeAsync(0)
    // one that waits does not wait twice
    expect(await guesses.turn('a')).toBe(false)
    await jest.advanceTimersByTimeAsync(3 * TURN)
    expect(had).toEqual(['a', 'b', 'honest'])
    expect(await guesses.wait('honest')).toBe(0)
    // a quiet minute, and nobody waits for another
    await jest.advanceTimersByTimeAsync(TURN)
    jest.advanceTimersByTime(61_000)
    expect(await guesses.turn('later')).toBe(true)
  })
  test.each([
    ['192.168.1.7', '192.168.1.7'],
    ['::ffff:192.168.1.7', '192.168.1.7'],
    ['2001:db8:1:2::1', ownerOf('2001:db8:1:2:ffff::9')],
  ])('%s belongs to %s', (address, owner) => expect(ownerOf(address)).toBe(owner))
  test('neighbours in the network are two', () => {
    expect(ownerOf('2001:db8:1:2::1')).not.toBe(ownerOf('2001:db8:1:3::1'))
    expect(ownerOf('192.168.1.7')).not.toBe(ownerOf('192.168.1.8'))
    expect(ownerOf('no address')).toBe('no address')
  })
})

describe('what is read of a body', () => {
  const bytes = (text: string) => Buffer.from(text)
  test('law: JSON is refused where it nests deeper than it may, whatever its words hold', () => {
    const deep = (value: unknown): number =>
      typeof value === 'object' && value !== null ? 1 + Math.max(0, ...Object.values(value).map(deep)) : 0
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 9, noUnicodeString: false }), fc.nat(9), (value, deepest) => {
        expect(nestsTooDeep(bytes(JSON.stringify(value)), deepest)).toBe(deep(value) > deepest)
      }),
      tries(300),
    )
  })
  test('what is no JSON is looked through as well', () => {
    expect(nestsTooDeep(bytes('['.repeat(8_000_000)))).toBe(true)
    expect(nestsTooDeep(bytes('{"a":'.repeat(100)))).toBe(true)
    expect(nestsTooDeep(bytes(`"${'['.repeat(100)}"`))).toBe(false)
    expect(nestsTooDeep(bytes('"\\'))).toBe(false)
  })
})

test('one address does not take all connections, and what it gives back it has again', async () => {
  const server = createServer((socket) => socket.on('error', () => undefined))
  limitCrowds(server, 3, () => false)
  await new Promise<void>((r) => server.listen(0, '127.0.0.1', r))
  const { port } = server.address() as AddressInfo
  const held: Socket[] = []
  /** Whether it stays open. */
  const open = () =>
    new Promise<boolean>((resolve) => {
      const socket = connect(port, '127.0.0.1')
      socket.on('error', () => undefined)
      socket.on('close', () => resolve(false))
      socket.on('connect', () => setTimeout(() => !socket.destroyed && resolve(true), 100))
      held.push(socket)
    })
  expect(await Promise.all([open(), open(), open()])).toEqual([true, true, true])
  expect(await open()).toBe(false)
  held[0].destroy()
  await new Promise((r) => setTimeout(r, 50))
  expect(await open()).toBe(true)
  for (const socket of held) socket.destroy()
  server.close()
})

describe('what it is told at its start', () => {
  test.each([
    ['a port that is none', { VERIMEND_PORT: '70000' }],
    ['a port of words', { VERIMEND_PORT: 'many' }],
    ['a database with a strange name', { VERIMEND_DB_NAME: 'a; DROP' }],
    ['a short passphrase', { VERIMEND_HOST: '0.0.0.0', VERIMEND_PASSPHRASE: 'short' }],
    ['no passphrase beyond home', { VERIMEND_HOST: '0.0.0.0' }],
    ['a certificate without its key', { VERIMEND_TLS_CERT: '/tmp/cert.pem' }],
    ['no folder for files', { VERIMEND_FILES: '' }],
    ['a word for the log it does not know', { VERIMEND_LOG: 'loud' }],
  ])('%s is refused', (_, more) => {
    expect(() => config(more)).toThrow()
  })

  test('what is left out is as usual', () => {
    expect(config()).toMatchObject({ host: '127.0.0.1', port: 4310, demo: false, log: 'info' })
  })
})

describe('the pages', () => {
  const folder = mkdtempSync(join(tmpdir(), 'verimend-web-'))
  let port = 0
  let close: () => void
  beforeAll(async () => {
    mkdirSync(join(folder, 'assets'))
    writeFileSync(join(folder, 'index.html'), '<meta name="csp-nonce" content="__NONCE__"><title>V</title>')
    writeFileSync(join(folder, 'assets', 'index-abc.js'), 'export {}')
    writeFileSync(join(folder, 'mark.svg'), '<svg/>')
    const app = express()
    app.use(headers())
    serveWeb(app as unknown as INestApplication, folder)
    app.use((_: Request, response: Response) => void response.status(404).send('nothing'))
    const server = app.listen(0, '127.0.0.1')
    await new Promise((r) => server.once('listening', r))
    port = (server.address() as AddressInfo).port
    close = () => server.close()
  })
  afterAll(() => {
    close()
    rmSync(folder, { recursive: true, force: true })
  })
  const get = (path: string, method = 'GET') =>
    new Promise<{ status: number; headers: Record<string, unknown>; text: string }>((resolve, reject) => {
      const asking = request.request({ port, path, method, host: '127.0.0.1' }, (answer) => {
        let text = ''
        answer.on('data', (d: Buffer) => (text += d.toString()))
        answer.on('end', () => resolve({ status: answer.statusCode!, headers: answer.headers, text }))
      })
      asking.on('error', reject)
      asking.end()
    })
  const nonceOf = (policy: unknown) => /'nonce-([^']+)'/.exec(String(policy))?.[1]

  test.each(['/', '/cases/some-id', '/trials/new/temperature-tower', '/anything/at/all'])(
    '%s is a screen, with a nonce that is its own',
    async (path) => {
      const [one, two] = [await get(path), await get(path)]
      expect(one.status).toBe(200)
      const nonce = nonceOf(one.headers['content-security-policy'])!
      expect(one.text).toContain(`content="${nonce}"`)
      expect(nonceOf(two.headers['content-security-policy'])).not.toBe(nonce)
      // a page that was kept would come with a nonce of yesterday
      expect(one.headers['cache-control']).toBe('no-store')
    },
  )

  test('files are files: what carries its fingerprint is kept, the rest is asked for each time', async () => {
    const script = await get('/assets/index-abc.js')
    expect(script.headers['cache-control']).toContain('immutable')
    const mark = await get('/mark.svg')
    expect(mark.status).toBe(200)
    expect(String(mark.headers['cache-control'])).toContain('max-age=0')
  })

  test.each([
    ['/assets/index-old.js', 'GET'],
    ['/missing.png', 'GET'],
    ['/api/nothing', 'GET'],
    ['/cases', 'POST'],
    ['/../../etc/passwd.txt', 'GET'],
    ['/assets/..%2f..%2fpackage.json', 'GET'],
  ])('%s (%s) is no screen', async (path, method) => {
    const { status, text } = await get(path, method)
    expect(status).toBeGreaterThanOrEqual(400)
    expect(text).not.toContain('csp-nonce')
  })

  test('nothing comes from elsewhere, nothing is framed, nothing is sniffed', async () => {
    const { headers: h } = await get('/')
    const policy = String(h['content-security-policy'])
    for (const rule of [
      "default-src 'none'",
      "script-src 'self'",
      "connect-src 'self'",
      "frame-ancestors 'none'",
      "base-uri 'none'",
    ])
      expect(policy).toContain(rule)
    expect(policy).not.toMatch(/https?:|unsafe-eval|\*/)
    // only workers that compute with solids and areas compile, and only WebAssembly
    for (const name of ['part', 'changeFile']) {
      const worker = String((await get(`/assets/${name}.worker-x.js`)).headers['content-security-policy'])
      expect(worker).toContain("script-src 'self' 'wasm-unsafe-eval';")
      expect(worker).not.toMatch(/https?:|'unsafe-eval'|\*/)
    }
    expect(h['x-content-type-options']).toBe('nosniff')
    expect(h['referrer-policy']).toBe('no-referrer')
  })

  test('a page that was not built is said', () => {
    expect(() => serveWeb(express() as unknown as INestApplication, join(folder, 'none'))).toThrow(
      /npm start or npm run build/,
    )
  })
})
