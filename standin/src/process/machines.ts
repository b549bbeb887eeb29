import { EventEmitter } from 'node:events'
import { hideable, drawnFaults, worldWith, type PropertyId } from '../machine/properties'
import { handled, type Handling } from '../machine/handling'
import type { World } from '../world'
import { Problem } from './problem'
import type { Job, JobStatus, Pace, PutMachine, Roll } from './protocol'
import { Store, type KeptMachine } from './store'

/** How often progress is told and how often it is written, ms. */
const TELLS = 150
const WRITES = 450
/** Jobs that are kept of a machine, the newest. */
const MOST_JOBS = 60

/** What the running of a job rests on. */
interface Running {
  jobId: string
  /** ms of a clock that nobody sets, and s of printing done then. */
  since: number
  from: number
  written: number
}

/** A number from a name. */
function hashed(text: string): number {
  let h = 2166136261
  for (const c of text) h = Math.imul(h ^ c.charCodeAt(0), 16777619)
  return (h >>> 0) % 2 ** 31
}

/**
 * Simulated machines and their queues: one job of each machine prints, the others wait; whoever ends makes room for the next.
 * Everything is written before it is told. A job that was printing when the process ended has failed there.
 */
export class SimulatedMachines extends EventEmitter {
  private readonly machines = new Map<string, KeptMachine>()
  private readonly jobs = new Map<string, Job>()
  private readonly running = new Map<string, Running>()
  private readonly timer: NodeJS.Timeout

  constructor(readonly store: Store) {
    super()
    this.setMaxListeners(200)
    for (const m of store.machines()) this.machines.set(m.id, m)
    for (const job of store.jobs()) {
      this.jobs.set(job.id, job)
      if (job.state !== 'printing') continue
      job.state = 'failed'
      job.reason = 'The machine lost its power while it was printing.'
      job.endedAt = new Date().toISOString()
      store.saveJob(job)
    }
    for (const m of this.machines.keys()) this.next(m)
    this.timer = setInterval(() => this.tick(), TELLS)
  }

  close(): void {
    clearInterval(this.timer)
  }

  list(): (Pick<KeptMachine, 'id' | 'name' | 'pace'> & { printing: string | null; waiting: number })[] {
    return [...this.machines.values()].map(({ id, name, pace }) => ({
      id,
      name,
      pace,
      printing: this.running.get(id)?.jobId ?? null,
      waiting: this.queue(id).length,
    }))
  }

  machine(id: string): KeptMachine {
    const m = this.machines.get(id)
    if (!m) throw new Problem(404, 'no-such-machine', 'There is no such simulated machine.')
    return m
  }

  /** Puts a machine there, or changes what it is like outside; what it hides stays as it was. */
  put(id: string, body: PutMachine): KeptMachine {
    const old = this.machines.get(id)
    const kept: KeptMachine = old
      ? { ...old, name: body.name, machine: body.machine, pace: old.pace }
      : {
          id,
          name: body.name,
          machine: body.machine,
          seed: body.seed,
          hidden: body.hidden,
          pace: body.pace,
          worlds: {},
          origins: {},
        }
    this.store.saveMachine(kept)
    this.machines.set(id, kept)
    return kept
  }

  remove(id: string): void {
    this.machine(id)
    for (const job of this.jobsOf(id)) {
      if (!job.endedAt) this.cancel(job.id)
      this.jobs.delete(job.id)
      this.store.removeJob(job.id)
    }
    this.running.delete(id)
    this.machines.delete(id)
    this.store.removeMachine(id)
  }

  setPace(id: string, pace: Pace): void {
    const m = this.machine(id)
    const run = this.running.get(id)
    if (run) {
      run.from = this.doneNow(m, run)
      run.since = performance.now()
    }
    m.pace = pace
    this.store.saveMachine(m)
  }

  /** What a machine is really like with a roll; drawn when the roll is first put in. */
  world(id: string, roll: Roll): World {
    const m = this.machine(id)
    const kept = m.worlds[roll.id]
    if (kept && kept.family === roll.family) return kept
    const others = Object.values(m.worlds)
    const hidden = this.hiddenOf(m, roll, others.length === 0)
    const drawn = worldWith(m.machine, roll.family, (m.seed ^ hashed(roll.id)) >>> 1, [])
    // the machine is the same whatever roll is in it
    const frame = others.at(-1) ?? worldWith(m.machine, roll.family, m.seed, hidden)
    const own = others.length ? drawn.roll : frame.roll
    const world: World = { ...frame, family: roll.family, seed: drawn.seed, roll: own }
    m.worlds[roll.id] = world
    m.origins[roll.id] = world
    this.store.saveMachine(m)
    return world
  }

  private hiddenOf(m: KeptMachine, roll: Roll, first: boolean): PropertyId[] {
    if (typeof m.hidden === 'number')
      return first ? drawnFaults(m.machine, roll.family, m.seed, m.hidden) : []
    const able = hideable(m.machine, roll.family)
    return (m.hidden as PropertyId[]).filter((p) => able.includes(p))
  }

  /** Does something by hand: to the machine, or to the roll that is in it. */
  handle(id: string, what: Handling, roll?: Roll): void {
    const m = this.machine(id)
    const ofRoll = what === 'dry-roll' || what === 'another-roll'
    if (ofRoll && !roll) throw new Problem(422, 'no-roll', 'Say which roll this is done to.')
    if (roll) this.world(id, roll)
    for (const [rollId, world] of Object.entries(m.worlds)) {
      if (ofRoll && rollId !== roll!.id) continue
      m.worlds[rollId] = handled(world, what)
    }
    this.store.saveMachine(m)
  }

