import { diagnosisContextOf, type CaseDetail, type PairDetail } from '@verimend/contract'
import type { CaseOnBench, Diagnosis } from '@verimend/core/casework'
import type { CostWeights } from '@verimend/core/diagnosis'
import { useMemo } from 'react'
import { useLessons, useMeasurements, useTrials } from '../api/queries'
import { today } from '../components/format'
import { useComputed, type Computed } from '../workers/useComputed'

/** The diagnosis of a case, worked out anew as answers come; the newest one stays until the next is there. */
export function useDiagnosis(kase: CaseDetail, pair: PairDetail, weights: CostWeights): Computed<Diagnosis> {
  const lessons = useLessons(kase.pairId).data
  const trials = useTrials(kase.pairId).data
  const measurements = useMeasurements(pair.machineId, pair.id).data
  const { id, signs, attempts, files, marks, checks, sets, cannot, longest, about } = kase
  const input = useMemo(() => {
    if (!lessons || !trials || !measurements) return null
    // of the files only the newest counts, and readings are large
    const bench: CaseOnBench = {
      signs,
      attempts,
      files: files.slice(-1),
      marks,
      checks,
      sets,
      cannot,
      longest,
      about,
    }
    const context = diagnosisContextOf({
      pair,
      trials,
      lessons,
      measurements,
      caseId: id,
      today: today(),
      weights,
    })
    return { bench, context }
  }, [
    id,
    signs,
    attempts,
    files,
    marks,
    checks,
    sets,
    cannot,
    pair,
    trials,
    lessons,
    measurements,
    weights,
    longest,
    about,
  ])
  return useComputed('diagnose', input)
}
