import type { FamilyId } from '@verimend/core/material'
import { writePractice } from '@verimend/core/casework'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import type { Changes } from '@verimend/core/recipe'
import { handled, USUAL_PERSON, worldWith, type Spread } from '../src'
import { MACHINES, newRoll as rollOf, Sitting, type MachineKind } from './sitting'
import { knee, nozzleWindow, trueFed } from './truth'

/** Prints since the bed was last levelled. */
const PRINTS_SINCE = 40

/** Sittings that were settled before, by what they were asked for: a pair is settled once for all that is hidden on it. */
const settledBefore = new Map<string, Sitting>()
const KEPT = 64

/**
 * A pair whose owner has found out what it wants: it has printed well until now. Its recipe has the middle of the true heat window,
 * the true flow, the knee of the pull-back, and the sizes that come out right.
 * @param newRoll it was found out with an earlier roll of the same kind: nothing is known of this one
 */
export function settled(
  kind: MachineKind,
  family: FamilyId,
  seed: number,
  newRoll = false,
  spread: Spread = 'wide',
): Sitting {
  const key = [kind, family, seed, newRoll, spread].join(' ')
  const known = settledBefore.get(key)
  if (known) return known.copy()
  const sitting = settle(kind, family, seed, newRoll, spread)
  if (settledBefore.size === KEPT) settledBefore.delete(settledBefore.keys().next().value!)
  settledBefore.set(key, sitting)
  return sitting.copy()
}

function settle(
  kind: MachineKind,
  family: FamilyId,
  seed: number,
  newRoll: boolean,
  spread: Spread,
): Sitting {
  const machine = MACHINES[kind]
  const world = handled(worldWith(machine, family, seed, [], spread), 'level-bed')
  const s = new Sitting(
    { ...machine, bed: { ...machine.bed, residual: null, printsSinceLevel: PRINTS_SINCE } },
    rollOf(family),
    world,
    { ...USUAL_PERSON, seed },
  )
  const found = (set: Changes, plusMinus: Record<string, number>) =>
    s.take(set, newRoll ? undefined : plusMinus)
  if (!newRoll) {
    const places = s.observe('measure-diameter')
    s.filament = { ...s.filament, measured: places.map((a) => ({ a, b: null })) }
  }
  const heat = nozzleWindow(s.pair, world)
  found({ nozzle: Math.round((heat.low + heat.high) / 2) }, { nozzle: 3 })
  found({ flow: Number((s.recipe.flow.value / trueFed(s.pair, world)).toFixed(1)) }, { flow: 0.6 })
  const tube = machine.drive.kind === 'tube'
  const length = knee(s.pair, world) + (tube ? 0.3 : 0.1)
  found({ retractLength: Number(length.toFixed(1)) }, { retractLength: 0.2 })
  found({ contourOffset: Number((-world.spread).toFixed(2)) }, { contourOffset: 0.01 })
  const part = s.print(writePractice(s.machine, s.recipe))
  const { recipe } = s
  const scaled = (axis: 'x' | 'y', now: number) =>
    Number(((now * PRACTICE_SIZE[axis]) / part.came[axis]).toFixed(2))
  found(
    { scaleX: scaled('x', recipe.scaleX.value), scaleY: scaled('y', recipe.scaleY.value) },
    { scaleX: 0.05, scaleY: 0.05 },
  )
  s.grams = 0
  s.minutes = 0
  s.prints = 0
  return s
}
