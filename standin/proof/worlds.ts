import { cardOf, FAMILIES, type FamilyId } from '@verimend/core/material'
import { drawnFaults, hideable, PROPERTY_IDS, type PropertyId } from '../src'
import { MACHINES, type MachineKind } from './sitting'
import { find, type Found, type Way } from './find'
import { tune, type Tuned } from './tune'

/** Families that are tuned: those that people print most, and that the physics has a plastic of its own for. */
const RARE: ReadonlySet<FamilyId> = new Set(['peba', 'hips', 'pva', 'pet', 'other'])
const TUNED = FAMILIES.filter((f) => !RARE.has(f))
const KINDS: readonly MachineKind[] = ['tube', 'direct', 'enclosed']
/** Pairs on which faults are hidden. */
const PAIRS: readonly (readonly [MachineKind, FamilyId])[] = [
  ['tube', 'pla'],
  ['tube', 'petg'],
  ['tube', 'abs'],
  ['direct', 'petg'],
  ['direct', 'pla'],
  ['enclosed', 'asa'],
  ['tube', 'asa'],
  ['enclosed', 'pa'],
]
export const WAYS: readonly Way[] = ['advice', 'by prior', 'first in family']

/** One world to go through: a roll to be tuned, or something hidden to be found. Plain data. */
export type Task = { kind: MachineKind; family: FamilyId; seed: number } & (
  { do: 'tune' } | { do: 'find'; hidden: PropertyId[]; way: Way }
)
export type Result = ({ do: 'tune' } & Tuned) | ({ do: 'find' } & Found)

export interface ProofSize {
  tune: number
  /** Worlds of each property that is hidden alone. */
  each: number
  doubles: number
  from: number
  /** Of how many worlds of each property the other ways are followed as well. */
  others: number
}

/** The worlds of a proof, each with its own seed. */
export function tasksOf({ tune: tuned, each, doubles, from, others }: ProofSize): Task[] {
  const tasks: Task[] = []
  for (let seed = from; tasks.length < tuned; seed++) {
    const kind = KINDS[seed % 3]
    const family = TUNED[Math.floor(seed / 3) % TUNED.length]
    if (cardOf(family).nozzle.start <= MACHINES[kind].limits.nozzle)
      tasks.push({ do: 'tune', kind, family, seed })
  }
  let seed = from * 1000
  for (const id of PROPERTY_IDS)
    for (let k = 0; k < each; k++) {
      seed++
      const able = PAIRS.filter(([kind, family]) => hideable(MACHINES[kind], family).includes(id))
      const [kind, family] = able[seed % able.length]
      for (const way of k < others ? WAYS : (['advice'] as const))
        tasks.push({ do: 'find', kind, family, seed, hidden: [id], way })
    }
  for (let k = 0; k < doubles; k++) {
    seed++
    const [kind, family] = PAIRS[k % PAIRS.length]
    const hidden = drawnFaults(MACHINES[kind], family, seed, 2)
    tasks.push({ do: 'find', kind, family, seed, hidden, way: 'advice' })
  }
  return tasks
}

/** Goes through one world. */
export const done = (task: Task): Result =>
  task.do === 'tune'
    ? { do: 'tune', ...tune(task.kind, task.family, task.seed) }
    : { do: 'find', ...find(task.kind, task.family, task.seed, task.hidden, task.way) }
