import { request } from 'node:http'
import type { SignedInDevice } from '@verimend/contract'
import { cookieName, tokenOf } from '../src/access/access.controller'
import { Database } from '../src/database/database.module'
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
    /^verimend=[\w-]{43}\.[\w-]{22}; Max-Age=2592000; Path=\/; HttpOnly; SameSite=Strict,/,
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

test('at the door only a few kB are read, and nothing that nests', async () => {
  const long = await app.post('session', { passphrase: 'x', more: 'y'.repeat(5000) })
  expect(long.status).toBe(413)
  const door = (path: string, body: string) =>
    fetch(`http://127.0.0.1:${app.port}${path}`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body,
    })
  expect((await door('/no-screen', `"${'y'.repeat(5000)}"`)).status).toBe(413)
  expect((await door('/api/session', '['.repeat(200))).status).toBe(400)
  const inside = await call('POST', 'cases', await signIn(), '['.repeat(200))
  expect([inside.status, inside.body.detail]).toEqual([400, 'The request could not be read.'])
})

test('cookies that somebody made up ask nothing of the database', async () => {
  const mine = await signIn()
  expect((await call('GET', 'cases', mine)).status).toBe(200)
  const asked = jest.spyOn(app.app.get(Database).sequelize, 'query')
  const [token] = mine.slice('verimend='.length).split('.')
  const made = [
    ...Array.from({ length: 60 }, (_, i) => `${i}garbage`),
    `${token}.${'A'.repeat(22)}`,
    token,
    `${mine.slice('verimend='.length)}.`,
    `x${mine.slice('verimend='.length)}`,
  ]
  const answers = await Promise.all(made.map((made) => call('GET', 'cases', `verimend=${made}`)))
  expect(new Set(answers.map(({ status }) => status))).toEqual(new Set([401]))
  // what runs by itself meanwhile asks after prints
  const ofSessions = asked.mock.calls.filter(
    ([sql]) => !/FROM `prints`/.test(String((sql as { query?: string }).query ?? sql)),
  )
  expect(ofSessions).toEqual([])
  asked.mockRestore()
})

test('a session from before tokens were signed holds on', async () => {
  const { AccessService } = await import('../src/access/access.service')
  const token = 'A'.repeat(43)
  const access = app.app.get(AccessService)
  await SessionRow.create({
    key: access['keyOf'](token),
    agent: 'an old one',
    expiresAt: new Date(Date.now() + 1e9),
  })
  // one that comes up while it runs was not made here
  expect((await call('GET', 'cases', `verimend=${token}`)).status).toBe(401)
  // as after a start
  access['signing'] = null
  expect((await call('GET', 'cases', `verimend=${token}`)).status).toBe(200)
})

test('a stream of news ends with its session, and not before', async () => {
  const [mine, other] = [await signIn(), await signIn()]
  const listen = async (cookie: string) => {
    const response = await fetch(`http://127.0.0.1:${app.port}/api/prints/events`, { headers: { cookie } })
    expect(response.status).toBe(200)
    let ended = false
    void response.text().then(() => (ended = true))
    return () => ended
  }
  const [one, two] = [await listen(mine), await listen(other)]
  await call('DELETE', 'session', mine)
  await new Promise((r) => setTimeout(r, 200))
  expect([one(), two()]).toEqual([true, false])
  await call('DELETE', 'session?everywhere=1', other)
  await new Promise((r) => setTimeout(r, 200))
  expect(two()).toBe(true)
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

test('while an address is kept waiting, an invitation and a device that was in before come in', async () => {
  expect((await app.post('session', { passphrase: PASSPHRASE })).status).toBe(429)
  const { AccessService } = await import('../src/access/access.service')
  const { headers } = await app.post('session', { invitation: app.app.get(AccessService).invite() })
  const known = /verimend-known=[^;]+/.exec(headers.get('set-cookie')!)![0]
  expect((await call('POST', 'session', known, { passphrase: PASSPHRASE })).status).toBe(200)
  // it has guesses of its own, and no more than others; a word that it made up is none
  for (let i = 0; i < 4; i++)
    expect((await call('POST', 'session', known, { passphrase: 'wrong' })).status).toBe(401)
  expect((await call('POST', 'session', known, { passphrase: 'wrong' })).status).toBe(429)
  expect((await call('POST', 'session', known, { passphrase: PASSPHRASE })).status).toBe(429)
  expect((await call('POST', 'session', `${known}x`, { passphrase: PASSPHRASE })).status).toBe(429)
  for (let i = 0; i < 8; i++) await app.post('session', { invitation: `wrong ${i}` })
  const again = await app.post('session', { invitation: app.app.get(AccessService).invite() })
  expect(again.status).toBe(200)
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
