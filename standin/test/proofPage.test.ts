import { marked } from 'marked'
import type { Found } from '../proof/find'
import { pageOf } from '../proof/page'
import { COUNTS, TUNINGS, type Tuned } from '../proof/tune'
import { shareOfProof, tasksOf, WAYS, type Result } from '../proof/worlds'
import { PROPERTY_IDS, propertyOf } from '../src'

const found = (more: Partial<Found> = {}): Result => ({
  do: 'find',
  seed: 7,
  kind: 'tube',
  family: 'abs',
  hidden: ['moisture'],
  way: 'advice',
  steps: 2,
  prints: 1,
  grams: 20,
  minutes: 100,
  unnoticed: false,
  fixed: true,
  harm: [],
  left: [],
  named: true,
  worseTwice: false,
  stranded: false,
  changed: 2,
  anew: 1,
  log: ['seen strings-thin', 'mend filament-wet/0 dry-filament: strings-thin gone'],
  ...more,
})
const tuned = (wrong: readonly (typeof COUNTS)[number][] = []): Result => ({
  do: 'tune',
  how: 'advice',
  trials: 6,
  barren: 1,
  seed: 3,
  kind: 'direct',
  family: 'petg',
  prints: 6,
  grams: 44,
  minutes: 200,
  counts: Object.fromEntries(
    COUNTS.map((c) => [c, { ok: !wrong.includes(c), text: `${c} as it is` }]),
  ) as Tuned['counts'],
  ok: !wrong.length,
  log: [],
})
/** Cells of the row of a table that begins with a word. */
const row = (page: string, first: string) =>
  page
    .split('\n')
    .find((line) => line.startsWith(`| ${first} `))!
    .split('|')
    .map((cell) => cell.trim())
    .filter(Boolean)

test('shares are of the worlds in which something was noticed, means and medians as they are', () => {
  const page = pageOf(
    [
      tuned(),
      tuned(['fan']),
      tuned(['fan', 'nozzle']),
      tuned(),
      found(),
      found({ steps: 4, prints: 3, grams: 40, fixed: false, harm: ['strings-thin'] }),
      found({ steps: 6, prints: 5, grams: 60, named: false }),
      found({ unnoticed: true, fixed: false, named: false, steps: 0, log: ['seen '] }),
    ],
    'A run.',
  )
  expect(page).toContain('A run.')
  expect(row(page, 'fan')).toEqual(['fan', '50 %'])
  expect(row(page, 'all of them')).toEqual(['all of them', '50 %'])
  expect(row(page, 'all but one at most')).toEqual(['all but one at most', '75 %'])
  expect(row(page, 'advice')).toEqual(['advice', '67 %', '67 %', '4', '3', '40', '100', '0 %'])
  expect(row(page, propertyOf('moisture').label)).toEqual([
    propertyOf('moisture').label,
    ...['3', '67 %', '67 %', '4'],
  ])
})

test('ways to tune stand side by side, and trials that told nothing are counted', () => {
  const [one, none] = [tuned(['fan']), tuned(['fan', 'nozzle', 'flow'])] as Extract<Result, { do: 'tune' }>[]
  const page = pageOf([one, tuned(), { ...none, how: 'card alone', prints: 0, trials: 0, barren: 0 }], '')
  expect(row(page, 'fan')).toEqual(['fan', '50 %', '0 %'])
  expect(row(page, 'retraction')).toEqual(['retraction', '100 %', '100 %'])
  expect(row(page, 'prints, median')).toEqual(['prints, median', '6', '0'])
  expect(page).toContain('2 of 12 trials told nothing (17 %).')
})

test('each case that was left is told with why, step by step; what ended well is not', () => {
  const page = pageOf(
    [
      found({ seed: 11, log: ['ended well'] }),
      found({ seed: 12, fixed: false, harm: ['strings-thin'], left: [] }),
      found({ seed: 13, fixed: false, harm: ['strings-thin'], left: ['strings-thin'], steps: 3 }),
      found({ seed: 14, fixed: false, harm: ['strings-thin'], left: ['strings-thin'], steps: 16 }),
      found({ seed: 15, fixed: false, harm: ['strings-thin'], left: ['strings-thin'], stranded: true }),
    ],
    '',
  )
  for (const seed of [12, 13, 14, 15]) expect(page).toContain(`seed ${seed}:`)
  expect(page).not.toContain('seed 11:')
  expect(page).not.toContain('ended well')
  for (const why of [
    'saw nothing of it any more',
    'something slight',
    'sixteen steps',
    'nothing more was proposed',
  ])
    expect(page).toContain(why)
  expect(page).toMatch(/nothing more proposed \(the app then says what is left\): 1\./)
})

test('a page of nothing is still a page, and its tables are tables', () => {
  expect(pageOf([], '')).toContain('0 worlds')
  const html = marked.parse(pageOf([tuned(), found()], 'A run.')) as string
  expect(html.match(/<table>/g)!.length).toBeGreaterThanOrEqual(3)
  expect(html).not.toContain('NaN')
})

test('worlds of a proof: each has its own seed, each property its share, the other ways go through the same ones', () => {
  const tasks = tasksOf({ tune: 10, each: 3, doubles: 4, others: 1, from: 500 })
  const finds = tasks.flatMap((t) => (t.do === 'find' ? [t] : []))
  // each roll is tuned in all ways
  for (const how of TUNINGS) expect(tasks.filter((t) => t.do === 'tune' && t.how === how)).toHaveLength(10)
  for (const id of PROPERTY_IDS) {
    const own = finds.filter((f) => f.hidden.length === 1 && f.hidden[0] === id)
    expect(own.filter((f) => f.way === 'advice')).toHaveLength(3)
    for (const way of WAYS) expect(own.filter((f) => f.way === way).length).toBeGreaterThanOrEqual(1)
    // the other ways have no world of their own
    const advised = new Set(own.filter((f) => f.way === 'advice').map((f) => f.seed))
    expect(own.every((f) => advised.has(f.seed))).toBe(true)
  }
  expect(finds.filter((f) => f.hidden.length === 2)).toHaveLength(4)
  const names = finds.map((f) => `${f.seed} ${f.way}`)
  expect(new Set(names).size).toBe(names.length)
  const share = shareOfProof(20, 30)
  expect(share.filter((t) => t.do === 'tune')).toHaveLength(20)
  expect(share.filter((t) => t.do === 'find')).toHaveLength(30)
})
