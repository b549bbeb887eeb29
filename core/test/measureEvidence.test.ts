import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { measurementEvidence } from '../src/diagnosis'
import { EMPTY_CASE, diagnoseCase, measurementContext, valuesMeasured } from '../src/casework'
import { cube, evaluate, NO_CORRECTION, usualScrews, type Measured } from '../src/measurement'
import { deriveRecipe } from '../src/recipe'
import { hand } from './lib/diagnose'

const machine = DEMO_MACHINES.shed
const filament = demoFilaments('2026-01-01').fern
const recipe = deriveRecipe({ machine, filament })
const context = measurementContext({ machine, filament, recipe }, null)
const sized = (x: number, y: number, z: number, long: number): Measured => ({
  kind: 'sizes',
  instrument: { kind: 'caliper', resolution: 0.01 },
  wanted: [],
  readings: [
    ...cube(20).map((r) => ({ ...r, measures: [r.axis === 'x' ? x : r.axis === 'y' ? y : z] })),
    ...(['x', 'y'] as const).flatMap((axis) =>
      [40, 80].map((nominal) => ({
        ...cube(nominal)[axis === 'x' ? 0 : 1],
        id: `${axis}${nominal}`,
        measures: [nominal + (axis === 'x' ? x : y) - 20 + (long * (nominal - 20)) / 60],
      })),
    ),
  ],
})
const says = (measured: Measured, more = {}) =>
  Object.fromEntries(
    measurementEvidence({ measured, inUse: NO_CORRECTION, acted: false }, { ...context, ...more }).map(
      (e) => [e.suspect, e.decibans!],
    ),
  )

test('sizes raise what they show and clear what they do not, by their intervals', () => {
  const wide = says(sized(20.15, 20.16, 20.02, 0))
  expect(wide['contour-not-compensated']).toBeGreaterThan(6)
  expect(wide['shrink-not-compensated']).toBeLessThan(0)
  const right = says(sized(20.01, 20.0, 20.0, 0))
  expect(right['contour-not-compensated']).toBeLessThan(-2)
  // a coarse instrument says less
  const ruler: Measured = {
    ...(sized(20.15, 20.16, 20.02, 0) as Extract<Measured, { kind: 'sizes' }>),
    instrument: { kind: 'ruler', resolution: 1 },
  }
  expect(Math.abs(says(ruler)['contour-not-compensated'])).toBeLessThan(wide['contour-not-compensated'])
})

test('once the correction is in the recipe, the same sizes accuse no more', () => {
  const measured = sized(20.15, 20.16, 20.02, 0)
  const { adopt } = valuesMeasured(evaluate(measured, { ...context, inUse: NO_CORRECTION }), recipe)
  const offset = adopt.find((a) => a.key === 'contourOffset')!.value
  const corrected = deriveRecipe({ machine, filament, pins: hand({ contourOffset: offset }) })
  const after = says(measured, {
    inUse: measurementContext({ machine, filament, recipe: corrected }, null).inUse,
  })
  expect(after['contour-not-compensated']).toBeLessThan(-2)
})

test('a tilted bed leads its case; turned screws say nothing any more', () => {
  const points = [20, 110, 200].flatMap((x) => [20, 110, 200].map((y) => ({ x, y, z: 0.002 * x, u: 0.008 })))
  const bed: Measured = { kind: 'bed', from: 'grid', points }
  const shed = {
    ...machine,
    bed: {
      ...machine.bed,
      screws: { screws: usualScrews(machine, 4), pitch: 0.7, clockwise: 'up' as const },
    },
  }
  const lead = (acted: boolean) =>
    diagnoseCase(
      { ...EMPTY_CASE, signs: { 'first-layer-uneven': 'present' } },
      {
        machine: shed,
        filament,
        recipe,
        today: '2026-01-01',
        measurements: [{ measured: bed, inUse: null, acted }],
      },
    ).balance.suspects.find((s) => s.id === 'bed-tilted')!.probability
  expect(lead(false)).toBeGreaterThan(0.85)
  expect(lead(true)).toBeLessThan(lead(false) - 0.1)
})

test('a feed that is off, a wet roll, a swinging bed and a screw’s bands each speak of their suspect', () => {
  expect(
    says({ kind: 'feed', asked: 100, fed: [95, 95.2, 94.9], steps: 93 })['feed-steps-off'],
  ).toBeGreaterThan(6)
  expect(
    says({ kind: 'drying', before: 1200, after: 1190, spool: 200, resolution: 1 })['filament-wet'],
  ).toBeGreaterThan(6)
  const swing = Array.from({ length: 40 }, (_, i) => 60 + 4 * Math.sin(i / 2))
  expect(
    says({ kind: 'heater', of: 'bed', temperatures: swing, interval: 2 })['bed-heat-cycling'],
  ).toBeGreaterThan(3)
  const bands = says({ kind: 'bands', heights: [3, 11, 19, 27, 35, 43], spacing: null })
  expect(bands['screw-wobble']).toBeGreaterThan(6)
})
