import fc from 'fast-check'
import { DEMO_MACHINES } from '../src/demo'
import {
  circlePoints,
  grow,
  perimeterOf,
  rectangleAround,
  rectanglePoints,
  sidesWithin,
  startedAt,
  type Point,
} from '../src/geometry'
import {
  FULL_STEP_TOLERANCE,
  clip,
  fullStep,
  nearestFullStep,
  offFullStep,
  squareCornerDeviation,
  squareCornerSpeed,
  thickestLayer,
  tubeRetraction,
} from '../src/machine'
import {
  median,
  medianHigh,
  normalStream,
  randomStream,
  sortedQuantile,
  weightedQuantile,
} from '../src/statistics'
import { tries } from './lib/property'

const size = fc.double({ min: 0.1, max: 300, noNaN: true })
const place = fc.double({ min: -200, max: 200, noNaN: true })

/** Area a loop encloses, mm²; positive when it runs counter-clockwise (shoelace formula). */
const signedArea = (points: readonly Point[]) =>
  points.reduce((sum, [x, y], i) => {
    const [nx, ny] = points[(i + 1) % points.length]
    return sum + (x * ny - nx * y) / 2
  }, 0)

describe('loops', () => {
  test('a rectangle around a middle has its size, its area and its way round, wherever it lies', () => {
    fc.assert(
      fc.property(place, place, size, size, (x, y, width, depth) => {
        const points = rectanglePoints(rectangleAround(x, y, width, depth))
        expect(signedArea(points)).toBeCloseTo(width * depth, 5)
        expect(perimeterOf(points)).toBeCloseTo(2 * (width + depth), 6)
        const middle = points.reduce(([sx, sy], [px, py]) => [sx + px / 4, sy + py / 4], [0, 0])
        expect(middle[0]).toBeCloseTo(x, 6)
        expect(middle[1]).toBeCloseTo(y, 6)
      }),
      tries(100),
    )
  })

  test('grown and shrunk by the same it is as it was', () => {
    fc.assert(
      fc.property(
        place,
        place,
        size,
        size,
        fc.double({ min: -40, max: 40, noNaN: true }),
        (x, y, w, d, by) => {
          const rect = rectangleAround(x, y, w, d)
          const back = grow(grow(rect, by), -by)
          for (const edge of ['x0', 'x1', 'y0', 'y1'] as const) expect(back[edge]).toBeCloseTo(rect[edge], 6)
          expect(grow(rect, by).x1 - grow(rect, by).x0).toBeCloseTo(w + 2 * by, 6)
        },
      ),
      tries(100),
    )
  })

  test('a circle as a polygon lies on the circle, counter-clockwise, and its length comes to π d from below', () => {
    fc.assert(
      fc.property(
        place,
        place,
        size,
        fc.integer({ min: 3, max: 200 }),
        fc.nat(50),
        (x, y, d, sides, from) => {
          const points = circlePoints(x, y, d, sides, from)
          expect(points).toHaveLength(sides)
          for (const [px, py] of points) expect(Math.hypot(px - x, py - y)).toBeCloseTo(d / 2, 6)
          expect(signedArea(points)).toBeGreaterThan(0)
          // an inscribed polygon of n sides: n·d·sin(π/n) long, n/2·r²·sin(2π/n) large (plane geometry)
          expect(perimeterOf(points)).toBeCloseTo(sides * d * Math.sin(Math.PI / sides), 5)
          expect(signedArea(points)).toBeCloseTo((sides / 8) * d * d * Math.sin((2 * Math.PI) / sides), 4)
          expect(perimeterOf(points)).toBeLessThan(Math.PI * d)
        },
      ),
      tries(100),
    )
  })

  test('a circle has as many sides as its chords need to lie so far inside at most, and no more; 24 at least', () => {
    fc.assert(
      fc.property(size, fc.double({ min: 0.001, max: 0.2, noNaN: true }), (d, tolerance) => {
        // the sagitta of a chord (plane geometry)
        const inside = (sides: number) => (d / 2) * (1 - Math.cos(Math.PI / sides))
        const sides = sidesWithin(d, tolerance)
        expect(inside(sides)).toBeLessThanOrEqual(tolerance + 1e-9)
        if (sides > 24) expect(inside(sides - 1)).toBeGreaterThan(tolerance - 1e-9)
      }),
      tries(200),
    )
    expect(sidesWithin(8, 0.01)).toBe(45)
  })

  test('begun elsewhere a loop is the same loop, and all the way round it begins where it began', () => {
    fc.assert(
      fc.property(
        fc.array(fc.nat(), { minLength: 1, maxLength: 20 }),
        fc.integer({ min: -99, max: 99 }),
        (points, at) => {
          const moved = startedAt(points, at)
          expect([...moved].sort()).toEqual([...points].sort())
          expect(moved[0]).toBe(points[((at % points.length) + points.length) % points.length])
          expect(startedAt(moved, -at)).toEqual(points)
          expect(startedAt(points, points.length)).toEqual(points)
        },
      ),
      tries(200),
    )
  })
})

