import type { Reason } from '../quantity/reason'
import { TOP_GRADE, isCriterionId } from './criteria'
import { emptyOutcome, type Outcome, type OutcomeContext } from './outcome'
import { PIECES } from './pieces'
import { readingFault } from './reasons'
import type { Cell, ReadTrial } from './types'

/** How far off a slip of the pen or a bad print may be before it is none of either: shares of the nominal, and mm. */
const PLAUSIBLE = {
  grams: { low: 0.2, high: 1.6, slack: 0 },
  wall: { low: 0.5, high: 1.8, slack: 0 },
  outside: { low: 0.8, high: 1.2, slack: 1 },
  inside: { low: 0.8, high: 1.2, slack: 1 },
}

/** A fault in a measurement; null when it can be used. */
export function measureFault(cell: Cell, value: number): Reason | null {
  if (!Number.isFinite(value)) return readingFault('measure-not-a-number')
  if (value <= 0) return readingFault('measure-not-positive')
  const { nominal = 0, measure = 'outside' } = cell
  const { low, high, slack } = PLAUSIBLE[measure]
  if (nominal > 0 && (value < nominal * low - slack || value > nominal * high + slack))
    return readingFault('measure-cannot-be', {
      cell: cell.name,
      nominal,
      value,
      unit: measure === 'grams' ? 'g' : 'mm',
    })
  return null
}

/** Readings that cannot be. */
function faultsOf(t: ReadTrial): Reason[] {
  const faults: Reason[] = []
  for (const cell of t.cells)
    for (const v of t.readings[cell.id]?.measures ?? []) {
      const fault = measureFault(cell, v)
      if (fault) faults.push(fault)
    }
  for (const r of Object.values(t.readings))
    for (const [criterion, grade] of Object.entries(r?.grades ?? {}))
      if (!(grade !== undefined && Number.isInteger(grade) && grade >= 0 && grade <= TOP_GRADE))
        faults.push(
          readingFault('grade-not-whole', { criterion: isCriterionId(criterion) ? criterion : null }),
        )
  const seen = new Set<string>()
  return faults.filter((f) => {
    const key = JSON.stringify(f)
    return !seen.has(key) && seen.add(key)
  })
}

/**
 * What a trial, and earlier ones of the same kind on the same pair, say.
 * @param trials the newest last
 */
export function outcomeOf(trials: readonly ReadTrial[], context: OutcomeContext): Outcome {
  const trial = trials[trials.length - 1]
  const faults = faultsOf(trial)
  if (faults.length) return emptyOutcome('bad', faults)
  return PIECES[trial.plan.piece].outcome(trials, context)
}

/** What one of a pair's trials says, together with the earlier ones of its kind. */
export function outcomeAmong(trial: ReadTrial, all: readonly ReadTrial[], context: OutcomeContext): Outcome {
  const earlier = all
    .filter(
      (o) =>
        o.number < trial.number &&
        o.plan.piece === trial.plan.piece &&
        o.plan.steps.key === trial.plan.steps.key,
    )
    .sort((a, b) => a.number - b.number)
  return outcomeOf([...earlier, trial], context)
}

/** The newest trial of each kind. */
export const newestOfEach = <T extends ReadTrial>(all: readonly T[]): T[] =>
  all.filter((t) => !all.some((o) => o.plan.piece === t.plan.piece && o.number > t.number))
