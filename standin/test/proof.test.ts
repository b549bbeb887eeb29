import { writePractice } from '@verimend/core/casework'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import { execFile } from 'node:child_process'
import { join } from 'node:path'
import { promisify } from 'node:util'
import { settled } from '../proof/settled'
import { COUNTS } from '../proof/tune'
import type { Result } from '../proof/worlds'
import { appearancesOf } from '../src'

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

// A share of `npm run bench:loop`, whose page is docs/closed-loop.md, gone through as that is: bundled, on all cores.
// Under CI=true a part of it.
const FEW = process.env.CI === 'true'
/** Rolls and faults of the share, how many rolls may miss each count, and how many faults may go without their name. */
const SHARE = FEW
  ? { rolls: 10, faults: 10, miss: 2, unnamed: 2 }
  : { rolls: 20, faults: 30, miss: 2, unnamed: 4 }
describe('a share of the proof that the loop closes', () => {
  const results: Result[] = []
  beforeAll(async () => {
    const script = join(__dirname, '../../scripts/bench.mjs')
    const { stdout } = await promisify(execFile)(
      process.execPath,
      [script, 'loop', `--share=${SHARE.rolls},${SHARE.faults}`],
      {
        maxBuffer: 64e6,
      },
    )
    results.push(...(JSON.parse(stdout) as Result[]))
  }, 1_800_000)
  const middle = (values: number[]) => values.sort((a, b) => a - b)[values.length >> 1]

  test('new rolls are tuned in few prints, and most of all seven counts are right', () => {
    const tuned = results.flatMap((r) => (r.do === 'tune' ? [r] : []))
    expect(tuned).toHaveLength(SHARE.rolls)
    expect(middle(tuned.map((t) => t.prints))).toBeLessThanOrEqual(6)
    expect(middle(tuned.map((t) => t.grams))).toBeLessThan(70)
    for (const count of COUNTS)
      expect(tuned.filter((t) => t.counts[count].ok).length).toBeGreaterThanOrEqual(SHARE.rolls - SHARE.miss)
    expect(tuned.filter((t) => t.ok).length).toBeGreaterThanOrEqual(SHARE.rolls - 2 * SHARE.miss)
  })

  test('hidden faults are named and put right in few steps', () => {
    const found = results.flatMap((r) => (r.do === 'find' ? [r] : []))
    expect(found).toHaveLength(SHARE.faults)
    const noticed = found.filter((f) => !f.unnoticed)
    expect(noticed.length).toBeGreaterThanOrEqual(SHARE.faults * 0.9)
    const count = (of: (f: (typeof found)[number]) => boolean) => noticed.filter(of).length
    expect(count((f) => f.fixed)).toBeGreaterThanOrEqual(noticed.length - 1)
    expect(count((f) => f.named)).toBeGreaterThanOrEqual(noticed.length - SHARE.unnamed)
    expect(middle(noticed.map((f) => f.steps))).toBeLessThanOrEqual(3)
    expect(noticed.filter((f) => f.stranded || f.worseTwice)).toEqual([])
  })
})
