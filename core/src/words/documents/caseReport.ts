import {
  asItTurnedOut,
  overallOutcome,
  returnsOf,
  signsThat,
  turnedOut,
  type NotedAttempt,
} from '../../casework/notebook'
import type { LookResult } from '../../diagnosis/evidence/looks'
import type { SignStates } from '../../diagnosis/inference/balance'
import type { SignId } from '../../knowledge/signs'
import type { Machine } from '../../machine/machine'
import { cardOf } from '../../material/cards'
import type { Filament } from '../../material/filament'
import { figure } from '../../quantity/format'
import type { Reason } from '../../quantity/reason'
import { lookName, lower, signName, signNames, suspectName } from '../names'
import { say, sayAll } from '../say'
import { changeText } from '../steps'
import type { MeasuredKind } from '../../measurement/types'
import { MEASURED_WORDS } from '../sentences/casework'
import { OUTCOME_WORDS } from '../sentences/diagnosis'
import { plainText } from './markdown'

export interface SummarisedCase {
  part: string
  note: string
  machine: Machine
  filament: Filament
  signs: SignStates
  attempts: (NotedAttempt & { note: string; fromVersion: number; toVersion: number })[]
  checks: readonly LookResult[]
  /** What was measured in it, and what each says. */
  measured?: readonly MeasuredInReport[]
  /** What changes at marked heights. */
  marks: readonly Reason[]
  keptVersion: number | null
  learnt: readonly Reason[] | null
  /** ISO times. */
  begun: string
  closed: string | null
}

/** What was measured in a case, what it says, and its sizes where it has any. */
export interface MeasuredInReport {
  kind: MeasuredKind
  says: readonly Reason[]
  /** mm; what would be left once the corrections are in. */
  sizes?: readonly { name: string; nominal: number; error: number; after: number }[]
}

/** A case in sections, for whatever form it is handed on in. */
export interface CaseReport {
  title: string
  about: string
  sections: ReportSection[]
}
export interface ReportSection {
  title: string
  paragraphs: string[]
  bullets: string[]
  table: { head: string[]; rows: string[][] } | null
}

const section = (title: string, part: Partial<ReportSection>): ReportSection => ({
  title,
  paragraphs: [],
  bullets: [],
  table: null,
  ...part,
})

/** The fault, the cause, the proof, the changes, before and after, and the version kept. */
export function caseReport(c: SummarisedCase): CaseReport {
  const first = c.attempts[0]?.signsBefore ?? c.signs
  const seenFirst = signNames(signsThat('present', first))
  const absent = signsThat('absent', first)
  const cured = asItTurnedOut(c.attempts, c.signs).filter((a) => overallOutcome(a) === 'gone')
  const returns = returnsOf(c.attempts, c.signs)
  const causes = [...new Set(cured.flatMap((a) => a.mends.map((m) => suspectName(m.suspect))))]
  const changesOf = (a: NotedAttempt) => a.mends.map(changeText)
  const proof = [
    ...c.checks.map(
      (k) => `${lookName(k.by)}: ${lower(suspectName(k.suspect))}, ${k.found ? 'it is so' : 'not so'}.`,
    ),
    ...c.marks.map((m) => `Marked on the part: ${say(m)}`),
    ...(c.measured ?? []).map((m) => `${MEASURED_WORDS[m.kind]}: ${sayAll(m.says)}`),
    ...cured.map((a) => `With ${changesOf(a).join(' and ')} it went away.`),
  ]
  const sizes = (c.measured ?? []).flatMap((m) => m.sizes ?? [])
  const rows = c.attempts.map((a) => {
    const outcome = overallOutcome(turnedOut(a, returns.get(a.number) ?? []))
    const after = [
      ...Object.entries(a.results ?? {}).map(
        ([s, r]) =>
          `${lower(signName(s as SignId))} ${r}${returns.get(a.number)?.includes(s as SignId) ? ', back later' : ''}`,
      ),
      ...a.newSigns.map((s) => `${lower(signName(s))} new`),
    ].join(', ')
    return [
      String(a.number),
      changesOf(a).join('; '),
      `${a.fromVersion} → ${a.toVersion}`,
      outcome ? OUTCOME_WORDS[outcome] : 'not looked at',
      `${after}${a.note ? ` “${a.note}”` : ''}`.trim(),
    ]
  })
  return {
    title: c.part,
    about: `${c.filament.name} (${cardOf(c.filament.family).name}) on ${c.machine.name}, ${figure(c.machine.nozzle.diameter)} mm nozzle. Begun ${c.begun.slice(0, 10)}${c.closed ? `, closed ${c.closed.slice(0, 10)}` : ', still open'}.`,
    sections: [
      section('The fault', {
        paragraphs: [
          `Seen: ${seenFirst || 'nothing marked'}.${absent.length ? ` Not there: ${signNames(absent)}.` : ''}`,
          ...(c.note ? [c.note] : []),
        ],
      }),
      section('The cause', { paragraphs: [causes.length ? `${causes.join(' or ')}.` : 'Not found yet.'] }),
      section('The proof', proof.length ? { bullets: proof } : { paragraphs: ['Nothing yet.'] }),
      section(
        'The changes',
        rows.length
          ? { table: { head: ['Attempt', 'Changed', 'Version', 'Came of it', 'After it'], rows } }
          : { paragraphs: ['None.'] },
      ),
      ...(sizes.length
        ? [
            section('Sizes', {
              table: {
                head: ['Size', 'Drawn, mm', 'Off, mm', 'With the corrections, mm'],
                rows: sizes.map((r) => [r.name, figure(r.nominal, 2), signed(r.error), signed(r.after)]),
              },
            }),
          ]
        : []),
      section('Before and after', {
        paragraphs: [
          `Before: ${seenFirst || 'nothing'}. After: ${signNames(signsThat('present', c.signs)) || 'nothing left'}.`,
          ...(c.keptVersion !== null ? [`Kept: version ${c.keptVersion} of the recipe.`] : []),
          ...(c.learnt ? [sayAll(c.learnt)] : []),
        ],
      }),
    ],
  }
}

const signed = (v: number) => `${v < 0 ? '−' : '+'}${figure(Math.abs(v), 3)}`
/** A case to hand on as Markdown. */
export function caseMarkdown(c: SummarisedCase): string {
  const report = caseReport(c)
  const lines = [`# ${plainText(report.title)}`, '', plainText(report.about)]
  for (const s of report.sections) {
    lines.push('', `## ${s.title}`)
    for (const p of s.paragraphs) lines.push('', plainText(p))
    if (s.bullets.length) lines.push('', ...s.bullets.map((b) => `- ${plainText(b)}`))
    if (s.table) {
      const row = (cells: string[]) => `| ${cells.map(plainText).join(' | ')} |`
      lines.push(
        '',
        row(s.table.head),
        row(s.table.head.map((_, i) => (i ? '---' : '---:'))),
        ...s.table.rows.map(row),
      )
    }
  }
  return lines.join('\n') + '\n'
}
