import { mkdtempSync, rmSync } from 'node:fs'
import { createServer, type Server } from 'node:http'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { writePart } from '@verimend/core/planner'
import { deriveRecipe, printSettingsOf } from '@verimend/core/recipe'
import { createStandin } from '../src/process/app'
import type { JobStatus } from '../src/process/protocol'
import { Store } from '../src/process/store'
import * as tasks from '../src/process/tasks'
import type { Runner } from '../src/process/work'

const TOKEN = 'a token of sixteen and more'
const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const settings = printSettingsOf(deriveRecipe({ machine, filament }))
const gcode = writePart(machine, settings, { shape: 'box', width: 12, height: 4, copies: 2, apart: 25 })
// everything in one thread: the worker itself is run by the journeys
const runner = {
  run: (task: keyof typeof tasks, ...args: unknown[]) =>
    Promise.resolve().then(() => (tasks[task] as (...a: unknown[]) => unknown)(...args)),
} as unknown as Runner

const folder = mkdtempSync(join(tmpdir(), 'verimend-standin-'))
let server: Server
let stop: () => void
let url = ''

async function start(): Promise<void> {
  const { app, machines } = createStandin(new Store(folder), runner, TOKEN)
  server = createServer(app)
  await new Promise<void>((r) => server.listen(0, '127.0.0.1', () => r()))
  url = `http://127.0.0.1:${(server.address() as { port: number }).port}`
  stop = () => {
    machines.close()
    server.closeAllConnections()
    server.close()
  }
}
beforeAll(start)
afterAll(() => {
  stop()
  rmSync(folder, { recursive: true, force: true })
})

const ask = (path: string, method = 'GET', body?: unknown, token = TOKEN) =>
  fetch(url + path, {
    method,
    headers: {
      Authorization: `Bearer ${token}`,
      ...(typeof body !== 'string' && body !== undefined && { 'Content-Type': 'application/json' }),
    },
    body: body === undefined ? undefined : typeof body === 'string' ? body : JSON.stringify(body),
  })
const json = async <T = JobStatus>(response: Promise<Response>) => (await response).json() as Promise<T>
const put = (id: string, within = 0.4, hidden: unknown = 0) =>
  ask(`/v1/machines/${id}`, 'PUT', { name: id, machine, seed: 5, hidden, pace: { within } })
const send = (machineId: string, job: string, text = gcode) =>
  ask(`/v1/machines/${machineId}/jobs/${job}?name=box&roll=r1&family=pla`, 'PUT', text)
const begin = (job: string) => json(ask(`/v1/jobs/${job}/start`, 'POST'))
async function until(job: string, states: readonly string[]): Promise<JobStatus> {
  for (;;) {
    const status = await json(ask(`/v1/jobs/${job}`))
    if (states.includes(status.state)) return status
    await new Promise((r) => setTimeout(r, 30))
  }
}

test('it answers to its token only, and says in one sentence what is wrong', async () => {
  expect((await ask('/v1/machines', 'GET', undefined, 'another')).status).toBe(401)
  expect((await ask('/v1/machines/none')).status).toBe(404)
  const bad = await ask('/v1/machines/m', 'PUT', { name: '', machine, seed: 1 })
  expect(bad.status).toBe(400)
  expect(await bad.json()).toMatchObject({ code: 'bad-input' })
  expect((await ask('/v1/jobs/none/start', 'POST')).status).toBe(404)
})

test('a file is sent, waits, prints, and yields a part that can be looked at and measured', async () => {
  await put('whole')
  expect((await send('whole', 'j1')).status).toBe(201)
  // the same again is the same job
  expect((await send('whole', 'j1')).status).toBe(200)
  expect(await json(ask('/v1/jobs/j1'))).toMatchObject({ state: 'waiting', done: 0 })
  expect((await ask('/v1/jobs/j1/report', 'POST', {})).status).toBe(409)
  await begin('j1')
  const done = await until('j1', ['done'])
  expect(done.layer).toBe(done.layerCount)
  const box = { x0: 0, x1: 220, y0: 0, y1: 220, z0: 1, z1: 4 }
  const graded = await json<Record<string, Record<string, number>>>(
    ask('/v1/jobs/j1/look', 'POST', {
      eye: 'exact',
      places: [{ id: 'all', region: box, aspects: ['strings', 'bonding'] }],
    }),
  )
  expect(graded.all.strings).toBeGreaterThan(2)
  const [width] = (
    await json<Record<string, number[]>>(
      ask('/v1/jobs/j1/measure', 'POST', {
        eye: 'exact',
        places: [{ id: 'w', region: box, what: 'outside', axis: 'x' }],
      }),
    )
  ).w
  expect(width).toBeGreaterThan(48)
  expect(width).toBeLessThan(50)
  const picture = await ask('/v1/jobs/j1/picture?view=side')
  expect(
    Buffer.from(await picture.arrayBuffer())
      .subarray(1, 4)
      .toString(),
  ).toBe('PNG')
  expect(await json<object>(ask('/v1/jobs/j1/report', 'POST', {}))).toMatchObject({ brokeOff: false })
})

