import type { PairDetail, Trial } from '@verimend/contract'
import {
  evidenceOfTrials,
  outcomeAmong,
  type CheckResult,
  type Outcome,
  type ReadTrial,
} from '@verimend/core'
import { useMemo } from 'react'
import { useTrials } from '../api/queries'

/** What a trial says, with the earlier ones of its kind on the pair. */
export const outcomeWith = (t: Trial, all: readonly Trial[], pair: PairDetail): Outcome =>
  outcomeAmong(t as ReadTrial, all as readonly ReadTrial[], pair.version.values, pair.machine.machine)

export function useOutcome(t: Trial, pair: PairDetail): Outcome {
  const all = useTrials(t.pairId).data
  return useMemo(() => outcomeWith(t, all ?? [], pair), [t, all, pair])
}

const NONE: CheckResult[] = []

/** What the newest trial of each kind says of suspects, with the recipe as it is now. */
export function useTrialEvidence(pair: PairDetail): CheckResult[] {
  const all = useTrials(pair.id).data
  return useMemo(
    () =>
      all?.length
        ? evidenceOfTrials(all as readonly ReadTrial[], pair.version.values, pair.machine.machine)
        : NONE,
    [all, pair],
  )
}

/** Cells that were read, and how many there are. */
export const progressOf = (t: Trial) => ({
  read: t.cells.filter((c) => isRead(t, c.id)).length,
  of: t.cells.length,
})
export function isRead(t: Trial, cell: string): boolean {
  const r = t.readings[cell]
  return !!r && (r.skipped || r.measures.length > 0 || Object.keys(r.grades).length > 0)
}
