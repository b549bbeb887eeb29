import { createServer, type IncomingMessage, type Server, type ServerResponse } from 'node:http'
import type { CaseDetail, MachineLink, PairDetail, PairSummary, Print } from '@verimend/contract'
import { Database } from '../src/database/database.module'
import { PrintRow } from '../src/database/models'
import { TestApp } from './harness'

/** A device as the simulated machines are one, by their documented interface alone; it prints nothing. */
class FakeDevice {
  readonly jobs = new Map<string, { state: string; reason: string | null; done: number }>()
  readonly asked: string[] = []
  /** What is seen on what a job made. */
  readonly shows = new Map<string, Record<string, 0 | 1 | 2>>()
  refuses: string | null = null
  /** How many of the next requests are answered with a 503. */
  stumbles = 0
  private readonly listeners = new Set<ServerResponse>()
  private server: Server | null = null
  port = 0

  start = () =>
    new Promise<void>((ready) => {
      this.server = createServer((request, response) => void this.answer(request, response))
      this.server.listen(this.port, '127.0.0.1', () => {
        this.port = (this.server!.address() as { port: number }).port
        ready()
      })
    })
  stop = () =>
    new Promise<void>((r) => {
      this.server?.closeAllConnections()
      this.server?.close(() => r())
    })
  status = (id: string) => ({
    id,
    ...this.jobs.get(id)!,
    total: 100,
    leftHere: 3,
    layer: 2,
    layerCount: 9,
    nozzle: 210,
    bed: 60,
    waitsFor: 0,
  })
  tell(id: string, change: { state: string; reason?: string | null; done?: number }): void {
    this.jobs.set(id, { ...{ reason: null, done: 50 }, ...this.jobs.get(id), ...change })
    for (const r of this.listeners) r.write(`event: job\ndata: ${JSON.stringify(this.status(id))}\n\n`)
  }

  private async answer(request: IncomingMessage, response: ServerResponse): Promise<void> {
    const url = new URL(request.url!, 'http://device')
    this.asked.push(`${request.method} ${url.pathname}`)
    const send = (body: unknown, status = 200) => {
      response.statusCode = status
      response.setHeader('Content-Type', 'application/json')
      response.end(JSON.stringify(body))
    }
    if (request.headers.authorization !== 'Bearer a token of sixteen and more')
      return send({ title: 'no', status: 401, code: 'token' }, 401)
    if (url.pathname === '/v1/events') {
      response.setHeader('Content-Type', 'text/event-stream')
      response.flushHeaders()
      this.listeners.add(response)
      request.on('close', () => this.listeners.delete(response))
      return
    }
    for await (const _ of request) void _
    if (this.stumbles-- > 0) return send({}, 503)
    const [, , what, id, verb, job] = url.pathname.split('/')
    if (what === 'machines' && verb === 'jobs') {
      if (this.refuses) return send({ title: this.refuses, status: 422, code: 'beyond-limits' }, 422)
      this.jobs.set(job, this.jobs.get(job) ?? { state: 'waiting', reason: null, done: 0 })
      return send(this.status(job), 201)
    }
    if (what === 'machines') return send({})
    if (!this.jobs.has(id))
      return send({ title: 'There is no such job.', status: 404, code: 'no-such-job' }, 404)
    if (verb === 'report')
      return send({
        appearances: this.shows.get(id) ?? {},
        grams: 3,
        seconds: 600,
        layers: 20,
        brokeOff: false,
        box: { x0: 0, x1: 20, y0: 0, y1: 20, z0: 0, z1: 4 },
      })
    if (verb === 'start') this.jobs.get(id)!.state = 'printing'
    if (verb === 'pause') this.jobs.get(id)!.state = 'paused'
    if (verb === 'cancel') this.jobs.get(id)!.state = 'cancelled'
    send(this.status(id))
  }
}

const device = new FakeDevice()
const app = new TestApp('prints', true)
let pairId = ''
beforeAll(async () => {
  await device.start()
  process.env.VERIMEND_STANDIN_URL = `http://127.0.0.1:${device.port}`
  process.env.VERIMEND_STANDIN_TOKEN = 'a token of sixteen and more'
  await app.start()
  delete process.env.VERIMEND_STANDIN_URL
  ;[{ id: pairId }] = (await app.get('pairs')).body as PairSummary[]
})
afterAll(async () => {
  await app.stop()
  await device.stop()
})
const send = (id: string, more: object = {}) =>
  app.post('prints', { id, pairId, what: { kind: 'practice' }, ...more })
