import { createHash, timingSafeEqual } from 'node:crypto'
import { createWriteStream, rmSync } from 'node:fs'
import { join } from 'node:path'
import { Transform } from 'node:stream'
import { pipeline } from 'node:stream/promises'
import express, { type NextFunction, type Request, type Response } from 'express'
import { z } from 'zod'
import { HANDLING_IDS } from '../machine/handling'
import { bedHeight, observe } from '../machine/observe'
import { truthOf } from '../machine/properties'
import { SimulatedMachines } from './machines'
import { Problem } from './problem'
import * as protocol from './protocol'
import type { Job, JobStatus } from './protocol'
import type { Store } from './store'
import type { Made } from './tasks'
import type { Runner } from './work'

/** Bytes of the largest file that is taken. */
const MOST_BYTES = 200 * 1024 * 1024
/** Places a side of the probed grid. */
const PROBED = 5

const digest = (text: string) => createHash('sha256').update(text).digest()

/** Takes what was sent apart, or says in one sentence what is wrong with it. */
function parsed<T>(schema: z.ZodType<T>, value: unknown): T {
  const done = schema.safeParse(value)
  if (done.success) return done.data
  const [issue] = done.error.issues
  throw new Problem(400, 'bad-input', `${issue.path.join('.') || 'The request'}: ${issue.message}`)
}

/**
 * The interface of the simulated machines: HTTP with JSON, and server-sent events of jobs. Every request carries the token.
 */
