import type { PairDetail, Trial } from '@verimend/contract'
import type { Outcome } from '@verimend/core/trials'
import { useMemo } from 'react'
import { useTrials } from '../api/queries'
import { onBench } from '../pairs/onBench'
import { useComputed, type Computed } from '../workers/useComputed'

/** What the trials of a pair say with the recipe as it is now, by their number. */
export function useOutcomes(pair: PairDetail | undefined): Computed<Record<number, Outcome>> {
  const trials = useTrials(pair?.id ?? null).data
  const input = useMemo(() => (pair && trials ? { trials, context: onBench(pair) } : null), [pair, trials])
  return useComputed('outcomes', input)
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
