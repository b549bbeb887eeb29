import type { Kernel } from '@verimend/core/geometry'
import { cardOf, FAMILIES, type FamilyId } from '@verimend/core/material'
import { drawnFaults, hideable, PROPERTY_IDS, type PropertyId } from '../src'
import { MACHINES, type MachineKind } from './sitting'
import { find, type Found, type Way } from './find'
import { tune, TUNINGS, type Tuned, type Tuning } from './tune'

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
  { do: 'tune'; how: Tuning } | { do: 'find'; hidden: PropertyId[]; way: Way }
)
export type Result = ({ do: 'tune' } & Tuned) | ({ do: 'find' } & Found)

export interface ProofSize {
  tune: number
  /** Worlds of each property that is hidden alone. */
  each: number
  doubles: number
  from: number
  /** Of how many worlds of each property the other ways are followed as well; none: nor are rolls tuned in the other ways. */
  others: number
}

/** The worlds of a proof, each with its own seed. */
export function tasksOf({ tune: tuned, each, doubles, from, others }: ProofSize): Task[] {
  const tasks: Task[] = []
  for (let seed = from; tasks.length < tuned; seed++) {
    const kind = KINDS[seed % 3]
    const family = TUNED[Math.floor(seed / 3) % TUNED.length]
    if (cardOf(family).nozzle.start <= MACHINES[kind].limits.nozzle)
      tasks.push({ do: 'tune', how: 'advice', kind, family, seed })
  }
  if (others)
    for (const how of TUNINGS.slice(1))
      tasks.push(...tasks.filter((t) => t.do === 'tune' && t.how === 'advice').map((t) => ({ ...t, how })))
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

/** Of the share: a few pairs with one seed each, so that a pair is settled once for all that is hidden on it in turn. */
const SHARE_FROM = 3001
const SHARE: readonly (readonly [MachineKind, FamilyId, readonly PropertyId[]])[] = [
  ['tube', 'abs', ['moisture', 'draught', 'creeps', 'belt', 'tilt', 'screw', 'gap', 'grip']],
  ['direct', 'petg', ['diameter', 'steps', 'weakAt', 'gear', 'loose', 'clean', 'gap', 'skew']],
  ['enclosed', 'asa', ['moisture', 'diameter', 'gear', 'weakAt', 'steps', 'clean', 'scale']],
  ['tube', 'pla', ['offset', 'grip', 'scale', 'screw', 'belt', 'tilt', 'loose']],
]

/** A share of the proof for every day: twenty rolls, and thirty of the faults that are found in few steps. */
export function shareOfProof(rolls: number, faults: number): Task[] {
  const all = SHARE.flatMap(([kind, family, hidden]) =>
    hidden.map((id): Task => ({ do: 'find', kind, family, seed: SHARE_FROM, hidden: [id], way: 'advice' })),
  )
  const finds = all.filter(
    (_, i) => Math.floor((i * faults) / all.length) !== Math.floor(((i - 1) * faults) / all.length),
  )
  return [...finds, ...tasksOf({ tune: rolls, each: 0, doubles: 0, others: 0, from: SHARE_FROM })]
}

/** Goes through one world. */
export const done = (task: Task, kernel?: Kernel): Result =>
  task.do === 'tune'
    ? { do: 'tune', ...tune(task.kind, task.family, task.seed, task.how) }
    : { do: 'find', ...find(task.kind, task.family, task.seed, task.hidden, task.way, kernel) }