export function createStandin(store: Store, work: Runner, token: string) {
  const machines = new SimulatedMachines(store)
  const app = express()
  app.disable('x-powered-by')
  app.use((request, response, next) => {
    response.set('Cache-Control', 'no-store')
    const given = (request.headers.authorization ?? '').replace(/^Bearer /, '')
    if (timingSafeEqual(digest(given), digest(token))) return next()
    next(new Problem(401, 'token', 'The simulated machines ask for their token.'))
  })
  app.use(express.json({ limit: '2mb' }))

  app.get('/v1/machines', (_, response) => void response.json(machines.list()))
  app.put('/v1/machines/:machine', (request, response) => {
    const { id, name, pace } = machines.put(request.params.machine, parsed(protocol.putMachine, request.body))
    response.json({ id, name, pace })
  })
  app.delete('/v1/machines/:machine', (request, response) => {
    machines.remove(request.params.machine)
    response.status(204).end()
  })
  app.put('/v1/machines/:machine/pace', (request, response) => {
    machines.setPace(request.params.machine, parsed(protocol.paceBody, request.body).pace)
    response.status(204).end()
  })
  app.get('/v1/handlings', (_, response) => void response.json(HANDLING_IDS))
  app.post('/v1/machines/:machine/handled', (request, response) => {
    const { what, roll } = parsed(protocol.handleBody, request.body)
    machines.handle(request.params.machine, what, roll)
    response.status(204).end()
  })
  /** Heights of the bed over a grid, mm, as a probe touches them. */
  app.get('/v1/machines/:machine/bed', (request, response) => {
    const { machine } = machines.machine(request.params.machine)
    const q = parsed(protocol.rollQuery, request.query)
    const world = machines.world(request.params.machine, { id: q.roll, family: q.family })
    const { bed } = machine
    const at = (k: number, size: number) =>
      bed.shape === 'round' ? size * (k / (PROBED - 1) - 0.5) * 0.7 : size * (0.1 + (0.8 * k) / (PROBED - 1))
    const points = Array.from({ length: PROBED * PROBED }, (_, i) => {
      const [x, y] = [at(i % PROBED, bed.width), at(Math.floor(i / PROBED), bed.depth)]
      return {
        x: Number(x.toFixed(1)),
        y: Number(y.toFixed(1)),
        z: Number(bedHeight(world, machine, x, y).toFixed(3)),
      }
    })
    response.json({ columns: PROBED, rows: PROBED, points })
  })
  /** What somebody notes who looks, feels or measures without printing. */
  app.get('/v1/machines/:machine/observed', (request, response) => {
    const { machine } = machines.machine(request.params.machine)
    const q = parsed(protocol.observeQuery, request.query)
    const world = machines.world(request.params.machine, { id: q.roll, family: q.family })
    response.json(observe(q.what, world, machine, q.visit))
  })
  app.get('/v1/machines/:machine/truth', (request, response) => {
    const { machine, origins } = machines.machine(request.params.machine)
    const q = parsed(protocol.rollQuery, request.query)
    const world = machines.world(request.params.machine, { id: q.roll, family: q.family })
    response.json(truthOf(world, origins[q.roll] ?? world, machine))
  })
  app.get('/v1/machines/:machine/jobs', (request, response) => {
    machines.machine(request.params.machine)
    response.json(machines.jobsOf(request.params.machine).map((j) => machines.status(j)))
  })

  /** Takes a file; sent again under the same id it is there once. */
  app.put('/v1/machines/:machine/jobs/:job', async (request, response) => {
    const { machine: machineId, job: id } = request.params
    const { machine } = machines.machine(machineId)
    parsed(z.string().regex(/^[\w-]{1,60}$/), id)
    const q = parsed(protocol.jobQuery, request.query)
    const known = machines.find(id)
    if (known) {
      request.resume()
      return void response.json(machines.status(known))
    }
    const path = store.program(id)
    store.jobFolder(id)
    let bytes = 0
    const bounded = new Transform({
      transform(chunk: Buffer, _, done) {
        bytes += chunk.length
        done(
          bytes > MOST_BYTES ? new Problem(413, 'too-large', 'A file of at most 200 MB is taken.') : null,
          chunk,
        )
      },
    })
    try {
      await pipeline(request, bounded, createWriteStream(path, { mode: 0o600 }))
      const planned = await work.run('plan', path, machine)
      if (planned.fault) throw new Problem(422, 'beyond-limits', planned.fault)
      const job = machines.take({
        id,
        machineId,
        name: q.name,
        roll: { id: q.roll, family: q.family },
        colour: q.colour ?? null,
        state: 'waiting',
        reason: null,
        createdAt: new Date().toISOString(),
        startedAt: null,
        endedAt: null,
        total: planned.total,
        done: 0,
        layers: planned.layers,
        heats: planned.heats,
      })
      response.status(201).json(machines.status(job))
    } catch (error) {
      rmSync(join(path, '..'), { recursive: true, force: true })
      throw error
    }
  })
  app.get(
    '/v1/jobs/:job',
    (request, response) => void response.json(machines.status(machines.job(request.params.job))),
  )
  for (const verb of ['start', 'pause', 'cancel'] as const)
    app.post(`/v1/jobs/:job/${verb}`, (request, response) => {
      response.json(machines.status(machines[verb](request.params.job)))
    })

  /** What is looked at: what was made so far, in the world it was made in. */
  const madeOf = (job: Job): Made => ({
    path: store.program(job.id),
    machine: machines.machine(job.machineId).machine,
    world:
      store.world(job.id, machines.machine(job.machineId).machine) ?? machines.world(job.machineId, job.roll),
    until: job.state === 'done' ? null : machines.status(job).done,
  })
  const ended = (id: string): Job => {
    const job = machines.job(id)
    if (!job.endedAt)
      throw new Problem(
        409,
        'still-printing',
        'The part is still on the machine; look at it when it is done.',
      )
    if (!(job.done > 0))
      throw new Problem(409, 'nothing-made', 'Nothing was made: the job ended before it began.')
    return job
  }
  app.post('/v1/jobs/:job/look', async (request, response) => {
    const q = parsed(protocol.lookQuery, request.body)
    response.json(await work.run('look', madeOf(ended(request.params.job)), q))
  })
  app.post('/v1/jobs/:job/measure', async (request, response) => {
    const q = parsed(protocol.measureQuery, request.body)
    response.json(await work.run('measure', madeOf(ended(request.params.job)), q))
  })
  app.post('/v1/jobs/:job/report', async (request, response) => {
    const q = parsed(protocol.reportQuery, request.body)
    response.json(await work.run('report', madeOf(ended(request.params.job)), q))
  })
  const sendPng = (
    response: Response,
    { bytes, scale, left, top }: { bytes: Uint8Array; scale: number; left: number; top: number },
  ) =>
    void response
      .set('X-Picture', JSON.stringify({ scale, left, top }))
      .type('png')
      .send(Buffer.from(bytes.buffer, bytes.byteOffset, bytes.byteLength))
  app.get('/v1/jobs/:job/picture', async (request, response) => {
    const q = parsed(protocol.pictureQuery, request.query)
    const job = ended(request.params.job)
    sendPng(response, await work.run('picture', madeOf(job), { ...q, colour: job.colour ?? undefined }))
  })
  /** What the machine's camera sees now. */
  app.get('/v1/jobs/:job/camera', async (request, response) => {
    const job = machines.job(request.params.job)
    const made = madeOf(job)
    if (made.until === 0) throw new Problem(409, 'nothing-made', 'There is nothing on the bed yet.')
    // a still is a moment old: those of the same layer are alike
    const near =
      made.until === null
        ? null
        : (job.layers.filter((l) => l.ends <= made.until!).at(-1)?.ends ?? made.until)
    sendPng(
      response,
      await work.run(
        'picture',
        { ...made, until: near },
        { view: 'side', size: 480, colour: job.colour ?? undefined },
      ),
    )
  })

  app.get('/v1/events', (request, response) => {
    response.set({ 'Content-Type': 'text/event-stream', Connection: 'keep-alive' })
    response.flushHeaders()
    const send = (status: JobStatus) => void response.write(`event: job\ndata: ${JSON.stringify(status)}\n\n`)
    for (const { id } of machines.list())
      for (const j of machines.jobsOf(id)) if (!j.endedAt) send(machines.status(j))
    machines.on('job', send)
    const beat = setInterval(() => void response.write(': still here\n\n'), 10_000)
    request.on('close', () => {
      clearInterval(beat)
      machines.off('job', send)
    })
  })

  app.use((_request: Request, _response: Response, next: NextFunction) =>
    next(new Problem(404, 'nothing-here', 'There is nothing here.')),
  )
  app.use((error: unknown, _request: Request, response: Response, _next: NextFunction) => {
    if (response.headersSent) return void response.end()
    const problem =
      error instanceof Problem
        ? error
        : error instanceof SyntaxError
          ? new Problem(400, 'bad-input', 'The request is not JSON.')
          : new Problem(500, 'failed', 'The simulated machine could not do that.')
    if (problem.status === 500) console.error(error)
    response
      .status(problem.status)
      .type('application/problem+json')
      .json({ title: problem.message, status: problem.status, code: problem.code })
  })
  return { app, machines }
}
