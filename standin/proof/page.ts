import { PROPERTY_IDS, propertyOf } from '../src'
import type { Found } from './find'
import { COUNTS, TUNINGS, type Tuned } from './tune'
import { WAYS, type Result } from './worlds'

const median = (v: readonly number[]) => [...v].sort((a, b) => a - b)[Math.floor(v.length / 2)] ?? 0
const sum = (v: readonly number[]) => v.reduce((s, x) => s + x, 0)
const mean = (v: readonly number[]) => (v.length ? v.reduce((s, x) => s + x, 0) / v.length : 0)
const percent = (v: readonly boolean[]) =>
  v.length ? `${((100 * v.filter(Boolean).length) / v.length).toFixed(0)} %` : ''
const table = (head: readonly string[], rows: readonly (readonly (string | number)[])[]) =>
  [head, head.map((_, i) => (i ? '---:' : '---')), ...rows].map((r) => `| ${r.join(' | ')} |`).join('\n')
const counted = (words: readonly string[]) => {
  const times = new Map<string, number>()
  for (const w of words) times.set(w, (times.get(w) ?? 0) + 1)
  return [...times].sort((a, b) => b[1] - a[1])
}

const WAY_HEAD = [
  'Way',
  'Fixed',
  'Named rightly',
  'Steps, median',
  'Prints, median',
  'Grams',
  'Minutes',
  'Worse twice in a row',
]
function wayRow(way: string, all: readonly Found[]): (string | number)[] {
  const own = all.filter((f) => !f.unnoticed)
  return [
    way,
    percent(own.map((f) => f.fixed)),
    percent(own.map((f) => f.named)),
    median(own.map((f) => f.steps)),
    median(own.map((f) => f.prints)),
    mean(own.map((f) => f.grams)).toFixed(0),
    mean(own.map((f) => f.minutes)).toFixed(0),
    percent(own.map((f) => f.worseTwice)),
  ]
}

/** Why a case ended with something left, in the order in which it is asked. */
const WHY: readonly (readonly [string, (f: Found) => boolean])[] = [
  ['nothing more was proposed', (f) => f.stranded],
  ['the person saw nothing of it any more', (f) => !f.left.length],
  ['the person left it at something slight', (f) => f.left.length === 1 && f.steps < 16],
  ['patience ended: sixteen steps', () => true],
]
const whyOf = (f: Found) => WHY.find(([, is]) => is(f))![0]

/** What was left, by why, and step by step. */
function leftOf(title: string, all: readonly Found[]): string {
  const left = all.filter((f) => !f.unnoticed && !f.fixed)
  if (!left.length) return ''
  const told = left.map(
    (f) =>
      `**${f.hidden.map((id) => propertyOf(id).label).join(', ')}**, ${f.family} on ${f.kind}, seed ${f.seed}: ${whyOf(f)}; still worse: ${f.harm.join(', ')}.\n\n${f.log.map((line) => `- ${line}`).join('\n')}`,
  )
  return `
### ${title}

${table(['Why it was left', 'Worlds'], counted(left.map(whyOf)))}

${told.join('\n\n')}
`
}

