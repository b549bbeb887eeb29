import type { LookId } from '../knowledge/checks'
import type { ProcedureId } from '../knowledge/procedures'
import type { SignId } from '../knowledge/signs'
import type { SuspectId } from '../knowledge/suspects'
import type { AttemptOutcome, Departure } from '../diagnosis/reasons'
import type { FamilyId } from '../material/cards'
import type { MeasuredKind } from '../measurement/types'
import { reasonsOf, type Reason } from '../quantity/reason'
import type { SettingKey, SettingValue } from '../recipe/settings'
import type { PieceId } from '../trials/types'
import type { AspectId, ReadinessState } from './aspects'

/** Why a version was made, how ready a pair is, what a case taught: with the values its sentence needs. */
export interface CaseReasons {
  'setting-changed': { setting: SettingKey; from: SettingValue; to: SettingValue }
  'procedure-done': { procedure: ProcedureId }
  'printed-anew': { departs: readonly Departure[] }

  'derived-first': object
  'derived-from-relative': object
  'derived-anew': object
  'started-from-relative': object
  'set-by-hand': object
  'measured-by-hand': object
  'as-asked': object
  'back-to-version': { version: number }
  'from-file': { text: string }
  'taken-from-file': { reason: Reason }
  'path-file-values': { file: string }
  'attempt-on': { attempt: number; part: string; why: Reason }
  'attempt-changes': { attempt: number; part: string; changes: readonly Reason[] }
  'attempt-taken-back': { attempt: number; part: string }
  'closed-back-to': { part: string; version: number }
  'trial-found': { trial: number; piece: PieceId; answer: Reason }
  'measurement-found': { kind: MeasuredKind }
  'run-of-set': object

  'start-family': { family: FamilyId; nozzle: number; bed: number | null }
  'start-tube': { length: number }
  'start-direct': { length: number }
  'start-fast': { speed: number; acceleration: number }
  'start-nozzle': { nozzle: number; width: number }
  'start-too-hot': { place: 'nozzle' | 'bed'; asked: number; bears: number }

  'changed-untested': object
  'relative-unproven': object
  'card-untried': object
  'known-within': { setting: SettingKey; plusMinus: number }
  /** mm left of it, and prints since; null: not known. */
  'bed-measured': { residual: number; prints: number | null }
  'bed-long-ago': { prints: number }
  'bed-not-measured': object
  'feed-measured': object
  'start-untried': object
  'nozzle-changed-since': object
  'tested-days-ago': { days: number }
  'another-roll-since': object
  'closed-with-it': { on: string | null }
  /** Of a hundred. */
  'aspect-chance': { aspect: AspectId; state: ReadinessState; chance: number; by: LookId }

  'runs-left': { left: number; of: number }
  'no-effects': object
  'set-lead': { suspect: SuspectId; sign: SignId }
  'none-stands-out': object
  'factor-effect': { setting: SettingKey; from: SettingValue; to: SettingValue; effect: number }

  'case-cured': {
    suspects: readonly SuspectId[]
    changes: readonly Reason[]
    signs: readonly SignId[]
    outcome: AttemptOutcome
  }
  'changed-nothing': { changes: readonly Reason[]; worse: boolean }
  'no-cure-found': { part: string }
  'closed-without-attempt': object
  'signs-left': { signs: readonly SignId[] }
}
export const caseReason = reasonsOf<CaseReasons>()
