import type { SettingKey, SettingValue } from '../recipe/settings'
import type { FactKey } from './facts'
import type { SignId } from './signs'
import type { ProcedureId } from './procedures'
import type { CheckId, TrialId } from './checks'

/** Chance that a suspect alone produces a sign: strong 0.8, middling 0.5, weak 0.2. From memory. */
export type Strength = 'S' | 'M' | 'W'
export const STRENGTH: Record<Strength, number> = { S: 0.8, M: 0.5, W: 0.2 }

/** How common a suspect is in an opened case before anything is known. From memory. */
export type Commonness = 'C' | 'O' | 'R'
export const PRIOR: Record<Commonness, number> = { C: 0.06, O: 0.025, R: 0.008 }

/** A reason from the surroundings that moves a suspect's prior odds. */
export interface ContextRule {
  fact: FactKey
  /** Fires when the fact is above, below or equal to this. */
  above?: number
  below?: number
  is?: boolean
  /** Shift of the prior odds in decibans (ten times the decimal logarithm of the ratio). From memory. */
  decibans: number
  /** Reason as a sentence; {value} is the fact with its unit. */
  words: string
}

export type SettingMend = {
  kind: 'setting'
  key: SettingKey
  /** How the new value comes about: a bounded step, a fixed value, or the value of a fact. */
  by?: number
  /** A share of the present value instead of a step. */
  times?: number
  /** A fixed value means at least or at most: a value beyond it already is left alone. Left out: exactly. */
  bound?: 'least' | 'most'
  /** The step on a direct drive, where it differs. */
  byDirect?: number
  /** The step may grow to three times its size while this fact's value is farther away. */
  toward?: FactKey
  to?: SettingValue
  toFact?: FactKey
  /** Never past these facts' values. */
  notBelow?: FactKey
  notAbove?: FactKey
  /** Not offered while this fact holds; only offered while this one does. */
  notWhen?: FactKey
  onlyWhen?: FactKey
  why: string
  /** The person's minutes besides the print itself. */
  minutes: number
} & MendFit
export type HandlingMend = {
  kind: 'handling'
  procedure: ProcedureId
  /** Not offered while this fact holds. */
  notWhen?: FactKey
  why: string
  minutes: number
} & MendFit
/** When a mend is the one to make. */
export interface MendFit {
  /** Checks and trials that show what this mend, and no other of its suspect, puts right. */
  foundBy?: readonly (CheckId | TrialId)[]
  /** It costs every later print time or quality: never before a likelier suspect is seen to by hand. */
  costly?: boolean
}
export type Mend = SettingMend | HandlingMend

export type SuspectGroup =
  'heat-and-feed' | 'first-layer' | 'cooling' | 'seam' | 'machine' | 'size' | 'strength'

/** What a sign of the opposite takes from a suspect's odds, decibans. From memory. */
export const AGAINST = -10

export interface Suspect {
  group: SuspectGroup
  name: string
  what: string
  prior: Commonness
  signs: Partial<Record<SignId, Strength>>
  /** Signs of the opposite: what shows one of them is hardly this. */
  against: SignId[]
  context: ContextRule[]
  /** How to tell it from the others, and by what. */
  tell: string
  by: (CheckId | TrialId)[]
  mends: Mend[]
  /** Side effects to look for after the mend. */
  watch: SignId[]
}
