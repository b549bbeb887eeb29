import {
  closeSync,
  fsyncSync,
  mkdirSync,
  openSync,
  readdirSync,
  readFileSync,
  renameSync,
  rmSync,
  writeSync,
} from 'node:fs'
import { join } from 'node:path'
import type { Machine } from '@verimend/core/machine'
import { upgradedWorld, type World } from '../world'
import type { Job, Pace } from './protocol'

/** A simulated machine as it is kept. */
export interface KeptMachine {
  id: string
  name: string
  machine: Machine
  seed: number
  hidden: string[] | number
  pace: Pace
  /** What it is really like with each roll that was put in, by roll. */
  worlds: Record<string, World>
  /** The same as they were drawn, before anything was done by hand. */
  origins: Record<string, World>
}

/** Writes a file whole or not at all: another name first, synced, then renamed. */
export function writeWhole(path: string, text: string): void {
  const part = `${path}.part`
  const file = openSync(part, 'w', 0o600)
  writeSync(file, text)
  fsyncSync(file)
  closeSync(file)
  renameSync(part, path)
}

// what has no end in a machine is written as a word: JSON has none for it
const toText = (value: unknown) => JSON.stringify(value, (_, v: unknown) => (v === Infinity ? 'endless' : v))
const fromText = (text: string): unknown =>
  JSON.parse(text, (_, v: unknown) => (v === 'endless' ? Infinity : v))

/** What was kept by an earlier version, as this one knows it. */
function upgraded(kept: KeptMachine): KeptMachine {
  const all = (worlds: Record<string, World>) =>
    Object.fromEntries(Object.entries(worlds).map(([roll, w]) => [roll, upgradedWorld(w, kept.machine)]))
  return { ...kept, worlds: all(kept.worlds), origins: all(kept.origins) }
}

/** Machines and jobs in a folder: a file each, and a folder a job. */
export class Store {
  constructor(private readonly folder: string) {
    mkdirSync(join(folder, 'machines'), { recursive: true, mode: 0o700 })
    mkdirSync(join(folder, 'jobs'), { recursive: true, mode: 0o700 })
  }

  private read<T>(path: string): T | null {
    try {
      return fromText(readFileSync(path, 'utf8')) as T
    } catch {
      return null
    }
  }

  machines(): KeptMachine[] {
    return readdirSync(join(this.folder, 'machines'))
      .filter((name) => name.endsWith('.json'))
      .flatMap((name) => {
        const kept = this.read<KeptMachine>(join(this.folder, 'machines', name))
        return kept ? [upgraded(kept)] : []
      })
  }
  saveMachine(m: KeptMachine): void {
    writeWhole(join(this.folder, 'machines', `${m.id}.json`), toText(m))
  }
  removeMachine(id: string): void {
    rmSync(join(this.folder, 'machines', `${id}.json`), { force: true })
  }

  jobs(): Job[] {
    return readdirSync(join(this.folder, 'jobs')).flatMap(
      (id) => this.read<Job>(join(this.folder, 'jobs', id, 'job.json')) ?? [],
    )
  }
  jobFolder(id: string): string {
    const folder = join(this.folder, 'jobs', id)
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    return folder
  }
  program(id: string): string {
    return join(this.folder, 'jobs', id, 'program.gcode')
  }
  saveJob(job: Job): void {
    writeWhole(join(this.jobFolder(job.id), 'job.json'), toText(job))
  }
  removeJob(id: string): void {
    rmSync(join(this.folder, 'jobs', id), { recursive: true, force: true })
  }
  /** The world a job is printed in, as it was when it began. */
  saveWorld(id: string, world: World): void {
    writeWhole(join(this.jobFolder(id), 'world.json'), toText(world))
  }
  hasWorld(id: string): boolean {
    return this.read(join(this.folder, 'jobs', id, 'world.json')) !== null
  }
  world(id: string, machine: Machine): World | null {
    const kept = this.read<World>(join(this.folder, 'jobs', id, 'world.json'))
    return kept && upgradedWorld(kept, machine)
  }
}