const print = async (id: string) => (await app.get(`prints/${id}`)).body as Print
const becomes = async (id: string, state: string) => {
  for (let i = 0; (await print(id)).state !== state; i++) {
    if (i > 100) throw new Error(`${id} is ${(await print(id)).state}`)
    await new Promise((r) => setTimeout(r, 50))
  }
  return print(id)
}
const ID = (n: number) => `0a0a0a0a-0000-4000-8000-00000000000${n}`

test('a print is written down, sent once, followed to its end, and steered', async () => {
  expect((await send(ID(1))).body).toMatchObject({
    state: 'printing',
    simulated: true,
    link: 'standin',
    kind: 'practice',
  })
  expect((await send(ID(1))).body.id).toBe(ID(1))
  expect(device.asked.filter((a) => a.startsWith('PUT') && a.endsWith(ID(1)))).toHaveLength(1)
  expect((await app.post(`prints/${ID(1)}/pause`)).body.state).toBe('paused')
  expect((await app.post(`prints/${ID(1)}/resume`)).body.state).toBe('printing')
  expect((await app.get(`prints/${ID(1)}/report`)).body.code).toBe('still-printing')
  device.tell(ID(1), { state: 'done', done: 100 })
  expect(await becomes(ID(1), 'done')).toMatchObject({ done: 100, left: null })
  // what has ended stays as it ended, whatever is told later
  device.tell(ID(1), { state: 'printing' })
  await new Promise((r) => setTimeout(r, 150))
  expect((await print(ID(1))).state).toBe('done')
  const file = await fetch(`http://127.0.0.1:${app.port}/api/prints/${ID(1)}/file.gcode`)
  expect(await file.text()).toContain('G1')
})

test('what the machine refuses has failed with its reason; it can be stopped on its way', async () => {
  device.refuses = 'Line 12 goes off this machine’s bed.'
  const refused = await send(ID(2))
  expect([refused.status, refused.body.code]).toEqual([422, 'print-refused'])
  expect(refused.body.detail).toContain('Line 12')
  device.refuses = null
  expect(await print(ID(2))).toMatchObject({
    state: 'failed',
    reason: 'Line 12 goes off this machine’s bed.',
  })
  await send(ID(3))
  expect((await app.post(`prints/${ID(3)}/stop`)).body.state).toBe('cancelled')
})

test('while the machines are away a print waits; when they are back it is sent, and what they no longer know has failed', async () => {
  await send(ID(4))
  expect((await print(ID(4))).state).toBe('printing')
  await device.stop()
  expect((await send(ID(5))).body.state).toBe('sending')
  expect((await app.post(`prints/${ID(4)}/pause`)).body.code).toBe('machine-away')
  device.jobs.delete(ID(4))
  await device.start()
  expect((await becomes(ID(5), 'printing')).state).toBe('printing')
  expect(await becomes(ID(4), 'failed')).toMatchObject({ reason: 'The machine no longer knows this print.' })
})

/** Takes every connection to the database for a while, as one that stands still does. */
const standsStill = async (ms: number) => {
  const { sequelize } = app.app.get(Database)
  await Promise.all(Array.from({ length: 8 }, () => sequelize.query(`DO SLEEP(${ms / 1000})`)))
}
const written = async (id: string) => (await PrintRow.findByPk(id))!.state

test('a print that ends while the database stands still has ended in it soon after, and can be looked at', async () => {
  await send(ID(8))
  const still = standsStill(3500)
  device.tell(ID(8), { state: 'done', done: 100 })
  await still
  await new Promise((r) => setTimeout(r, 3000))
  expect(await written(ID(8))).toBe('done')
  expect((await app.get(`prints/${ID(8)}/report`)).body.code).not.toBe('still-printing')
})

test('one whose sending failed once is sent again by itself, and once', async () => {
  device.stumbles = 2
  const { body } = await send(ID(9))
  expect(body.state).toBe('sending')
  device.stumbles = 0
  await becomes(ID(9), 'printing')
  expect(device.jobs.has(ID(9))).toBe(true)
  // sent once more by its sender while it is on its way
  expect((await send(ID(9))).body.state).toBe('printing')
})

test('what the machine did while nobody was told is seen at the next read, in the database as well', async () => {
  const id = '0b0b0b0b-0000-4000-8000-000000000001'
  await send(id)
  // no word of it: the connection on which machines tell is one that has lost it
  device.jobs.set(id, { state: 'cancelled', reason: null, done: 40 })
  await new Promise((r) => setTimeout(r, 2100))
  expect((await print(id)).state).toBe('cancelled')
  expect(await written(id)).toBe('cancelled')
  const none = '0b0b0b0b-0000-4000-8000-000000000002'
  await send(none)
  await new Promise((r) => setTimeout(r, 2100))
  // nothing wrong: it goes on printing
  expect([(await print(none)).state, await written(none)]).toEqual(['printing', 'printing'])
})

