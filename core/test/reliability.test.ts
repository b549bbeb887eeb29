import { SIGN_LEAK, weigh } from '../src/diagnosis'
import { SIGN_IDS, STRENGTH, SUSPECT_IDS, suspectOf, type SignId, type SuspectId } from '../src/knowledge'
import { PRIOR } from '../src/knowledge/types'
import { randomStream } from '../src/statistics'
import { marksOf, type ObserverName } from './lib/observers'

// What the balance claims against what is so. Truth: one cause, or two in one of four, as common as the handbook says, where the
// balance takes every suspect to be there or not by itself; people miss and mistake as they do, where the balance takes one
// middle person for all of them. `npm run bench:advice` has the whole table.
const CASES = 700

/** Claims over 3 %, by fifths of what was claimed: how many, what was claimed and what was so in the mean. */
function claims(observer: ObserverName, everything: boolean) {
  const random = randomStream(4711)
  const total = SUSPECT_IDS.reduce((n, s) => n + PRIOR[suspectOf(s).prior], 0)
  const cause = (): SuspectId => {
    let at = random() * total
    return SUSPECT_IDS.find((s) => (at -= PRIOR[suspectOf(s).prior]) <= 0)!
  }
  const bins = Array.from({ length: 5 }, () => ({ n: 0, claimed: 0, right: 0 }))
  for (let k = 0; k < CASES; k++) {
    const faults = new Set(random() < 0.25 ? [cause(), cause()] : [cause()])
    const there = new Set<SignId>(SIGN_IDS.filter(() => random() < SIGN_LEAK / 2))
    for (const f of faults)
      for (const s of SIGN_IDS) {
        const strength = suspectOf(f).signs[s]
        if (strength && random() < STRENGTH[strength]) there.add(s)
      }
    const signs = marksOf(there, observer, everything, random)
    if (!Object.values(signs).includes('present')) continue
    for (const s of weigh({ signs, facts: {} }).suspects) {
      if (s.probability < 0.03) continue
      const bin = bins[Math.min(4, Math.floor(s.probability * 5))]
      bin.n++
      bin.claimed += s.probability
      bin.right += Number(faults.has(s.id))
    }
  }
  return bins.map((b) => ({ n: b.n, claimed: b.claimed / b.n, right: b.right / b.n }))
}

test.each([true, false])(
  'claims come true as often as they say under a middle observer (goes through the families: %s)',
  (everything) => {
    for (const { n, claimed, right } of claims('middle', everything)) {
      // two standard errors of the count, and five points
      const chance = 2 * Math.sqrt((claimed * (1 - claimed)) / n)
      expect(Math.abs(claimed - right)).toBeLessThan(0.05 + chance)
    }
  },
)
test('a careful one is not promised too much, and of a sloppy one the surest claims still mostly hold', () => {
  for (const everything of [true, false]) {
    const careful = claims('careful', everything)
    for (const { n, claimed, right } of careful)
      expect(claimed - right).toBeLessThan(0.06 + 2 * Math.sqrt((claimed * (1 - claimed)) / n))
    expect(claims('sloppy', everything)[4].right).toBeGreaterThan(0.7)
  }
})