describe('the machine', () => {
  const { shed } = DEMO_MACHINES

  test('a layer on whole steps is on them, and the nearest one is no further than half a step', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 2, max: 60 }),
        fc.double({ min: 0.06, max: 0.5, noNaN: true }),
        (n, height) => {
          const step = fullStep(shed)
          expect(offFullStep(n * step, shed)).toBeLessThanOrEqual(FULL_STEP_TOLERANCE)
          const near = nearestFullStep(height, shed)
          expect(Math.abs(near - height)).toBeLessThanOrEqual(step / 2 + 1e-9)
          expect(offFullStep(near, shed)).toBeLessThanOrEqual(FULL_STEP_TOLERANCE)
        },
      ),
      tries(200),
    )
  })

  test('speed and deviation of a square corner undo each other', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 1, max: 40, noNaN: true }),
        fc.double({ min: 200, max: 20_000, noNaN: true }),
        (speed, acceleration) => {
          const deviation = squareCornerDeviation(speed, acceleration)
          expect(squareCornerSpeed(deviation, acceleration)).toBeCloseTo(speed, 6)
          expect(squareCornerSpeed(deviation * 2, acceleration)).toBeGreaterThan(speed)
        },
      ),
      tries(100),
    )
  })

  test('what is clipped lies within, what lies within is not clipped', () => {
    fc.assert(
      fc.property(place, place, size, (value, min, span) => {
        const range = { min, max: min + span }
        const { value: held, clipped } = clip(value, range)
        expect(held).toBeGreaterThanOrEqual(range.min)
        expect(held).toBeLessThanOrEqual(range.max)
        expect(clipped).toBe(held !== value)
        expect(clip(held, range)).toEqual({ value: held, clipped: false })
      }),
      tries(200),
    )
  })

  test('a longer tube never wants less pull-back; three quarters of the nozzle are the thickest layer (common practice, no source)', () => {
    fc.assert(
      fc.property(size, size, (a, b) => {
        const [short, long] = [Math.min(a, b) * 3, Math.max(a, b) * 3]
        expect(tubeRetraction(long)).toBeGreaterThanOrEqual(tubeRetraction(short))
      }),
      tries(100),
    )
    expect(thickestLayer({ nozzle: { ...shed.nozzle, diameter: 0.4 } })).toBeCloseTo(0.3, 9)
  })
})

describe('the middle of many', () => {
  const numbers = fc.array(fc.integer({ min: -1000, max: 1000 }), { minLength: 1, maxLength: 40 })

  test('half lie on each side of the median, whatever the order; of an even count the upper middle is a member', () => {
    fc.assert(
      fc.property(numbers, (values) => {
        const m = median(values)
        const below = values.filter((v) => v < m).length
        const above = values.filter((v) => v > m).length
        expect(Math.max(below, above)).toBeLessThanOrEqual(values.length / 2)
        expect(median([...values].reverse())).toBe(m)
        expect(values).toContain(medianHigh(values))
        expect(medianHigh(values)).toBeGreaterThanOrEqual(m)
      }),
      tries(200),
    )
  })

  test('quantiles grow with their share, from the least to the greatest; equal weights are no weights', () => {
    fc.assert(
      fc.property(
        numbers,
        fc.double({ min: 0, max: 1, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (values, p, q) => {
          const sorted = [...values].sort((a, b) => a - b)
          expect(sortedQuantile(sorted, Math.max(p, q))).toBeGreaterThanOrEqual(
            sortedQuantile(sorted, Math.min(p, q)),
          )
          expect(sortedQuantile(sorted, 0)).toBe(sorted[0])
          expect(sortedQuantile(sorted, 1)).toBe(sorted.at(-1))
          const ones = values.map(() => 1)
          expect(weightedQuantile(values, ones, p)).toBe(
            weightedQuantile(
              values,
              ones.map(() => 7),
              p,
            ),
          )
          expect(values).toContain(weightedQuantile(values, ones, p))
        },
      ),
      tries(200),
    )
  })

  test('a stream of a seed is always the same, another seed another; its normals have mean 0 and spread 1', () => {
    const draw = (seed: number, n: number) => {
      const next = normalStream(randomStream(seed))
      return Array.from({ length: n }, () => next())
    }
    expect(draw(7, 5)).toEqual(draw(7, 5))
    expect(draw(7, 5)).not.toEqual(draw(8, 5))
    const many = draw(1, 20_000)
    const mean = many.reduce((s, v) => s + v, 0) / many.length
    const spread = Math.sqrt(many.reduce((s, v) => s + (v - mean) ** 2, 0) / many.length)
    // four standard errors
    expect(Math.abs(mean)).toBeLessThan(4 / Math.sqrt(many.length))
    expect(Math.abs(spread - 1)).toBeLessThan(4 / Math.sqrt(2 * many.length))
  })
})
