import type { DiagnosisContext } from '@verimend/core/casework'
import type { TakenMeasurement } from '@verimend/core/diagnosis'
import type { CaseLesson } from './case'
import type { MeasurementRecord } from './measurement'
import type { PairDetail } from './pair'
import type { Trial } from './trial'

/** Kept things as a diagnosis looks at them. */
export interface CaseRecords {
  pair: PairDetail
  trials: readonly Trial[]
  lessons: readonly CaseLesson[]
  /** Of the pair and of its machine, the newest first. */
  measurements?: readonly MeasurementRecord[]
  /** The case that is looked at; it does not learn from itself. */
  caseId: string | null
  /** ISO date. */
  today: string
  weights?: DiagnosisContext['weights']
  families?: DiagnosisContext['families']
}

/**
 * Kept measurements as a diagnosis takes them: the newest last.
 * @param caseId the case that is looked at: what was measured for another one was measured on another part
 */
export const takenOf = (
  records: readonly Pick<MeasurementRecord, 'measured' | 'inUse' | 'acted' | 'caseId'>[],
  caseId: string | null,
): TakenMeasurement[] =>
  records
    .map(({ measured, inUse, acted, caseId: of }) => ({
      measured,
      elsewhere: of !== caseId,
      inUse,
      // a layer that buries a tilt leaves the tilt
      acted: acted !== null && !(measured.kind === 'bed' && acted.what === 'recipe'),
      stepsCorrected: acted?.what === 'steps',
    }))
    .reverse()

/** What a case is looked at with, from the records of its pair. */
export function diagnosisContextOf(s: CaseRecords): DiagnosisContext {
  return {
    machine: s.pair.machine.machine,
    filament: s.pair.filament.filament,
    recipe: s.pair.version.values,
    today: s.today,
    latest: { version: s.pair.version.number, changes: s.pair.version.changes },
    trials: s.trials,
    lessons: s.lessons.filter((l) => l.learns && l.caseId !== s.caseId),
    measurements: takenOf(s.measurements ?? [], s.caseId),
    weights: s.weights,
    families: s.families,
  }
}
