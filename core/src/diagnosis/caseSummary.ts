import { cardOf } from '../materials/cards'
import type { Filament } from '../materials/filament'
import type { Machine } from '../materials/machine'
import { checkOrTrial } from '../knowledge/checks'
import { signOf, type SignId } from '../knowledge/signs'
import { suspectOf } from '../knowledge/suspects'
import { figure } from '../units/format'
import { OUTCOME_WORDS, type SignStates } from './balance'
import { mendText, overallOutcome, type NotedAttempt } from './notebook'
import type { CheckResult } from './plan'

export interface SummarisedCase {
  part: string
  note: string
  machine: Machine
  filament: Filament
  signs: SignStates
  attempts: (NotedAttempt & { note: string; fromVersion: number; toVersion: number })[]
  checks: readonly CheckResult[]
  /** Sentences on marked heights. */
  marks: readonly string[]
  keptVersion: number | null
  learnt: string | null
  /** ISO times. */
  begun: string
  closed: string | null
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

const names = (signs: SignId[]) => signs.map((s) => signOf(s).name.toLowerCase()).join(', ')
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
  const of = (signs: SignStates, state: 'present' | 'absent') =>
    (Object.keys(signs) as SignId[]).filter((s) => signs[s] === state)
  const cured = c.attempts.filter((a) => overallOutcome(a) === 'gone')
  const causes = [...new Set(cured.flatMap((a) => a.mends.map((m) => suspectOf(m.suspect).name)))]
  const absent = of(first, 'absent')
  const proof = [
    ...c.checks.map(
      (k) =>
        `${checkOrTrial(k.by).name}: ${suspectOf(k.suspect).name.toLowerCase()}, ${k.found ? 'it is so' : 'not so'}.`,
    ),
    ...c.marks.map((m) => `Marked on the part: ${m}`),
    ...cured.map((a) => `With ${a.mends.map(mendText).join(' and ')} it went away.`),
  ]
  const rows = c.attempts.map((a) => {
    const outcome = overallOutcome(a)
    const after = (Object.entries(a.results ?? {}) as [SignId, string][])
      .map(([s, r]) => `${signOf(s).name.toLowerCase()} ${r}`)
      .concat(a.newSigns.map((s) => `${signOf(s).name.toLowerCase()} new`))
      .join(', ')
    return [
      String(a.number),
      a.mends.map(mendText).join('; '),
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
          `Seen: ${names(of(first, 'present')) || 'nothing marked'}.${absent.length ? ` Not there: ${names(absent)}.` : ''}`,
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
      section('Before and after', {
        paragraphs: [
          `Before: ${names(of(first, 'present')) || 'nothing'}. After: ${names(of(c.signs, 'present')) || 'nothing left'}.`,
          ...(c.keptVersion !== null ? [`Kept: version ${c.keptVersion} of the recipe.`] : []),
          ...(c.learnt ? [c.learnt] : []),
        ],
      }),
    ],
  }
}

const cell = (text: string) => text.replace(/[\\|<>*_`#]/g, (c) => `\\${c}`).replace(/[\r\n]+/g, ' ')

/** A case to hand on as Markdown. */
export function caseMarkdown(c: SummarisedCase): string {
  const report = caseReport(c)
  const lines = [`# ${cell(report.title)}`, '', cell(report.about)]
  for (const s of report.sections) {
    lines.push('', `## ${s.title}`)
    for (const p of s.paragraphs) lines.push('', cell(p))
    if (s.bullets.length) lines.push('', ...s.bullets.map((b) => `- ${cell(b)}`))
    if (s.table) {
      const row = (cells: string[]) => `| ${cells.map(cell).join(' | ')} |`
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
