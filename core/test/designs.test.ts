import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  DESIGNS,
  DESIGN_IDS,
  makeSet,
  offerSet,
  runValues,
  setEvidence,
  setOutcome,
  type DesignedSet,
  type Diagnosis,
} from '../src/casework'
import { deriveRecipe } from '../src/recipe'
import { say } from '../src/words'
import { diagnose } from './lib/diagnose'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').terracotta
const recipe = deriveRecipe({ machine, filament })

test.each(DESIGN_IDS)('%s: every level as often as the others, every two columns crossed evenly', (id) => {
  const runs: readonly (readonly number[])[] = DESIGNS[id].runs
  const levels = id === 'l9' ? 3 : 2
  for (let a = 0; a < DESIGNS[id].factors; a++) {
    for (let l = 0; l < levels; l++) expect(runs.filter((r) => r[a] === l)).toHaveLength(runs.length / levels)
    for (let b = a + 1; b < DESIGNS[id].factors; b++) {
      const pairs = new Set(runs.map((r) => `${r[a]}${r[b]}`))
      expect(pairs.size).toBe(levels * levels) // orthogonal
    }
  }
})

const set = (grades: (number | null)[], design: 'two-by-two' | 'l4' = 'l4'): DesignedSet => ({
  id: '1',
  design,
  sign: 'strings-thin',
  factors: [
    { proposal: 'nozzle-too-hot/0', suspect: 'nozzle-too-hot', key: 'nozzle', levels: [210, 200] },
    {
      proposal: 'retraction-too-short/0',
      suspect: 'retraction-too-short',
      key: 'retractLength',
      levels: [4, 5],
    },
    { proposal: 'travel-too-slow/0', suspect: 'travel-too-slow', key: 'travelSpeed', levels: [80, 150] },
  ].slice(0, DESIGNS[design].factors) as DesignedSet['factors'],
  grades,
})

test('main effects of an L4, worked by hand; the one that counts is named and its suspect found', () => {
  // runs 000, 011, 101, 110; grades 0, 0, 4, 4: nozzle +4, the others 0
  const out = setOutcome(set([0, 0, 4, 4]))
  expect(out.effects.map((e) => e.effect).map((v) => Number(v.toFixed(9)))).toEqual([4, 0, 0])
  expect(out.lead!.factor.suspect).toBe('nozzle-too-hot')
  expect(setEvidence([set([0, 0, 4, 4])]).map((e) => [e.suspect, e.found])).toEqual([
    ['nozzle-too-hot', true],
    ['retraction-too-short', false],
    ['travel-too-slow', false],
  ])
  expect(setOutcome(set([2, 2, 2, 2])).lead).toBeNull()
  expect(say(setOutcome(set([0, 0, 4, null])).reasons[0])).toMatch(/1 of 4 prints/)
  expect(setEvidence([set([0, 0, 4, null])])).toEqual([])
})

test('whichever factor does it, a set finds it', () => {
  fc.assert(
    fc.property(
      fc.constantFrom('two-by-two' as const, 'l4' as const),
      fc.nat(2),
      fc.integer({ min: 2, max: 4 }),
      (design, which, size) => {
        const k = which % DESIGNS[design].factors
        const s = set(
          DESIGNS[design].runs.map((r) => size * r[k]),
          design,
        )
        expect(setOutcome(s).lead!.factor).toBe(s.factors[k])
      },
    ),
  )
})

test('a set is offered only where nothing cheaper tells the likely ones apart; runs move just its settings', () => {
  const signs = { 'strings-thin': 'present' } as const
  const d = diagnose({ machine, filament, recipe, signs, today: '2026-01-01' })
  const even = (id: string, p: number) => ({
    ...d.balance.suspects.find((s) => s.id === id)!,
    probability: p,
  })
  const balance: Diagnosis['balance'] = {
    ...d.balance,
    suspects: [even('nozzle-too-hot', 0.4), even('retraction-too-short', 0.4)],
  }
  const quiet = { ...d.plan, next: null, others: [] }
  const offered = offerSet(balance, d.proposals, quiet, signs)
  expect(offered).toMatchObject({ design: 'two-by-two', sign: 'strings-thin' })
  expect(runValues(offered!, 0)).toEqual(
    Object.fromEntries(offered!.factors.map((f) => [f.key, recipe[f.key].value])),
  )
  expect(Object.keys(runValues(offered!, 3))).toHaveLength(2)
  const asking = { ...quiet, next: { kind: 'check', saves: 20 } as unknown as Diagnosis['plan']['next'] }
  expect(offerSet(balance, d.proposals, asking, signs)).toBeNull()
  expect(
    offerSet({ ...balance, suspects: balance.suspects.slice(0, 1) }, d.proposals, quiet, signs),
  ).toBeNull()
  expect(makeSet('l9', 'strings-thin', [])).toBeNull()
})
