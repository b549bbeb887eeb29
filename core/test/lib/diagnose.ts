import {
  EMPTY_CASE,
  diagnoseCase,
  type CaseOnBench,
  type Diagnosis,
  type DiagnosisContext,
} from '../../src/casework'
import type { AttemptEvidence, LookResult, SignStates } from '../../src/diagnosis'
import { said } from '../../src/quantity'
import { layOver, type Changes, type Pins } from '../../src/recipe'
import type { PathReading } from '../../src/toolpath'

/** What was seen of a print, and with what it was printed. */
export interface Told extends DiagnosisContext {
  signs: SignStates
  reading?: PathReading | null
  /** Outcomes of attempts, without their notebook. */
  attempts?: AttemptEvidence[]
  notebook?: CaseOnBench['attempts']
  checks?: LookResult[]
  cannot?: string[]
  marks?: CaseOnBench['marks']
}

/** The diagnosis of what was told. */
export function diagnose({
  signs,
  reading,
  attempts = [],
  notebook = [],
  checks = [],
  cannot = [],
  marks = [],
  ...context
}: Told): Diagnosis {
  const bench: CaseOnBench = {
    ...EMPTY_CASE,
    signs,
    outcomes: attempts,
    attempts: notebook,
    files: reading ? [{ id: 'file', afterAttempt: notebook.length, reading }] : [],
    checks,
    cannot,
    marks,
  }
  return diagnoseCase(bench, context)
}

/** Values set by hand, as pins. */
export const hand = (set: Changes): Pins => layOver({}, set, { source: 'hand', reason: said('By hand.') })
