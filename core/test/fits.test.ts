import fc from 'fast-check'
import { brokenStick, desirability, driftPValue, stepValues, type FitPoint } from '../src/trials'
import { normalStream, randomStream } from '../src/statistics'

const points = (xs: number[], ys: number[], trial = 1): FitPoint[] =>
  xs.map((x, i) => ({ x, y: ys[i], weight: 1, trial }))

test('desirability after Derringer and Suich: the geometric mean, with a useless grade as a tenth', () => {
  // worked by hand: √(0.5 · 1) = 0.70711
  expect(
    desirability(
      [
        { grade: 2, weight: 1 },
        { grade: 4, weight: 1 },
      ],
      4,
    ),
  ).toBeCloseTo(0.70711, 5)
  expect(
    desirability(
      [
        { grade: 0, weight: 1 },
        { grade: 4, weight: 1 },
      ],
      4,
    ),
    // √(0.1 · 1)
  ).toBeCloseTo(0.31623, 5)
  expect(
    desirability(
      [
        { grade: 3, weight: 2 },
        { grade: 1, weight: 1 },
      ],
      4,
    ),
  ).toBeCloseTo((0.75 ** 2 * 0.25) ** (1 / 3), 10)
  fc.assert(
    fc.property(fc.array(fc.integer({ min: 0, max: 4 }), { minLength: 1, maxLength: 6 }), (g) => {
      const d = desirability(
        g.map((grade) => ({ grade, weight: 1 })),
        4,
      )
      expect(d).toBeGreaterThanOrEqual(Math.min(...g) / 4 - 1e-12)
      expect(d).toBeLessThanOrEqual(Math.max(0.1, Math.max(...g) / 4) + 1e-12)
    }),
  )
})

test('without noise the knee is met', () => {
  const ls = stepValues({ from: 1, to: 7, count: 9 })
  const s = brokenStick(
    points(
      ls,
      ls.map((x) => (x < 4.2 ? 0.95 - 0.25 * (4.2 - x) : 0.95)),
    ),
    -1,
    0.01,
  )!
  expect(s.knee).toBeCloseTo(4.2, 2)
  expect(s.level).toBeCloseTo(0.95, 3)
  const rates = stepValues({ from: 4, to: 18, count: 8 })
  const m = brokenStick(
    points(
      rates,
      rates.map((x) => (x > 11 ? 1 - 0.03 * (x - 11) : 1)),
    ),
    1,
    0.001,
  )!
  expect(m.knee).toBeCloseTo(11, 2)
  expect(m.slope).toBeCloseTo(-0.03, 4)
})

test.each([
  [
    'retraction',
    -1,
    { from: 1, to: 8, count: 10 },
    (x: number, k: number) => (x < k ? 0.95 - 0.22 * (k - x) : 0.95),
    0.05,
    3,
    6,
    500,
  ],
  [
    'melt rate',
    1,
    { from: 4, to: 20, count: 10 },
    (x: number, k: number) => (x > k ? 1 - 0.03 * (x - k) : 1),
    0.012,
    8,
    15,
    250,
  ],
] as const)(
  'hundreds of noisy broken sticks of %s: the interval of the knee holds the truth in 90 to 98 %',
  (_, side, steps, shape, noise, low, high, count) => {
    const random = randomStream(5)
    const normal = normalStream(random)
    const xs = stepValues(steps)
    let held = 0
    for (let k = 0; k < count; k++) {
      const truth = low + (high - low) * random()
      const fit = brokenStick(
        points(
          xs,
          xs.map((x) => shape(x, truth) + noise * normal()),
        ),
        side,
        noise / 5,
      )!
      held += Number(fit.low <= truth && fit.high >= truth)
    }
    expect(held / count).toBeGreaterThanOrEqual(0.9)
    expect(held / count).toBeLessThanOrEqual(0.98)
  },
)

test('a shift between two trials of the same thing is seen; noise alone is not called one', () => {
  const normal = normalStream(randomStream(3))
  const xs = stepValues({ from: 190, to: 220, count: 7 })
  const trial = (shift: number, n: number) =>
    points(
      xs,
      xs.map((x) => 0.8 - ((x - 205) / 30) ** 2 + shift + 0.03 * normal()),
      n,
    )
  expect(driftPValue([...trial(0, 1), ...trial(-0.2, 2)])).toBeLessThan(0.01)
  expect(driftPValue([...trial(0, 1), ...trial(0, 2)])).toBeGreaterThan(0.05)
  expect(driftPValue(trial(0, 1))).toBeNaN()
})
