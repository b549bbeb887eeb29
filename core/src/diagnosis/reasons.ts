import type { LookId } from '../knowledge/checks'
import type { SignId } from '../knowledge/signs'
import type { SuspectId } from '../knowledge/suspects'
import { reasonsOf, type Reason } from '../quantity/reason'
import type { SettingKey, SettingValue } from '../recipe/settings'

/** Why a suspect weighs what it weighs and why a step is advised, with the values its sentence needs. */
/** A setting the path file had otherwise than the recipe. */
export interface Departure {
  setting: SettingKey
  file: SettingValue
  recipe: SettingValue
}

/** A value of a path file that was hardly meant, and what the roll allows where it is out of that. */
export interface Strayed {
  setting: SettingKey
  file: SettingValue
  /** °C */
  outside?: { min: number; max: number; of: 'label' | 'card' }
}

export interface DiagnosisReasons {
  /** A rule of the knowledge that fires, by its place; with the value of its fact. */
  'context-rule': { suspect: SuspectId; rule: number; value: number | boolean }
  'sign-seen': { sign: SignId }
  'sign-explained-better': { sign: SignId }
  'sign-absent': { sign: SignId }
  /** A sign of the opposite. */
  'sign-against': { sign: SignId }
  'others-not-marked': object
  'attempt-outcome': { attempt: number; outcome: AttemptOutcome }
  /** An attempt moved the setting against this suspect's mend, and made things worse. */
  'other-way-was-worse': { attempt: number; setting: SettingKey }
  'path-finding': { finding: Reason }
  'marked-heights': { match: Reason }
  'look-found': { look: LookId; found: boolean }
  /** Measured on another part of the pair. */
  'found-elsewhere': { look: LookId; found: boolean }
  'cause-before': { cases: number; of: number; scope: 'pair' | 'machine' | 'family' }

  /** Why a mend of the knowledge helps, by its place. */
  'mend-helps': { suspect: SuspectId; mend: number }
  'recipe-has-it': { setting: SettingKey; value: SettingValue; why: Reason }
  /** The file was not printed as the recipe has it. */
  'print-recipe': { departs: readonly Departure[] }
  /** The file has values that were hardly meant, left over from another job. */
  'strays-in-file': { strays: readonly Strayed[]; departs: readonly Departure[] }
  'nothing-left-but': { look: LookId }
  /** A step of its setting was made and changed nothing. */
  'step-failed': { look: LookId }
  'nothing-left': { suspect: SuspectId }
  /** What cuts a mend away. */
  'not-in-force': { setting: SettingKey; hangsOn: SettingKey | null }
  'at-limit': { setting: SettingKey; value: SettingValue; by: 'machine' | 'range' | 'setting' }
  'breaks-rule': { setting: SettingKey; to: SettingValue; rule: Reason }
  /** A size that is off already would be moved further off. */
  'moves-size-off': { setting: SettingKey; to: SettingValue; sign: SignId }
  worsens: { signs: readonly SignId[] }
  'other-way': { suspect: SuspectId; by: LookId }
  'several-at-work': { suspects: readonly SuspectId[] }
  'outside-range': { of: 'label' | 'card'; min: number; max: number }
  'above-card-bed': { top: number }
  'soft-on-tube-bears': object
  'no-corner': object
  'goes-back-on': { attempt: number; signs: readonly SignId[] }

  'leads-after': {
    answer: 'there' | 'not-there' | 'found' | 'not-found'
    suspect: SuspectId
    still: boolean
    /** % */
    chance: number
  }
  /** Of a hundred cases. */
  'cures-share': { share: number }
  'pulls-both-ways': {
    setting: SettingKey
    first: SuspectId
    firstTo: SettingValue
    second: SuspectId
    secondTo: SettingValue
    by: LookId | null
  }
  'cannot-tell-which': { suspects: readonly SuspectId[]; sign: SignId }
  'each-by-its-own': { suspects: readonly SuspectId[] }
}
export const because = reasonsOf<DiagnosisReasons>()

/** What came of an attempt as a whole: the best over the signs it was meant to cure. */
export type AttemptOutcome = 'gone' | 'better' | 'same' | 'worse'
