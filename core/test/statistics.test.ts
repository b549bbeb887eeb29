import fc from 'fast-check'
import libR from 'lib-r-math.js'
import {
  coefficientInterval,
  combineUncertainties,
  fPValue,
  fQuantile,
  linearFit,
  meanOf,
  nestedPValue,
  normalQuantile,
  normalStream,
  randomStream,
  resolutionUncertainty,
  separableFit,
  tPValue,
  tQuantile,
} from '../src/statistics'

/** NIST StRD Norris, linear regression, lower difficulty: pairs of y and x. Entered from memory; the certified values prove it. */
const NORRIS = [
  [0.1, 0.2],
  [338.8, 337.4],
  [118.1, 118.2],
  [888.0, 884.6],
  [9.2, 10.1],
  [228.1, 226.5],
  [668.5, 666.3],
  [998.5, 996.3],
  [449.1, 448.6],
  [778.9, 777.0],
  [559.2, 558.2],
  [0.3, 0.4],
  [0.1, 0.6],
  [778.1, 775.5],
  [668.8, 666.9],
  [339.3, 338.0],
  [448.9, 447.5],
  [10.8, 11.6],
  [557.7, 556.0],
  [228.3, 228.1],
  [998.0, 995.8],
  [888.8, 887.6],
  [119.6, 120.2],
  [0.3, 0.3],
  [0.6, 0.3],
  [557.6, 556.8],
  [339.3, 339.1],
  [888.0, 887.2],
  [998.5, 999.0],
  [778.9, 779.0],
  [10.2, 11.1],
  [117.6, 118.3],
  [228.9, 229.2],
  [668.4, 669.1],
  [449.2, 448.9],
  [0.2, 0.5],
]
/** NIST StRD Misra1a, nonlinear regression, lower difficulty: y and x of y = b1·(1 − e^(−b2·x)). */
const MISRA1A = [
  [10.07, 77.6],
  [14.73, 114.9],
  [17.94, 141.1],
  [23.93, 190.8],
  [29.61, 239.9],
  [35.18, 289.0],
  [40.02, 332.8],
  [44.82, 378.4],
  [50.76, 434.8],
  [55.05, 477.3],
  [61.01, 536.8],
  [66.4, 593.1],
  [75.47, 689.1],
  [81.78, 760.0],
]
const close = (a: number, b: number, digits: number) =>
  expect(Math.abs(a - b) / Math.abs(b)).toBeLessThan(0.5 * 10 ** -digits)

test('NIST StRD Norris to ten digits', () => {
  const fit = linearFit(
    NORRIS.map(([, x]) => [1, x]),
    NORRIS.map(([y]) => y),
  )!
  close(fit.coefficients[0], -0.262323073774029, 10)
  close(fit.coefficients[1], 1.00211681802045, 10)
  close(fit.sd, 0.884796396144373, 10)
})

test('NIST StRD Misra1a to six digits and more', () => {
  const found = separableFit(
    MISRA1A.map(([, x]) => x),
    MISRA1A.map(([y]) => y),
    (x, b) => [1 - Math.exp(-b * x)],
    [1e-4, 2e-3],
  )!
  close(found.fit.coefficients[0], 238.94212918, 6)
  close(found.parameter, 5.5015643181e-4, 6)
  close(found.fit.rss, 0.12455138894, 8)
})

test('quantiles agree with R’s own code and with the tables', () => {
  expect(tQuantile(0.975, 10)).toBeCloseTo(2.228, 3) // any table
  expect(tQuantile(0.975, 4)).toBeCloseTo(2.776, 3)
  for (const dof of [1, 2, 3, 5, 8, 13, 30, 120])
    for (const p of [0.9, 0.95, 0.975, 0.995]) close(tQuantile(p, dof), libR.qt(p, dof), 6)
  for (const [a, b] of [
    [1, 4],
    [2, 10],
    [3, 7],
    [6, 24],
  ])
    for (const p of [0.9, 0.95, 0.99]) {
      close(fQuantile(p, a, b), libR.qf(p, a, b), 6)
      expect(fPValue(libR.qf(p, a, b), a, b)).toBeCloseTo(1 - p, 6)
    }
  for (const p of [0.9, 0.975, 0.999]) close(normalQuantile(p), libR.qnorm(p), 7)
  expect(tPValue(2.228138852, 10)).toBeCloseTo(0.05, 7)
  expect(() => tQuantile(0.9, 0)).toThrow(/degrees of freedom/)
})

test('least squares: residuals stand square on every column; weights count like repeats', () => {
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.integer({ min: -50, max: 50 }), fc.integer({ min: -50, max: 50 })), {
        minLength: 5,
        maxLength: 14,
      }),
      (points) => {
        const rows = points.map(([x]) => [1, x, x * x])
        const y = points.map(([, v]) => v)
        const fit = linearFit(rows, y)
        if (!fit) {
          expect(new Set(points.map(([x]) => x)).size).toBeLessThan(3)
          return
        }
        for (let j = 0; j < 3; j++) {
          const size = Math.hypot(...rows.map((r) => r[j])) * Math.max(1, Math.hypot(...y))
          const dot = rows.reduce((s, r, i) => s + r[j] * (y[i] - fit.fitted[i]), 0)
          expect(Math.abs(dot) / size).toBeLessThan(1e-8)
        }
        const twice = linearFit([...rows, ...rows], [...y, ...y])!
        const heavy = linearFit(
          rows,
          y,
          y.map(() => 2),
        )!
        twice.coefficients.forEach((c, j) => expect(heavy.coefficients[j]).toBeCloseTo(c, 6))
        expect(heavy.rss).toBeCloseTo(twice.rss, 4)
      },
    ),
    { numRuns: 80 },
  )
  expect(
    linearFit(
      [
        [1, 2],
        [1, 2],
        [1, 2],
      ],
      [1, 2, 3],
    ),
  ).toBeNull()
  expect(linearFit([[1, 2]], [1])).toBeNull()
})

test('an interval holds the truth as often as it says; a term that is not there is not found', () => {
  const normal = normalStream(randomStream(7))
  let held = 0
  let found = 0
  const x = [0, 1, 2, 3, 4, 5, 6, 7]
  for (let k = 0; k < 400; k++) {
    const y = x.map((v) => 2 + 0.5 * v + normal())
    const fit = linearFit(
      x.map((v) => [1, v]),
      y,
    )!
    const [low, high] = coefficientInterval(fit, 1)
    held += Number(low <= 0.5 && high >= 0.5)
    const square = linearFit(
      x.map((v) => [1, v, v * v]),
      y,
    )!
    found += Number(nestedPValue(square, fit) < 0.05)
  }
  expect(held / 400).toBeGreaterThan(0.91)
  expect(held / 400).toBeLessThan(0.99)
  expect(found / 400).toBeLessThan(0.1)
})

test('uncertainties add in quadrature; degrees of freedom after Welch and Satterthwaite', () => {
  // worked by hand: u = √(0.3² + 0.4²) = 0.5; ν = 0.5⁴ / (0.3⁴/9) = 69.44
  const c = combineUncertainties(10, [
    { u: 0.3, dof: 9 },
    { u: 0.4, dof: Infinity },
  ])
  expect(c.u).toBeCloseTo(0.5, 12)
  expect(c.dof).toBeCloseTo(69.444, 3)
  expect(meanOf([1, 2, 3, 4])).toMatchObject({ mean: 2.5, dof: 3 })
  expect(meanOf([1, 2, 3, 4]).u).toBeCloseTo(0.645497, 6) // √(5/3)/2
  expect(resolutionUncertainty(0.01)).toBeCloseTo(0.0028868, 6)
})
