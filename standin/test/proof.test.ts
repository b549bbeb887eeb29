import { find } from '../proof/find'
import { settled } from '../proof/settled'
import { tune } from '../proof/tune'
import { writePractice } from '@verimend/core/casework'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import { appearancesOf } from '../src'

// A small share of `npm run bench:loop`, whose page is docs/closed-loop.md.

test.each([
  ['tube', 'abs'],
  ['direct', 'petg'],
  ['enclosed', 'pa'],
] as const)('%s, %s: a pair whose owner has found out what it wants prints well', (kind, family) => {
  const s = settled(kind, family, 51)
  const part = s.print(writePractice(s.machine, s.recipe))
  const clear = Object.entries(appearancesOf(part, s.world, PRACTICE_SIZE)).filter(([, v]) => v > 0.5)
  expect(clear).toEqual([])
})

test.each([
  ['moisture', 'tube', 'abs', 2],
  ['steps', 'tube', 'pla', 8],
  ['creeps', 'enclosed', 'pa', 7],
] as const)(
  '%s hidden on %s, %s: the app’s own advice finds it and puts it right',
  (id, kind, family, seed) => {
    const found = find(kind, family, seed, [id], 'advice')
    expect({ ...found, log: [] }).toMatchObject({
      fixed: true,
      named: true,
      stranded: false,
      worseTwice: false,
    })
    expect(found.steps).toBeLessThanOrEqual(5)
  },
)

test('a new roll is tuned within a dozen prints, and most of it is right', () => {
  const { counts, prints, grams } = tune('direct', 'pla', 4)
  expect(prints).toBeLessThanOrEqual(10)
  expect(grams).toBeLessThan(110)
  expect(Object.values(counts).filter((c) => c.ok).length).toBeGreaterThanOrEqual(5)
  expect(counts.flow.ok && counts.melt.ok).toBe(true)
})