test('what is beyond the machine is refused with its reason, and leaves nothing behind', async () => {
  await put('limits')
  const refuse = async (text: string, says: RegExp) => {
    const response = await send('limits', 'bad', text)
    expect(response.status).toBe(422)
    expect(((await response.json()) as { title: string }).title).toMatch(says)
    expect((await ask('/v1/jobs/bad')).status).toBe(404)
  }
  await refuse(gcode.replace(/M109 S\d+/, 'M109 S400'), /400 °C at the nozzle/)
  await refuse(`${gcode}\nG1 X900 F3000\n`, /off this machine’s bed/)
  await refuse(gcode.replace(/M10[49] S\d+.*\n/g, ''), /before the nozzle is hot/)
  await refuse('G28\n', /nothing to print/)
  await refuse('', /nothing to print/)
  await refuse('\u0000\u0001 PNG ( not a file', /nothing to print/)
})

test('a queue goes on by itself; pausing waits, stopping is at once and keeps what was made', async () => {
  await put('queue', 1.5)
  for (const j of ['q1', 'q2', 'q3']) await send('queue', j)
  for (const j of ['q1', 'q2', 'q3']) await begin(j)
  expect(await json(ask('/v1/jobs/q3'))).toMatchObject({ state: 'waiting', waitsFor: 2 })
  expect(await json(ask('/v1/jobs/q2/cancel', 'POST'))).toMatchObject({ state: 'cancelled', done: 0 })
  await new Promise((r) => setTimeout(r, 400))
  const paused = await json(ask('/v1/jobs/q1/pause', 'POST'))
  expect(paused).toMatchObject({ state: 'paused' })
  await new Promise((r) => setTimeout(r, 250))
  // nobody takes the machine while a part stands on it half made
  expect(await json(ask('/v1/jobs/q3'))).toMatchObject({ state: 'waiting' })
  expect((await json(ask('/v1/jobs/q1'))).done).toBe(paused.done)
  await begin('q1')
  const stopped = await json(ask('/v1/jobs/q1/cancel', 'POST'))
  expect(stopped.state).toBe('cancelled')
  expect(stopped.done).toBeGreaterThan(0)
  expect(stopped.done).toBeLessThan(stopped.total)
  expect(await json<object>(ask('/v1/jobs/q1/report', 'POST', {}))).toMatchObject({ brokeOff: true })
  expect((await until('q3', ['done'])).state).toBe('done')
  expect((await ask('/v1/jobs/q1/start', 'POST')).status).toBe(409)
})

test('events tell of every job; after a restart what was printing has failed with what was made, what waited goes on', async () => {
  await put('power', 3)
  await send('power', 'p1')
  await send('power', 'p2')
  const events = await ask('/v1/events')
  const reader = events.body!.pipeThrough(new TextDecoderStream()).getReader()
  await begin('p1')
  await begin('p2')
  let heard = ''
  while (!heard.includes('"state":"printing"')) heard += (await reader.read()).value ?? ''
  expect(heard).toContain('event: job')
  await new Promise((r) => setTimeout(r, 700))
  stop()
  await start()
  const failed = await json(ask('/v1/jobs/p1'))
  expect(failed).toMatchObject({
    state: 'failed',
    reason: expect.stringContaining('lost its power') as string,
  })
  expect(failed.done).toBeGreaterThan(0)
  expect(await json<object>(ask('/v1/jobs/p1/report', 'POST', {}))).toMatchObject({ brokeOff: true })
  await ask('/v1/machines/power/pace', 'PUT', { pace: { within: 0.3 } })
  expect((await until('p2', ['done'])).state).toBe('done')
})

test('what is hidden stays hidden until it is asked for, is the same after a restart, and can be put right', async () => {
  await put('secret', 0.3, ['moisture'])
  type Truth = { id: string; broken: boolean; wasBroken: boolean; value: number }[]
  const truth = () => json<Truth>(ask('/v1/machines/secret/truth?roll=r1&family=pla'))
  const before = await truth()
  expect(before.filter((t) => t.broken).map((t) => t.id)).toEqual(['moisture'])
  expect((await ask('/v1/machines')).status).toBe(200)
  expect(JSON.stringify(await json<object>(ask('/v1/machines')))).not.toContain('moisture')
  stop()
  await start()
  expect(await truth()).toEqual(before)
  await ask('/v1/machines/secret/handled', 'POST', { what: 'dry-roll', roll: { id: 'r1', family: 'pla' } })
  const moisture = (await truth()).find((t) => t.id === 'moisture')
  expect(moisture).toMatchObject({ broken: false, wasBroken: true })
  // another roll on the same machine is another roll
  const other = await json<Truth>(ask('/v1/machines/secret/truth?roll=r2&family=pla'))
  expect(other.find((t) => t.id === 'moisture')!.value).not.toBe(moisture!.value)
  expect(other.find((t) => t.id === 'slack')!.value).toBe(before.find((t) => t.id === 'slack')!.value)
  const seen = await json<object>(
    ask('/v1/machines/secret/observed?roll=r1&family=pla&what=measure-diameter'),
  )
  expect(seen).toMatchObject({ unit: 'mm', values: expect.any(Array) as unknown[] })
  expect(
    (await json<{ points: unknown[] }>(ask('/v1/machines/secret/bed?roll=r1&family=pla'))).points,
  ).toHaveLength(25)
})
