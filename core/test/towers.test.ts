import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { deriveRecipe } from '../src/recipe'
import {
  NO_READING,
  PIECES,
  gradedCurve,
  makePiece,
  outcomeOf,
  type CriterionId,
  type GradedPlace,
  type Outcome,
  type ReadTrial,
} from '../src/trials'
import { say } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'
import { gradedTower, type Truth } from './lib/towers'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const using = (nozzle: number) => ({
  machine,
  filament,
  recipe: deriveRecipe({ machine, filament, pins: hand({ nozzle }) }),
})
const blanks = new Map<string, ReadTrial>()
/** A tower of heats with nothing noted on it. */
function blank(from: number, to: number, count: number): ReadTrial {
  const key = [from, to, count].join()
  const plan = { piece: 'temperature-tower', steps: { key: 'nozzle', from, to, count } } as const
  if (!blanks.has(key))
    blanks.set(key, {
      number: 1,
      plan,
      cells: makePiece(using(205), plan).cells,
      readings: {},
      resolution: 0.01,
    })
  return blanks.get(key)!
}
type Rows = Partial<Record<CriterionId, readonly (number | null)[]>>
/** A tower of heats graded in the order of its steps. */
function tower(from: number, to: number, rows: Rows, nozzle = 205): Outcome {
  const count = Math.max(...Object.values(rows).map((r) => r.length))
  const trial = blank(from, to, count)
  const readings = Object.fromEntries(
    trial.cells.map((c, i) => {
      const grades = Object.fromEntries(
        Object.entries(rows).flatMap(([id, row]) => (row[i] == null ? [] : [[id, row[i]]])),
      )
      return [c.id, { ...NO_READING, grades }]
    }),
  )
  return outcomeOf([{ ...trial, readings }], using(nozzle))
}
const said = (o: Outcome) => o.reasons.map(say).join(' ')

test.each<[string, Rows]>([
  ['one criterion', { bonding: [4, 4, 2, 2, 1] }],
  ['two criteria', { bonding: [4, 4, 3, 3, 2], surface: [4, 4, 3, 3, 2] }],
  ['one zero among others', { bonding: [4, 4, 3, 1, 0], strings: [4, 4, 4, 4, 4], bridge: [3, 4, 3, 4, 3] }],
])('bands that bond worse the colder they are say so: %s', (_, rows) => {
  const out = tower(230, 210, rows, 210)
  expect(['found', 'end']).toContain(out.kind)
  expect(out.best!).toBeGreaterThanOrEqual(220)
})

test('a slip in one criterion does not wipe out what all others show', () => {
  const good = {
    bonding: [1, 2, 3, 4, 4, 4, 4],
    strings: [4, 4, 4, 4, 4, 3, 2],
    surface: [2, 3, 4, 4, 4, 3, 2],
  }
  const slip = { ...good, bridge: [3, 3, 4, 0, 4, 3, 3] }
  const [a, b] = [good, slip].map((rows) => tower(190, 220, rows))
  expect(a.kind).toBe('found')
  expect(b.kind).toBe('found')
  expect(Math.abs(a.best! - b.best!)).toBeLessThan(5)
})

test('a level that holds the value in use keeps it and says from where to where it is good', () => {
  const rows = {
    bonding: [1, 2, 4, 4, 4, 4, 4],
    strings: [4, 4, 4, 4, 4, 4, 2],
    surface: [3, 3, 4, 4, 4, 4, 2],
  }
  const kept = tower(195, 225, rows, 210)
  expect(kept).toMatchObject({ kind: 'found', best: 210, adopt: [{ key: 'nozzle', value: 210 }] })
  expect(said(kept)).toMatch(/^Keep 210\s°C\. Anything from 20\d\s°C to 2[12]\d\s°C is good\./)
  // the same grades do not keep a value beyond the level
  expect(tower(195, 225, rows, 197).adopt[0].value).toBeGreaterThan(203)
})

test('nothing that can be seen: keep it where it is good, look elsewhere where it is not, whatever is in use', () => {
  const kept = tower(195, 225, { bonding: [4, 3, 4, 4, 4, 3, 4], strings: [3, 4, 3, 3, 4, 4, 3] }, 210)
  expect(kept).toMatchObject({ kind: 'found', best: 210 })
  expect(said(kept)).toMatch(/show no difference/)
  const poor = tower(195, 225, { bonding: [1, 2, 1, 1, 1, 2, 1], strings: [2, 1, 2, 2, 1, 1, 2] }, 210)
  expect(poor).toMatchObject({ kind: 'flat', adopt: [] })
  expect(said(poor)).toMatch(/comes from something else/)
})

