import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { markEvidence, measurementEvidence } from '../src/diagnosis'
import { EMPTY_CASE, diagnoseCase, measurementContext, valuesMeasured } from '../src/casework'
import { cube, evaluate, NO_CORRECTION, usualScrews, type Measured } from '../src/measurement'
import { said } from '../src/quantity'
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

test('ripples half a millimetre apart at every speed are the motor’s and not the belt’s', () => {
  const ripples = (spacing: number) =>
    says({
      kind: 'ripples',
      allowed: 0.02,
      readings: [40, 80, 120].map((speed) => ({ speed, spacing, height: null })),
    })
  expect(ripples(2)['belt-tooth-imprint']).toBeGreaterThan(6)
  const fine = ripples(0.5)
  expect(fine['belt-tooth-imprint']).toBeLessThan(-6)
  expect(fine['motor-ripple']).toBeGreaterThan(6)
  // and a belt is no longer tensioned for its teeth
  const d = diagnoseCase(
    { ...EMPTY_CASE, signs: { 'vertical-fine-ribs': 'present' } },
    {
      machine,
      filament,
      recipe,
      today: '2026-01-01',
      measurements: [
        {
          measured: {
            kind: 'ripples',
            allowed: 0.02,
            readings: [40, 80, 120].map((speed) => ({ speed, spacing: 0.5, height: null })),
          },
          inUse: null,
          acted: false,
        },
      ],
    },
  )
  expect(d.balance.suspects[0].id).toBe('motor-ripple')
  const tension = d.proposals.find((p) => p.kind === 'handling' && p.procedure === 'tension-belts')
  expect(tension === undefined || d.proposals.indexOf(tension) > 0).toBe(true)
})

test('bands of another part speak of the machine, weaker, and not as what was seen here', () => {
  const bands: Measured = { kind: 'bands', heights: [3, 11, 19, 27, 35, 43], spacing: null }
  const of = (elsewhere: boolean) =>
    diagnoseCase(
      { ...EMPTY_CASE, signs: { 'bands-regular': 'present' } },
      {
        machine,
        filament,
        recipe,
        today: '2026-01-01',
        measurements: [{ measured: bands, inUse: null, acted: false, elsewhere }],
      },
    )
  const screw = (d: ReturnType<typeof of>) => d.balance.suspects.find((s) => s.id === 'screw-wobble')!
  expect(screw(of(false)).probability).toBeGreaterThan(screw(of(true)).probability)
  expect(screw(of(true)).weights.map((w) => w.reason.code)).toContain('found-elsewhere')
  expect(screw(of(true)).weights.map((w) => w.reason.code)).not.toContain('look-found')
  // what was measured here is put right first
  expect(of(false).plan.next).toMatchObject({ kind: 'mend', suspect: 'screw-wobble' })
})

test('longer layers at the marks do not say that layers follow too fast; shorter ones do', () => {
  const mark = (inside: number) =>
    markEvidence({ id: 'seconds', strength: 0.9, p: 0.01, inside, outside: 10, reason: said('x') })
  expect(mark(16).map((e) => e.suspect)).toEqual(['speed-swings'])
  expect(mark(5).map((e) => e.suspect)).toContain('layer-time-too-short')
  for (const e of mark(5)) expect(e.decibans).toBeGreaterThan(3)
})
