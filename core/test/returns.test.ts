import fc from 'fast-check'
import {
  asItTurnedOut,
  causesOf,
  diagnoseCase,
  EMPTY_CASE,
  overallOutcome,
  returnsOf,
  triedIn,
  type NotedAttempt,
} from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import type { SignStates } from '../src/diagnosis'
import { deriveRecipe } from '../src/recipe'
import { tries } from './lib/property'

const dried = (number: number, more: Partial<NotedAttempt> = {}): NotedAttempt => ({
  number,
  mends: [{ suspect: 'filament-wet', kind: 'handling', procedure: 'dry-filament' }],
  signsBefore: { 'strings-thin': 'present' },
  results: { 'strings-thin': 'gone' },
  newSigns: [],
  ...more,
})
const cooler = (number: number, more: Partial<NotedAttempt> = {}): NotedAttempt =>
  dried(number, {
    mends: [{ suspect: 'nozzle-too-hot', kind: 'setting', key: 'nozzle', from: 220, to: 215 }],
    ...more,
  })

test('what was gone and is seen again by a look alone had only become better; the next mend is another suspect’s as well', () => {
  const gone = [dried(1)]
  expect(returnsOf(gone, { 'strings-thin': 'absent' }).size).toBe(0)
  expect(asItTurnedOut(gone, { 'strings-thin': 'absent' })).toEqual(gone)
  const back: SignStates = { 'strings-thin': 'present' }
  expect([...returnsOf(gone, back)]).toEqual([[1, ['strings-thin']]])
  const [turned] = asItTurnedOut(gone, back)
  expect(overallOutcome(turned)).toBe('better')
  // what was noted stays as it was noted
  expect(gone[0].results).toEqual({ 'strings-thin': 'gone' })
  // it is no cause that has been found any more, and may be gone for again
  expect(causesOf(asItTurnedOut(gone, back))).toEqual([])
  expect(triedIn(asItTurnedOut(gone, back))[0].outcome).toBe('better')
})

test('what a later attempt brought is no return, what was back before it is', () => {
  const present: SignStates = { 'strings-thin': 'present' }
  const brought = [
    dried(1),
    cooler(2, { signsBefore: { 'strings-thin': 'absent' }, results: {}, newSigns: ['strings-thin'] }),
  ]
  expect(returnsOf(brought, present).size).toBe(0)
  const before = [dried(1), cooler(2)]
  expect([...returnsOf(before, { 'strings-thin': 'absent' })]).toEqual([[1, ['strings-thin']]])
  expect([...returnsOf(before, present)]).toEqual([
    [1, ['strings-thin']],
    [2, ['strings-thin']],
  ])
})

test('laws: whatever was noted, a sign that is there now is gone in no attempt since it was last brought; turned out twice is once', () => {
  const SIGNS = ['strings-thin', 'blobs-on-wall', 'weak-layers'] as const
  const state = fc.record(
    Object.fromEntries(SIGNS.map((s) => [s, fc.constantFrom('present' as const, 'absent' as const)])),
  ) as fc.Arbitrary<SignStates>
  const step = fc.record({
    before: state,
    result: fc.constantFrom('gone' as const, 'better' as const, 'same' as const),
    brings: fc.subarray([...SIGNS]),
  })
  fc.assert(
    fc.property(fc.array(step, { maxLength: 6 }), state, (steps, now) => {
      const attempts = steps.map(({ before, result, brings }, i) => {
        const there = SIGNS.filter((s) => before[s] === 'present')
        return dried(i + 1, {
          signsBefore: before,
          results: Object.fromEntries(there.map((s) => [s, result])),
          newSigns: brings.filter((s) => !there.includes(s)),
        })
      })
      const turned = asItTurnedOut(attempts, now)
      expect(asItTurnedOut(turned, now)).toEqual(turned)
      expect(turned.map((a) => a.number)).toEqual(attempts.map((a) => a.number))
      for (const s of SIGNS) {
        if (now[s] !== 'present') continue
        const brought = attempts.findLastIndex((a) => a.newSigns.includes(s))
        for (const a of turned.slice(Math.max(0, brought))) expect(a.results![s]).not.toBe('gone')
      }
    }),
    tries(200),
  )
})

test('a case whose sign is back has a next step, and what was tried may be taken further', () => {
  const machine = DEMO_MACHINES.shed
  const filament = demoFilaments('2026-01-01').fern
  const recipe = deriveRecipe({ machine, filament })
  const signs: SignStates = { 'strings-thin': 'present' }
  const attempts = [{ ...cooler(1), fromVersion: 1, toVersion: 2 }]
  const context = { machine, filament, recipe, today: '2026-01-02' }
  const { plan, proposals } = diagnoseCase({ ...EMPTY_CASE, signs, attempts }, context)
  expect(plan.next).not.toBeNull()
  expect(proposals.some((p) => p.suspect === 'nozzle-too-hot' && p.kind === 'setting')).toBe(true)
})
