import type { FindingReasons, PathFinding } from '../diagnosis/evidence/findings'
import type { Reason } from '../quantity/reason'
import type { Warning } from '../recipe/lint/lint'
import type { LintReasons } from '../recipe/lint/rule'
import { caseSentences } from './sentences/casework'
import { deriveSentences, policySentences, relativeSentences, valueFaultSentences } from './sentences/derive'
import { diagnosisSentences } from './sentences/diagnosis'
import { FINDING_STATEMENTS } from './sentences/findings'
import { LINT_STATEMENTS } from './sentences/lint'
import {
  gcodeFaultSentences,
  heightSentences,
  lineFaultSentences,
  motionSentences,
  rewriteSentences,
} from './sentences/paths'
import { measurementSentences } from './sentences/measurement'
import { meshFaultSentences } from './sentences/mesh'
import { planFaultSentences } from './sentences/planner'
import {
  outcomeSentences,
  pieceFaultSentences,
  readingFaultSentences,
  stepSentences,
} from './sentences/trials'

/** The catalogue: a sentence for every code there is. Another language is another catalogue of the same codes. */
export const CATALOGUE = {
  said: ({ text }: { text: string }) => text,
  ...gcodeFaultSentences,
  ...lineFaultSentences,
  ...rewriteSentences,
  ...motionSentences,
  ...heightSentences,
  ...policySentences,
  ...relativeSentences,
  ...valueFaultSentences,
  ...deriveSentences(say),
  ...stepSentences,
  ...meshFaultSentences,
  ...planFaultSentences,
  ...pieceFaultSentences,
  ...readingFaultSentences,
  ...outcomeSentences,
  ...measurementSentences,
  ...diagnosisSentences(say),
  ...caseSentences(say),
}
export type ReasonCode = keyof typeof CATALOGUE

/** The sentence of a reason; empty where nobody knows its code, as in a file from a newer Verimend. */
export function say(reason: Reason): string {
  const sentences: { [code: string]: ((values: never) => string) | undefined } = CATALOGUE
  if (!Object.hasOwn(sentences, reason.code)) return ''
  return sentences[reason.code]!(reason.values as never)
}

/** The sentences of several reasons, one after the other. */
export const sayAll = (reasons: readonly Reason[]): string => reasons.map(say).filter(Boolean).join(' ')

/** Two sentences: what is so, and why it matters. */
export interface Statement {
  text: string
  why: string
}
type StatementOf = { text: (values: never) => string; why: (values: never) => string }

/** What a warning says. */
export function sayWarning({ code, values }: Pick<Warning, 'code' | 'values'>): Statement {
  const { text, why }: StatementOf = LINT_STATEMENTS[code]
  return { text: text(values as LintReasons[typeof code] as never), why: why(values as never) }
}

/** What a finding of a path file says. */
export function sayFinding({ kind, values }: Pick<PathFinding, 'kind' | 'values'>): Statement {
  const { text, why }: StatementOf = FINDING_STATEMENTS[kind]
  return { text: text(values as FindingReasons[typeof kind] as never), why: why(values as never) }
}

/** A weight in words. */
export function weightWords(decibans: number): string {
  const size = Math.abs(decibans)
  const side = decibans >= 0 ? 'for' : 'against'
  if (size < 1.5) return `hardly ${side}`
  if (size < 4) return `a little ${side}`
  if (size < 8) return `clearly ${side}`
  if (size < 13) return `strongly ${side}`
  return `very strongly ${side}`
}
