import { request } from 'node:http'
import type { SignedInDevice } from '@verimend/contract'
import { cookieName, tokenOf } from '../src/access/access.controller'
import { SessionRow } from '../src/database/models'
import { TestApp } from './harness'

const PASSPHRASE = 'tuvo-kemi-ralo'
const app = new TestApp('access', false, { VERIMEND_PASSPHRASE: PASSPHRASE, VERIMEND_NAMES: 'bench.example' })
beforeAll(() => app.start())
afterAll(() => app.stop())

const cookieOf = (headers: Headers) => (headers.get('set-cookie') ?? '').split(';')[0]
const call = (method: string, path: string, cookie?: string, body?: unknown) =>
  app.call(method, path, body, cookie ? { cookie } : {})
const signIn = async (passphrase = PASSPHRASE) =>
  cookieOf((await app.post('session', { passphrase })).headers)

test('nothing is told before the passphrase; with it everything, until one signs out', async () => {
  for (const path of ['cases', 'machines', 'health', 'openapi.json', 'docs', 'prints/events']) {
    const answer = await fetch(`http://127.0.0.1:${app.port}/api/${path}`)
    expect([path, answer.status]).toEqual([path, 401])
    expect(await answer.json()).toMatchObject({ code: 'sign-in' })
  }
  expect((await app.get('session')).body).toEqual({ needed: true, signedIn: false })
  const { headers, body } = await app.post('session', { passphrase: PASSPHRASE })
  expect(body).toEqual({ needed: true, signedIn: true })
  expect(headers.get('set-cookie')).toMatch(
    /^verimend=[\w-]{43}; Max-Age=2592000; Path=\/; HttpOnly; SameSite=Strict$/,
  )
  const cookie = cookieOf(headers)
  expect((await call('GET', 'cases', cookie)).status).toBe(200)
  expect((await call('GET', 'session', cookie)).body.signedIn).toBe(true)
  // what is kept opens nothing
  const [row] = await SessionRow.findAll()
  expect(cookie).not.toContain(row.key)
  expect((await call('GET', 'cases', `verimend=${row.key}`)).status).toBe(401)
  const out = await call('DELETE', 'session', cookie)
  expect(cookieOf(out.headers)).toBe('verimend=')
  expect((await call('GET', 'cases', cookie)).status).toBe(401)
})

test('a session that was not used for a month is over; signing out everywhere ends all', async () => {
  const one = await signIn()
  await SessionRow.update({ expiresAt: new Date(Date.now() - 1000) }, { where: {} })
  expect((await call('GET', 'cases', one)).status).toBe(401)
  const [two, three] = [await signIn(), await signIn()]
  expect(await SessionRow.count()).toBe(2)
  expect((await call('GET', 'cases', three)).status).toBe(200)
  await call('DELETE', 'session?everywhere=1', two)
  expect((await call('GET', 'cases', three)).status).toBe(401)
})

test('each device that is signed in is listed, and can be signed out by another', async () => {
  await SessionRow.destroy({ where: {} })
  const as = async (agent: string) =>
    cookieOf((await app.call('POST', 'session', { passphrase: PASSPHRASE }, { 'user-agent': agent })).headers)
  const phone = await as('Mozilla/5.0 (Linux; Android 15) Mobile')
  const computer = await as('Mozilla/5.0 (X11; Linux x86_64)')
  expect((await call('GET', 'session/devices')).status).toBe(401)
  const { body } = (await call('GET', 'session/devices', computer)) as { body: SignedInDevice[] }
  expect(body.map(({ kind, own }) => [kind, own])).toEqual(
    expect.arrayContaining([
      ['phone', false],
      ['computer', true],
    ]),
  )
  expect(body).toHaveLength(2)
  // what is listed opens nothing
  const other = body.find((d) => !d.own)!
  expect((await call('GET', 'cases', `verimend=${other.id}`)).status).toBe(401)
  expect((await call('GET', 'cases', phone)).status).toBe(200)
  const left = await call('DELETE', `session/devices/${other.id}`, computer)
  expect(left.body).toMatchObject([{ own: true }])
  expect((await call('GET', 'cases', phone)).status).toBe(401)
  expect((await call('GET', 'cases', computer)).status).toBe(200)
  // once more is no fault
  expect((await call('DELETE', `session/devices/${other.id}`, computer)).status).toBe(200)
  await SessionRow.destroy({ where: {} })
})

