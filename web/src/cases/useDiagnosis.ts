import type { CaseDetail, PairDetail } from '@verimend/contract'
import {
  attemptEvidence,
  setEvidence,
  curesOf,
  diagnose,
  markEvidence,
  type CostWeights,
  type DesignedSet,
  type Diagnosis,
  type PathReading,
  type QuantityId,
} from '@verimend/core'
import { useMemo } from 'react'
import { useLessons } from '../api/queries'
import { useTrialEvidence } from '../trials/useOutcome'
import { today } from '../parts/format'

/** The newest file that shows the print as it is now, and whether there is only an older one. */
export function currentFile(c: CaseDetail): { file: CaseDetail['files'][number] | null; outdated: boolean } {
  const last = c.files.at(-1) ?? null
  const changes = c.attempts.filter((a) => a.toVersion !== a.fromVersion).map((a) => a.number)
  const latest = Math.max(0, ...changes)
  if (!last) return { file: null, outdated: false }
  return last.afterAttempt >= latest ? { file: last, outdated: false } : { file: null, outdated: true }
}

/** Facts, balance and proposals of a case, recomputed as answers come. */
export function useDiagnosis(c: CaseDetail, pair: PairDetail, weights: CostWeights): Diagnosis {
  const file = currentFile(c).file
  const lessons = useLessons(c.pairId).data
  const trials = useTrialEvidence(pair)
  return useMemo(
    () =>
      diagnose({
        machine: pair.machine.machine,
        filament: pair.filament.filament,
        recipe: pair.version.values,
        reading: (file?.reading as PathReading | undefined) ?? null,
        today: today(),
        signs: c.signs,
        attempts: attemptEvidence(c.attempts),
        cures: curesOf(c.attempts),
        // what a person noted of a trial goes before what is worked out from its readings
        checks: [
          ...c.checks,
          ...setEvidence(c.sets as DesignedSet[]),
          ...trials.filter((t) => !c.checks.some((k) => k.by === t.by && k.suspect === t.suspect)),
        ],
        cannot: c.cannot,
        weights,
        lessons: lessons?.filter((l) => l.learns && l.caseId !== c.id),
        // a mark speaks of the print it was made on
        evidence: c.marks
          .filter((m) => m.fileId === file?.id)
          .flatMap((m) => markEvidence({ ...m, id: m.quantity as QuantityId })),
      }),
    [c.signs, c.attempts, c.marks, c.checks, c.sets, c.cannot, c.id, lessons, trials, weights, file, pair],
  )
}
