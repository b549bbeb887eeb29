import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import express, { type NextFunction, type Request, type Response } from 'express'
import type { INestApplication } from '@nestjs/common'
import fc from 'fast-check'
import request from 'node:http'
import type { AddressInfo } from 'node:net'
import { LOOPBACK, readConfig, type Config } from '../src/config'
import { guard, hostOf } from '../src/http/guard'
import { headers, serveWeb } from '../src/http/web'
import { tries } from '../../core/test/lib/property'

const ENV = {
  VERIMEND_DB_PORT: '1',
  VERIMEND_DB_PASSWORD: 'x',
  VERIMEND_FILES: '/tmp/none',
}
const config = (more: NodeJS.ProcessEnv = {}): Config => readConfig({ ...ENV, ...more })

describe('who is answered', () => {
  /** What becomes of a request: 'let in', a status, or the problem's status. */
  function ask(
    config: Config,
    { method = 'GET', ...headers }: { method?: string } & Record<string, string | undefined>,
  ): 'let in' | number {
    let became: 'let in' | number = 0
    const response = {
      status: (s: number) => ((became = s), response),
      set: () => response,
      send: () => response,
    } as unknown as Response
    const next = ((error?: { getStatus?: () => number; status?: number }) => {
      became = error ? (error.getStatus?.() ?? error.status ?? 403) : 'let in'
    }) as unknown as NextFunction
    guard(config)({ method, headers } as unknown as Request, response, next)
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
  ])('at home, for the name %s: %s', (host, became) => {
    expect(ask(home, { host })).toBe(became)
  })

  test.each([
    [undefined, 'let in'],
    ['http://127.0.0.1:4310', 'let in'],
    ['http://127.0.0.1:4311', 403],
    ['http://localhost:4310', 403],
    ['https://example.org', 403],
    ['null', 403],
    ['not an address', 403],
  ])('from a page of %s: %s', (origin, became) => {
    expect(ask(home, { method: 'POST', host: '127.0.0.1:4310', origin })).toBe(became)
  })

  test('another site may link here, but not send anything', () => {
    const from = { host: '127.0.0.1:4310', 'sec-fetch-site': 'cross-site' }
    expect(ask(home, from)).toBe('let in')
    for (const method of ['POST', 'PUT', 'DELETE', 'PATCH']) expect(ask(home, { ...from, method })).toBe(403)
    expect(ask(home, { ...from, method: 'PUT', 'sec-fetch-site': 'same-origin' })).toBe('let in')
  })

  test('no name but the own ones is answered, whatever it looks like', () => {
    fc.assert(
      fc.property(fc.oneof(fc.domain(), fc.ipV4(), fc.string()), fc.option(fc.nat(65_535)), (name, port) => {
        const host = port === null ? name : `${name}:${port}`
        if (ask(home, { host }) === 'let in') expect(LOOPBACK).toContain(hostOf(host))
      }),
      tries(300),
    )
  })

  const wide = config({ VERIMEND_HOST: '0.0.0.0', VERIMEND_PASSPHRASE: 'garden gate' })
  const basic = (secret: string, user = 'anyone') =>
    `Basic ${Buffer.from(`${user}:${secret}`).toString('base64')}`

  test('beyond home the passphrase is asked for, every time', () => {
    const host = '192.168.1.7:4310'
    expect(ask(wide, { host })).toBe(401)
    for (const wrong of ['garden gat', 'garden gate ', 'GARDEN GATE', '', ':garden gate'])
      expect(ask(wide, { host, authorization: basic(wrong) })).toBe(401)
    expect(ask(wide, { host, authorization: 'Bearer garden gate' })).toBe(401)
    expect(ask(wide, { host, authorization: basic('garden gate') })).toBe('let in')
    expect(ask(wide, { host, authorization: basic('garden gate', '') })).toBe('let in')
    // right as the passphrase may be: another site stays outside
    expect(
      ask(wide, { host, method: 'POST', authorization: basic('garden gate'), origin: 'https://example.org' }),
    ).toBe(403)
  })

  test('on one address beyond home, only that name and the own ones are known', () => {
    const one = config({ VERIMEND_HOST: '192.168.1.7', VERIMEND_PASSPHRASE: 'garden gate' })
    const authorization = basic('garden gate')
    expect(ask(one, { host: '192.168.1.7:4310', authorization })).toBe('let in')
    expect(ask(one, { host: '192.168.1.8:4310', authorization })).toBe(403)
  })
})

describe('what it is told at its start', () => {
  test.each([
    ['a port that is none', { VERIMEND_PORT: '70000' }],
    ['a port of words', { VERIMEND_PORT: 'many' }],
    ['a database with a strange name', { VERIMEND_DB_NAME: 'a; DROP' }],
    ['a short passphrase', { VERIMEND_HOST: '0.0.0.0', VERIMEND_PASSPHRASE: 'short' }],
    ['no passphrase beyond home', { VERIMEND_HOST: '0.0.0.0' }],
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
    // only the worker that computes with solids compiles, and only WebAssembly
    const worker = String((await get('/assets/part.worker-x.js')).headers['content-security-policy'])
    expect(worker).toContain("script-src 'self' 'wasm-unsafe-eval';")
    expect(worker).not.toMatch(/https?:|'unsafe-eval'|\*/)
    expect(h['x-content-type-options']).toBe('nosniff')
    expect(h['referrer-policy']).toBe('no-referrer')
  })

  test('a page that was not built is said', () => {
    expect(() => serveWeb(express() as unknown as INestApplication, join(folder, 'none'))).toThrow(
      /npm start or npm run build/,
    )
  })
})
