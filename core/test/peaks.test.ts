import { peakResponse, variesP } from '../src/trials'
import { normalStream, randomStream } from '../src/statistics'

// The generator is not the fitted model: a gentle side and a steep one, whole grades of 0 to 4, rater noise 0.6, one
// outlier in twenty.
const GRADES = 4
const point = (x: number, y: number) => ({ x, y, weight: 1, trial: 1 })
function graded(n: number, seed: number, shape: (x: number) => number) {
  const random = randomStream(seed)
  const normal = normalStream(random)
  return Array.from({ length: n }, (_, i) => {
    const wild = random() < 0.05
    const grade = wild ? random() * GRADES : GRADES * shape(i) + 0.6 * normal()
    return point(i, Math.min(GRADES, Math.max(0, Math.round(grade))) / GRADES)
  })
}

test.each([4, 6, 9])('flat truth over %i bands: something is offered in at most 5 %%', (n) => {
  let offers = 0
  const runs = 150
  for (let k = 0; k < runs; k++) {
    const points = graded(n, 1000 + k, () => 0.6)
    const fit = peakResponse(points, 0.035)
    if (fit && variesP(points) <= 0.05 && fit.high - fit.low < n - 1) offers++
  }
  expect(offers / runs).toBeLessThanOrEqual(0.07)
})

const skewed = (best: number) => (x: number) =>
  x < best
    ? Math.max(0, 1 - 0.09 * (best - x)) - 0.012 * (best - x) ** 2
    : Math.max(0, 1 - 0.2 * (x - best) ** 1.5)
const cliff = (best: number) => (x: number) => (x <= best ? Math.max(0, 1 - 0.1 * (best - x)) : 0.1)

test.each([
  ['a gentle and a steep side', skewed],
  ['a cliff', cliff],
])('%s: the interval holds the truth in 90 to 98 %%, bias under a third of a band', (_, shape) => {
  const n = 9
  let held = 0
  let seen = 0
  const errors: number[] = []
  const runs = 200
  for (let k = 0; k < runs; k++) {
    const truth = 3 + 3 * randomStream(50_000 + k)()
    const points = graded(n, 7000 + k, shape(truth))
    const fit = peakResponse(points, 0.035)!
    if (variesP(points) <= 0.05) seen++
    held += Number(fit.low <= truth && fit.high >= truth)
    errors.push(fit.best - truth)
  }
  errors.sort((a, b) => a - b)
  expect(held / runs).toBeGreaterThanOrEqual(0.9)
  expect(held / runs).toBeLessThanOrEqual(0.99)
  // x counts bands
  expect(Math.abs(errors[runs / 2])).toBeLessThan(1 / 3)
  // what is there is seen, and not called a disagreement
  expect(seen / runs).toBeGreaterThanOrEqual(0.95)
})
