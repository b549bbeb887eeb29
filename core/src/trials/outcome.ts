import type { Machine } from '../machine/machine'
import type { Filament } from '../material/filament'
import type { Reason } from '../quantity/reason'
import type { RecipeValues } from '../recipe/derive'
import type { NumberKey } from '../recipe/settings'
import type { CriterionId } from './criteria'
import type { FitPoint } from './fits/points'
import { outcomeReason } from './reasons'
import type { ReadTrial, Steps, VariedKey } from './types'

/** A value a trial hands to the recipe. */
export interface Adoptable {
  key: NumberKey
  value: number
  /** Half of the 95 % interval. */
  plusMinus: number
}

/** What stands on a chart's upright axis. */
export type OutcomeScale = 'desirability' | 'weighed' | 'error'

export interface Outcome {
  /** found: a value stands; end: it lies beyond the range; flat: it makes no difference; few, bad: not enough, or not to be used. */
  kind: 'found' | 'end' | 'flat' | 'disagree' | 'few' | 'bad'
  /** What came out; the first is the answer. */
  reasons: Reason[]
  key: VariedKey | null
  best: number | null
  low: number | null
  high: number | null
  /** Values that do about as well. */
  plateau: [number, number] | null
  adopt: Adoptable[]
  /** For pieces without a value to find: whether the suspects they speak about are at work. */
  atWork: boolean | null
  /** The criterion that decided. */
  decider: CriterionId | null
  r2: number | null
  sd: number | null
  points: FitPoint[]
  curve: { x: number; y: number }[]
  scale: OutcomeScale
  next: Steps | null
  /** Something besides what was stepped has changed between trials. */
  drift: Reason | null
}

/** What an outcome is worked out with. */
export interface OutcomeContext {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
}
/** Works out what trials of one piece on one pair say; the newest last. */
export type OutcomeRule = (trials: readonly ReadTrial[], context: OutcomeContext) => Outcome

/** A desirability that is good enough to keep: grade 3 of 4 on everything. Common practice, no source. */
export const GOOD_ENOUGH = 0.7
/** Grades that scatter by so many about any curve contradict each other. Common practice, no source. */
export const MOST_SCATTER = 1.1
/** Grades that differ by less than this are alike, as desirabilities. */
export const LEAST_SPREAD = 0.08

/** An outcome with nothing in it yet. */
export const emptyOutcome = (
  kind: Outcome['kind'],
  reasons: Reason[],
  key: VariedKey | null = null,
): Outcome => ({
  kind,
  reasons,
  key,
  best: null,
  low: null,
  high: null,
  plateau: null,
  adopt: [],
  atWork: null,
  decider: null,
  r2: null,
  sd: null,
  points: [],
  curve: [],
  scale: 'desirability',
  next: null,
  drift: null,
})

/** Readings that contradict each other. */
export const disagreement = (key: VariedKey): Pick<Outcome, 'kind' | 'reasons'> => ({
  kind: 'disagree',
  reasons: [outcomeReason('readings-disagree', { key }), outcomeReason('look-at-odd-ones')],
})