  job(id: string): Job {
    const job = this.jobs.get(id)
    if (!job) throw new Problem(404, 'no-such-job', 'There is no such job on this machine.')
    return job
  }
  find(id: string): Job | undefined {
    return this.jobs.get(id)
  }
  jobsOf(machineId: string): Job[] {
    return [...this.jobs.values()].filter((j) => j.machineId === machineId).sort((a, b) => a.order - b.order)
  }

  /** Takes a job that was checked; it waits until it is started. */
  take(job: Omit<Job, 'order'>): Job {
    const order = 1 + Math.max(0, ...[...this.jobs.values()].map((j) => j.order))
    const kept = { ...job, order }
    this.store.saveJob(kept)
    this.jobs.set(job.id, kept)
    const old = this.jobsOf(job.machineId).filter((j) => j.endedAt)
    for (const j of old.slice(0, Math.max(0, old.length - MOST_JOBS))) {
      this.jobs.delete(j.id)
      this.store.removeJob(j.id)
    }
    return kept
  }

  private queue(machineId: string): Job[] {
    return this.jobsOf(machineId).filter((j) => j.state === 'waiting' && j.startedAt !== null)
  }

  /** Puts a job in the queue; it begins as soon as the machine is free. */
  start(id: string): Job {
    const job = this.job(id)
    if (job.state === 'paused') return this.resume(job)
    if (job.state !== 'waiting') {
      if (job.state === 'printing') return job
      throw new Problem(409, 'ended', 'This job has ended; send the file again.')
    }
    job.startedAt ??= new Date().toISOString()
    this.store.saveJob(job)
    this.next(job.machineId)
    this.tell(job)
    return job
  }

  private resume(job: Job): Job {
    if (this.running.has(job.machineId))
      throw new Problem(
        409,
        'busy',
        'The machine prints something else; this one goes on when that has ended.',
      )
    this.run(job)
    return job
  }

  private run(job: Job): void {
    job.state = 'printing'
    if (!this.store.hasWorld(job.id)) this.store.saveWorld(job.id, this.world(job.machineId, job.roll))
    this.store.saveJob(job)
    this.running.set(job.machineId, {
      jobId: job.id,
      since: performance.now(),
      from: job.done,
      written: performance.now(),
    })
    this.tell(job)
  }

  private next(machineId: string): void {
    if (this.running.has(machineId)) return
    if (this.jobsOf(machineId).some((j) => j.state === 'paused')) return
    const [job] = this.queue(machineId)
    if (job) this.run(job)
  }

  pause(id: string): Job {
    const job = this.job(id)
    if (job.state !== 'printing') throw new Problem(409, 'not-printing', 'This job is not printing.')
    this.halt(job, 'paused', null)
    return job
  }

  /** Ends a job at once: what was made so far stays. */
  cancel(id: string): Job {
    const job = this.job(id)
    if (job.endedAt) return job
    this.halt(job, 'cancelled', null)
    this.next(job.machineId)
    return job
  }

  private halt(job: Job, state: Job['state'], reason: string | null): void {
    const run = this.running.get(job.machineId)
    if (run?.jobId === job.id) {
      job.done = this.doneNow(this.machine(job.machineId), run)
      this.running.delete(job.machineId)
    }
    job.state = state
    job.reason = reason
    if (state !== 'paused') job.endedAt = new Date().toISOString()
    this.store.saveJob(job)
    this.tell(job)
  }

  /** s of printing for each s here. */
  private speed(m: KeptMachine, job: Job): number {
    return 'times' in m.pace ? m.pace.times : Math.max(1, job.total / m.pace.within)
  }
  private doneNow(m: KeptMachine, run: Running): number {
    const job = this.jobs.get(run.jobId)!
    return Math.min(job.total, run.from + ((performance.now() - run.since) / 1000) * this.speed(m, job))
  }

  private tick(): void {
    for (const [machineId, run] of [...this.running]) {
      const job = this.jobs.get(run.jobId)!
      job.done = this.doneNow(this.machine(machineId), run)
      if (job.done >= job.total) {
        this.halt(job, 'done', null)
        this.next(machineId)
        continue
      }
      if (performance.now() - run.written > WRITES) {
        run.written = performance.now()
        this.store.saveJob(job)
      }
      this.tell(job)
    }
  }

  private tell(job: Job): void {
    this.emit('job', this.status(job))
  }

  status(job: Job): JobStatus {
    const { layers, heats, order: _order, ...own } = job
    const m = this.machine(job.machineId)
    const run = this.running.get(job.machineId)
    const done = run?.jobId === job.id ? this.doneNow(m, run) : job.done
    const layer = layers.findIndex((l) => l.ends > done)
    const heat = heats.filter((h) => h.at <= done).at(-1)
    const hot = job.state === 'printing' || job.state === 'paused'
    const left = job.total - done
    return {
      ...own,
      done,
      layer: layer < 0 ? layers.length : layer + 1,
      layerCount: layers.length,
      nozzle: hot ? (heat?.nozzle ?? 20) : 24,
      bed: hot ? (heat?.bed ?? 20) : 24,
      left,
      leftHere: left / this.speed(m, job),
      waitsFor: job.state === 'waiting' ? this.queue(job.machineId).findIndex((j) => j.id === job.id) + 1 : 0,
    }
  }
}
