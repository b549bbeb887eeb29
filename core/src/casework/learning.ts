import type { Evidence } from '../diagnosis/inference/balance'
import { deciban } from '../diagnosis/inference/network'
import { because } from '../diagnosis/reasons'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { PRIOR } from '../knowledge/types'

/** A closed case as far as it teaches: which suspects its cure had named. */
export interface Lesson {
  samePair: boolean
  sameMachine: boolean
  sameFamily: boolean
  causes: readonly SuspectId[]
}
/** Cases' weight the seed keeps at least. */
const SEED_WEIGHT = 20

/**
 * What closed cases teach, as shifts of the priors: beta counts, the pair's cases counted whole, the machine's and
 * the filament family's half, on a seed worth twenty cases.
 */
export function learntEvidence(lessons: readonly Lesson[]): (Evidence & { cases: number })[] {
  const weight = (l: Lesson) => (l.samePair ? 1 : l.sameMachine || l.sameFamily ? 0.5 : 0)
  const relevant = lessons.filter((l) => weight(l) > 0 && l.causes.length)
  const total = relevant.reduce((n, l) => n + weight(l), 0)
  const suspects = new Set(relevant.flatMap((l) => l.causes))
  return [...suspects].map((suspect) => {
    const own = relevant.filter((l) => l.causes.includes(suspect))
    const counts = own.reduce((n, l) => n + weight(l) / l.causes.length, 0)
    const prior = PRIOR[suspectOf(suspect).prior]
    const learnt = (prior * SEED_WEIGHT + counts) / (SEED_WEIGHT + total)
    return {
      suspect,
      decibans: Number((deciban(learnt) - deciban(prior)).toFixed(1)),
      reason: because('cause-before', {
        cases: own.length,
        of: relevant.length,
        scope: own.some((l) => l.samePair) ? 'pair' : own.some((l) => l.sameMachine) ? 'machine' : 'family',
      }),
      cases: own.length,
    }
  })
}