function tunedPart(all: readonly Tuned[]): string {
  const tuned = all.filter((t) => t.how === 'advice')
  // ways are compared on the rolls that were tuned in all of them
  const ways = TUNINGS.map((how) => ({ how, own: all.filter((t) => t.how === how) })).filter(
    (w) => w.own.length,
  )
  const trials = tuned.reduce((s, t) => s + t.trials, 0)
  const barren = tuned.reduce((s, t) => s + t.barren, 0)
  const short = tuned.filter((t) => !t.ok)
  const kinds = counted(
    short.flatMap((t) => COUNTS.filter((c) => !t.counts[c].ok).map((c) => `${c} of ${t.family}`)),
  )
  return `## Tuning a new roll from its material card

${tuned.length} drawn worlds: rolls of all makes of a family, whose window lies elsewhere (standard deviation 8 °C) and is wider on one side. Aim: 85 % within all windows, at most 6 prints and 60 g in the median, each better than the card alone, trials that tell nothing under 8 %. *Every tower* prints one of each in a fixed order, as it is proposed.

${table(
  ['Within its window', ...ways.map((w) => w.how)],
  [
    ...COUNTS.map((c) => [c, ...ways.map(({ own }) => percent(own.map((t) => t.counts[c].ok)))]),
    ['all of them', ...ways.map(({ own }) => percent(own.map((t) => t.ok)))],
    [
      'all but one at most',
      ...ways.map(({ own }) => percent(own.map((t) => COUNTS.filter((c) => !t.counts[c].ok).length <= 1))),
    ],
    ['prints, median', ...ways.map(({ own }) => median(own.map((t) => t.prints)))],
    ['grams, median', ...ways.map(({ own }) => median(own.map((t) => t.grams)).toFixed(0))],
  ],
)}

${barren} of ${trials} trials told nothing (${((100 * barren) / Math.max(1, trials)).toFixed(0)} %).

Why it falls short where it does stands in [standin.md](standin.md). By kind: ${kinds.map(([k, n]) => `${k} ${n}`).join(', ') || 'none'}.

${
  short
    .map(
      (t) =>
        `- ${t.family} on ${t.kind}, seed ${t.seed}: ${COUNTS.filter((c) => !t.counts[c].ok)
          .map((c) => `${c} ${t.counts[c].text}`)
          .join('; ')}`,
    )
    .join('\n') || '- nowhere'
}`
}

function foundPart(found: readonly Found[]): string {
  const advised = found.filter((f) => f.way === 'advice')
  const opened = advised.filter((f) => !f.unnoticed)
  // ways are compared in the worlds in which all of them were followed
  const followed = (f: Found) =>
    WAYS.every((way) => found.some((g) => g.way === way && g.seed === f.seed && g.kind === f.kind))
  const compared = found.filter(followed)
  const byProperty = PROPERTY_IDS.flatMap((id) => {
    const own = opened.filter((f) => f.hidden[0] === id)
    return own.length
      ? [
          [
            propertyOf(id).label,
            own.length,
            percent(own.map((f) => f.fixed)),
            percent(own.map((f) => f.named)),
            median(own.map((f) => f.steps)),
          ],
        ]
      : []
  })
  return `## Finding one hidden fault

${advised.length} worlds; in ${advised.length - opened.length} of them the person noticed nothing on the print, and there is no case; the others are counted. Aim: named 85 %, fixed 95 %, 3 steps in the median.

${table(WAY_HEAD, [wayRow('advice', advised)])}

A fix is written into the file that was printed: ${sum(advised.map((f) => f.changed))} files were made so, ${sum(advised.map((f) => f.anew))} anew because lines had to lie elsewhere.

The same ${new Set(compared.map((f) => f.seed)).size} worlds in every way. Aim: half the grams and minutes of the other ways.

${table(
  WAY_HEAD,
  WAYS.map((way) =>
    wayRow(
      way,
      compared.filter((f) => f.way === way),
    ),
  ),
)}

${table(['Property', 'Worlds', 'Fixed', 'Named', 'Steps'], byProperty)}
${leftOf('Left', advised)}`
}

/**
 * What came of it, as a page.
 * @param run which worlds these were
 */
export function pageOf(results: readonly Result[], run: string): string {
  const tuned = results.filter((r) => r.do === 'tune')
  const cases = results.filter((r) => r.do === 'find')
  const doubles = cases.filter((f) => f.hidden.length > 1)
  const advised = cases.filter((f) => f.way === 'advice')
  return `# Does the loop close?

Made by \`npm run bench:loop\`: simulated machines ([standin.md](standin.md)) stand in for the bench, and the app's own next step is followed, with people who misjudge and overlook. Nothing here has been compared with real prints. ${run}

${tunedPart(tuned)}

${foundPart(cases.filter((f) => f.hidden.length === 1))}
## Finding two at once

${doubles.length} worlds, ${doubles.filter((f) => f.unnoticed).length} of them with nothing noticed. Aim: fixed 85 %.

${table(WAY_HEAD, [wayRow('advice', doubles)])}
${leftOf('Left of two', doubles)}
## Safe

Ended with signs left and nothing more proposed (the app then says what is left): ${advised.filter((f) => f.stranded).length}. Made worse twice in a row: ${advised.filter((f) => f.worseTwice).length}.
`
}
