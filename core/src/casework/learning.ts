import type { Evidence } from '../diagnosis/inference/balance'
import { deciban } from '../diagnosis/inference/network'
import { because } from '../diagnosis/reasons'
import { belongsTo, suspectOf, type SuspectId } from '../knowledge/suspects'
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
 * What closed cases teach, as shifts of the priors: beta counts on a seed worth twenty cases. The pair's own cases
 * count whole; a fault of the machine teaches half of it about the machine with other rolls, one of the plastic about
 * its family on other machines. What a flexible did on a machine says nothing of how PLA shrinks there.
 */
export function learntEvidence(lessons: readonly Lesson[]): (Evidence & { cases: number })[] {
  const suspects = new Set(lessons.flatMap((l) => l.causes))
  return [...suspects].flatMap((suspect) => {
    const about = belongsTo(suspect)
    const near = (l: Lesson) => (about === 'machine' ? l.sameMachine : l.sameFamily)
    const weight = (l: Lesson) => (l.samePair ? 1 : near(l) ? 0.5 : 0)
    const relevant = lessons.filter((l) => weight(l) > 0 && l.causes.length)
    const total = relevant.reduce((n, l) => n + weight(l), 0)
    const own = relevant.filter((l) => l.causes.includes(suspect))
    if (!own.length) return []
    const counts = own.reduce((n, l) => n + weight(l) / l.causes.length, 0)
    const prior = PRIOR[suspectOf(suspect).prior]
    const learnt = (prior * SEED_WEIGHT + counts) / (SEED_WEIGHT + total)
    return [
      {
        suspect,
        decibans: Number((deciban(learnt) - deciban(prior)).toFixed(1)),
        reason: because('cause-before', {
          cases: own.length,
          of: relevant.length,
          scope: own.some((l) => l.samePair) ? 'pair' : about,
        }),
        cases: own.length,
      },
    ]
  })
}