test('a session ends half a year after it began, however much it was used', async () => {
  const cookie = await signIn()
  await SessionRow.update({ createdAt: new Date(Date.now() - 181 * 24 * 3600_000) }, { where: {} })
  expect((await call('GET', 'cases', cookie)).status).toBe(401)
  await SessionRow.destroy({ where: {} })
})

test('over TLS the cookie is one that no other host and no plain page can set', () => {
  expect([cookieName({}), cookieName({ tls: { key: '', cert: '' } as never })]).toEqual([
    'verimend',
    '__Host-verimend',
  ])
  const headers = { cookie: 'verimend=planted; __Host-verimend=own' }
  expect(tokenOf({ headers }, { tls: { key: '', cert: '' } as never })).toBe('own')
})

test('an invitation lets one phone in, once', async () => {
  expect((await app.post('session/phone')).status).toBe(401)
  const mine = await signIn()
  // nothing is shared here, so no address and no invitation are given
  expect((await call('POST', 'session/phone', mine, {})).body).toEqual({ addresses: [], invitation: null })
  const { AccessService } = await import('../src/access/access.service')
  const invitation = app.app.get(AccessService).invite()
  const phone = cookieOf((await app.post('session', { invitation })).headers)
  expect((await call('GET', 'cases', phone)).status).toBe(200)
  const again = await app.post('session', { invitation })
  expect([again.status, again.body.detail]).toEqual([
    401,
    'This invitation no longer holds. Ask for a new one, or type the passphrase.',
  ])
})

test('bad input is a sentence; after five wrong guesses the right one waits as well', async () => {
  expect((await app.post('session', {})).body).toMatchObject({
    status: 422,
    detail: 'Please type the passphrase.',
  })
  expect((await app.post('session', { passphrase: 'x'.repeat(300) })).status).toBe(422)
  await signIn()
  for (let i = 0; i < 4; i++) {
    const { status, body } = await app.post('session', { passphrase: `wrong ${i}` })
    expect([status, body.detail]).toEqual([401, 'That is not the passphrase.'])
  }
  const fifth = await app.post('session', { passphrase: 'wrong' })
  expect(fifth.status).toBe(429)
  expect(Number(fifth.headers.get('retry-after'))).toBe(60)
  const right = await app.post('session', { passphrase: PASSPHRASE })
  expect([right.status, right.headers.get('set-cookie')]).toEqual([429, null])
})

test('what a request says of itself is not believed: its own address counts, and TRACE echoes nothing', async () => {
  // six wrong guesses, each from another address as the headers have it
  const statuses: number[] = []
  for (let i = 0; i < 6; i++) {
    const { status } = await app.call(
      'POST',
      'session',
      { passphrase: `guess ${i}` },
      {
        'x-forwarded-for': `10.0.0.${i}`,
        forwarded: `for=10.0.0.${i}`,
      },
    )
    statuses.push(status)
  }
  expect(statuses.at(-1)).toBe(429)
  const echoed = await new Promise<{ status: number; text: string }>((resolve, reject) => {
    const r = request(
      { port: app.port, method: 'TRACE', path: '/', headers: { 'x-secret': 'not to be seen' } },
      (answer) => {
        let text = ''
        answer.on('data', (d: Buffer) => (text += d.toString()))
        answer.on('end', () => resolve({ status: answer.statusCode ?? 0, text }))
      },
    )
    r.on('error', reject)
    r.end()
  })
  expect(echoed.status).toBeGreaterThanOrEqual(400)
  expect(echoed.text).not.toContain('not to be seen')
})
