import fc from 'fast-check'
import {
  beadArea,
  beadTemperature,
  beadWidth,
  coolingTime,
  feedPerMillimetre,
  filamentArea,
  filamentLength,
  filamentMass,
  speedAtMeltCap,
  meltRate,
} from '../src/extrusion'
import { cornerSpeed } from '../src/machine'
import { moveTime } from '../src/motion'
import { figure, duration, quantity } from '../src/quantity'

describe('extrusion, plain geometry', () => {
  test('bead and filament sections', () => {
    // worked by hand: (0.45 − 0.20)·0.20 + π·0.20²/4 and π·1.75²/4
    expect(beadArea(0.45, 0.2)).toBeCloseTo(0.081416, 6)
    expect(filamentArea(1.75)).toBeCloseTo(2.405282, 6)
    expect(feedPerMillimetre(0.45, 0.2, 1.75)).toBeCloseTo(0.081416 / 2.405282, 6)
  })
  test('a kilogram of 1.24 g/cm³ at 1.75 mm is 335.3 m', () => {
    expect(filamentLength(1000, 1.75, 1.24) / 1000).toBeCloseTo(335.3, 1)
    expect(filamentMass(filamentLength(1000, 1.75, 1.24), 1.75, 1.24)).toBeCloseTo(1000, 9)
  })
  test('width undoes area, speed cap undoes melt rate', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.1, max: 2, noNaN: true }),
        fc.double({ min: 0.04, max: 0.6, noNaN: true }),
        (w, h) => {
          const area = beadArea(w, h)
          if (w > h) expect(beadWidth(area, h)).toBeCloseTo(w, 9)
          expect(meltRate(w, h, speedAtMeltCap(w, h, 9))).toBeCloseTo(9, 9)
        },
      ),
    )
  })
  test('impossible sizes are refused with the value', () => {
    expect(() => beadArea(0, 0.2)).toThrow(/0 mm/)
    expect(() => beadArea(0.4, NaN)).toThrow(RangeError)
  })
})

describe('cooling', () => {
  const bead = {
    nozzle: 208,
    target: 52,
    air: 30,
    width: 0.45,
    height: 0.2,
    density: 1.24,
    heatCapacity: 1800,
    coefficient: 100,
  }
  test('time and temperature agree with the closed form T∞ + (T0 − T∞)·e^(−t/τ)', () => {
    expect(beadTemperature(bead, coolingTime(bead))).toBeCloseTo(52, 9)
    expect(beadTemperature(bead, 0)).toBe(208)
  })
  test('about five seconds for PLA under a fan (common practice, no source)', () => {
    expect(coolingTime(bead)).toBeGreaterThan(4)
    expect(coolingTime(bead)).toBeLessThan(8)
  })
  test('never cools below the air', () => {
    expect(coolingTime({ ...bead, air: 60 })).toBe(Infinity)
    expect(coolingTime({ ...bead, nozzle: 40 })).toBe(0)
  })
})

describe('motion', () => {
  test('straight move from rest to rest: d/v + v/a, or 2·√(d/a) when short (kinematics)', () => {
    expect(moveTime(100, 50, 1000)).toBeCloseTo(100 / 50 + 50 / 1000, 12)
    expect(moveTime(1, 50, 1000)).toBeCloseTo(2 * Math.sqrt(1 / 1000), 12)
  })
  test('agrees with brute-force integration of the profile', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 0.5, max: 80, noNaN: true }),
        fc.double({ min: 5, max: 200, noNaN: true }),
        fc.double({ min: 300, max: 5000, noNaN: true }),
        fc.double({ min: 0, max: 1, noNaN: true }),
        (d, v, a, share) => {
          const entry = share * Math.min(v, Math.sqrt(2 * a * d))
          // steps of position: at each place the speed is the least of what the ramps allow
          const steps = 20_000
          let t = 0
          for (let i = 0; i < steps; i++) {
            const s = ((i + 0.5) / steps) * d
            t += d / steps / Math.min(v, Math.sqrt(entry * entry + 2 * a * s), Math.sqrt(2 * a * (d - s)))
          }
          expect(moveTime(d, v, a, entry, 0) / t).toBeCloseTo(1, 1.9)
        },
      ),
      { numRuns: 30 },
    )
  })
  test('corner rules', () => {
    const square = [1, 0, 0, 0, 1, 0] as const
    expect(cornerSpeed({ kind: 'instant-change', limit: 8 }, 1000, ...square)).toBe(8)
    // junction deviation at 90°: v² = a·δ·sin45/(1 − sin45)
    const s = Math.SQRT1_2
    expect(cornerSpeed({ kind: 'junction-deviation', deviation: 0.02 }, 1000, ...square)).toBeCloseTo(
      Math.sqrt((1000 * 0.02 * s) / (1 - s)),
      9,
    )
    expect(cornerSpeed({ kind: 'junction-deviation', deviation: 0.02 }, 1000, 1, 0, 0, 1, 0, 0)).toBe(
      Infinity,
    )
    expect(cornerSpeed({ kind: 'junction-deviation', deviation: 0.02 }, 1000, 1, 0, 0, -1, 0, 0)).toBe(0)
  })
})

test('quantities are written with a true minus sign and a thin space', () => {
  expect(quantity(-0.5, 'mm')).toBe('\u22120.5\u2009mm')
  expect(figure(-0)).toBe('0')
  expect(figure(NaN)).toBe('–')
  expect(duration(3905)).toBe('1\u2009h 05\u2009min')
})