/** Towers by another hand's curves, told by the trial. */
function told(truth: Truth, bands: number, fall: number, runs: number, seed: number) {
  const { criteria } = PIECES['temperature-tower']
  let [answered, held, intervals] = [0, 0, 0]
  for (let k = 0; k < runs; k++) {
    const t = gradedTower(truth, {
      bands,
      criteria: criteria.length,
      fall,
      scatter: [0.3, 0.5, 0.7][k % 3],
      seed: seed + 7919 * k,
    })
    const out = tower(190, 230, Object.fromEntries(criteria.map((c, i) => [c, t.grades[i]])), 212)
    const band = (v: number) => ((v - 190) / 40) * (bands - 1)
    const kept = out.reasons.some((r) => r.code === 'keep-value')
    if (out.kind === 'end' || (out.kind === 'found' && !(truth === 'nothing' && kept))) answered++
    if (out.kind !== 'found') continue
    intervals++
    const good = Array.from({ length: 20 * bands }, (_, i) => i / 20).filter(
      (u) => t.worth(u) >= t.best - 0.03,
    )
    held += Number(good.some((u) => u >= band(out.low!) - 1e-6 && u <= band(out.high!) + 1e-6))
  }
  return { answered: answered / runs, held: held / Math.max(1, intervals) }
}

test.each<[Truth]>([['skewed'], ['sharp'], ['plateau'], ['monotone'], ['conflicting']])(
  'nine bands of five criteria with a %s truth: there is an answer, and its interval holds the best',
  (truth) => {
    const { answered, held } = told(truth, 9, 2.5, 30, 400)
    expect(answered).toBeGreaterThanOrEqual(0.85)
    expect(held).toBeGreaterThanOrEqual(0.9)
  },
)

test.each([4, 5, 7, 9])(
  '%i bands on which nothing varies: another value is offered in 5 of 100 at most',
  (bands) => {
    expect(told('nothing', bands, 0, 80, 9000).answered).toBeLessThanOrEqual(0.0625)
  },
)

const CRITERIA: readonly CriterionId[] = ['strings', 'bonding', 'surface']
const grade = fc.option(fc.integer({ min: 0, max: 4 }), { nil: undefined, freq: 8 })
const places = fc
  .array(fc.record({ strings: grade, bonding: fc.integer({ min: 0, max: 4 }), surface: grade }), {
    minLength: 3,
    maxLength: 9,
  })
  .map((list) =>
    list.map((grades, x): GradedPlace => ({
      x,
      weight: 1,
      grades: Object.fromEntries(Object.entries(grades).filter(([, g]) => g !== undefined)),
    })),
  )

test('whatever was graded: chances are chances, a mirrored tower says the mirrored thing, and units do not matter', () => {
  fc.assert(
    fc.property(places, (list) => {
      const last = list.length - 1
      const g = gradedCurve(list, CRITERIA, { bonding: 'rises' })
      expect(g.accident).toBeGreaterThan(0)
      expect(g.accident).toBeLessThanOrEqual(1)
      expect(g.best).toBeGreaterThanOrEqual(0)
      expect(g.best).toBeLessThanOrEqual(last)
      const mirrored = gradedCurve(
        list.map((p) => ({ ...p, x: last - p.x })),
        CRITERIA,
        { bonding: 'falls' },
      )
      expect(Math.abs(mirrored.alike / g.alike - 1)).toBeLessThan(1e-9)
      // means of 500 drawn curves: as near as such means come
      for (const { x } of list) expect(Math.abs(mirrored.at(last - x) - g.at(x))).toBeLessThan(0.06)
      // where the curve is all but level the draws decide where its middle lies
      if (g.accident < 0.05) expect(Math.abs(last - mirrored.best - g.best)).toBeLessThan(0.12 * last + 0.05)
      const scaled = gradedCurve(
        list.map((p) => ({ ...p, x: 200 + 5 * p.x })),
        CRITERIA,
        { bonding: 'rises' },
      )
      expect(scaled.accident).toBe(g.accident)
      expect((scaled.best - 200) / 5).toBeCloseTo(g.best, 6)
    }),
    tries(40),
  )
})

test('a criterion nobody graded changes nothing, and an unsure reading counts less than a sure one', () => {
  const xs = [0, 1, 2, 3, 4, 5]
  const of = (weight: number): GradedPlace[] =>
    xs.map((x) => ({ x, weight: x === 2 ? weight : 1, grades: { bonding: x === 2 ? 0 : 3 } }))
  expect(gradedCurve(of(1), ['bonding']).alike).toBeCloseTo(gradedCurve(of(1), ['bonding', 'seam']).alike, 9)
  const dip = (weight: number) => gradedCurve(of(weight), ['bonding']).at(2)
  expect(dip(0.5)).toBeGreaterThan(dip(1))
})