test('a case with a simulated print does not teach; a machine that is not joined gets its file by hand', async () => {
  const made = (await app.post('cases', { pairId, part: 'Clip' })).body as { id: string; learns: boolean }
  expect(made.learns).toBe(true)
  await send(ID(6), { caseId: made.id })
  expect((await app.get(`cases/${made.id}`)).body.learns).toBe(false)
  expect((await app.get(`prints?caseId=${made.id}`)).body).toMatchObject({
    total: 1,
    prints: [{ id: ID(6) }],
  })
  const pages = await Promise.all([0, 2].map((skip) => app.get(`prints?limit=2&skip=${skip}`)))
  const ids = pages.flatMap(({ body }) => (body.prints as Print[]).map((p) => p.id))
  expect(new Set(ids).size).toBe(4)
  expect(pages[0].body.total).toBeGreaterThan(4)
  expect((await app.get('prints?limit=1000')).status).toBe(422)
  // what its paths show is known to the case, once, however often the answer was lost
  await send(ID(6), { caseId: made.id })
  const { files } = (await app.get(`cases/${made.id}`)).body as { files: { name: string; kept: boolean }[] }
  expect(files).toMatchObject([
    { name: expect.stringMatching(/^practice-piece/), afterAttempt: 0, kept: true },
  ])
  const links = (await app.get('links')).body as MachineLink[]
  expect(links).toHaveLength(2)
  const machines = (await app.get('machines')).body as { id: string; machine: { name: string } }[]
  const own = (await app.post('machines', { machine: { ...machines[0].machine, name: 'Own' } })).body as {
    id: string
  }
  const filaments = (await app.get('filaments')).body as { id: string }[]
  const pair = (await app.post('pairs', { machineId: own.id, filamentId: filaments[0].id })).body as {
    id: string
  }
  const handed = await app.post('prints', { id: ID(7), pairId: pair.id, what: { kind: 'practice' } })
  expect(handed.body).toMatchObject({ state: 'handed-over', link: 'download', simulated: false })
  expect((await app.get(`prints/${ID(7)}/report`)).body.code).toBe('not-simulated')
  // a copy of it is a simulated machine of its own
  const copy = (await app.post(`links/${own.id}/copy`, { id: ID(8) })).body as { machineId: string }
  expect(copy.machineId).toBe(ID(8))
  expect((await app.get('links')).body).toHaveLength(3)
  const bad = await app.post('prints', {
    pairId,
    what: { kind: 'file', name: 'x.gcode', sha256: 'f'.repeat(64) },
  })
  expect([bad.status, bad.body.code]).toEqual([422, 'file-not-there'])
  expect((await app.post('practice', { kind: 'hexapod' })).status).toBe(422)
})

test('a second print’s signs are an outcome of what was changed between the two, never another first look', async () => {
  const pair = async () => (await app.get(`pairs/${pairId}`)).body as PairDetail
  const kase = (await app.post('cases', { pairId, part: 'Drip clip' })).body as { id: string }
  const looked = async (id: string, shows: Record<string, 0 | 1 | 2>) => {
    device.shows.set(id, shows)
    await send(id, { caseId: kase.id })
    device.tell(id, { state: 'done', done: 100 })
    await becomes(id, 'done')
    expect((await app.post(`prints/${id}/enter`)).status).toBe(200)
    return (await app.get(`cases/${kase.id}`)).body as CaseDetail
  }
  const id = (n: number) => `0d0d0d0d-0000-4000-8000-00000000000${n}`
  const first = await looked(id(1), { 'strings-thin': 2, 'weak-layers': 0 })
  expect(first.signs).toMatchObject({ 'strings-thin': 'present', 'weak-layers': 'absent' })
  expect(first.attempts).toEqual([])
  // the same printed again is a second look at the same thing
  const again = await looked(id(2), { 'strings-thin': 2 })
  expect(again.attempts).toEqual([])
  const { current, version } = await pair()
  const nozzle = version.values.nozzle.value
  await app.post(`pairs/${pairId}/versions`, { base: current, set: { nozzle: nozzle - 10 }, reason: '' })
  const after = await looked(id(3), { 'strings-thin': 0, 'weak-layers': 1 })
  expect(after.attempts).toMatchObject([
    {
      number: 1,
      mends: [{ key: 'nozzle', from: nozzle, to: nozzle - 10, found: { kind: 'recipe' } }],
      signsBefore: { 'strings-thin': 'present' },
      results: { 'strings-thin': 'gone' },
      newSigns: ['weak-layers'],
    },
  ])
  expect(after.signs).toMatchObject({ 'strings-thin': 'absent', 'weak-layers': 'present' })
})
