import fc from 'fast-check'
import { CARDS, FAMILIES, type FamilyId, type Filament } from '../src/material'
import { meltCap, type Machine } from '../src/machine'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  SETTING_KEYS,
  deriveRecipe,
  differences,
  faultOf,
  featureLoads,
  layOver,
  pinsOf,
  settingOf,
} from '../src/recipe'
import { said } from '../src/quantity'
import { say } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'

const roll = (family: FamilyId, label: Filament['label']['nozzle'] = null): Filament => ({
  ...demoFilaments('2026-01-01').fern,
  family,
  measured: [],
  label: { nozzle: label, bed: null, speed: null, drying: null },
})
const machines = fc.record({
  nozzle: fc.constantFrom(0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8, 1),
  tube: fc.constantFrom(0, 250, 410, 900),
  open: fc.boolean(),
  lead: fc.constantFrom(2, 4, 8),
  fan: fc.boolean(),
  speed: fc.integer({ min: 40, max: 500 }),
  heat: fc.integer({ min: 200, max: 320 }),
  bed: fc.integer({ min: 0, max: 120 }),
  residual: fc.option(fc.double({ min: 0, max: 0.4, noNaN: true })),
})
const machineOf = (v: typeof machines extends fc.Arbitrary<infer T> ? T : never): Machine => ({
  ...DEMO_MACHINES.shed,
  nozzle: { diameter: v.nozzle, material: 'brass', changedOn: null },
  drive: v.tube ? { kind: 'tube', tubeLength: v.tube } : { kind: 'direct', tubeLength: 0 },
  frame: v.open ? 'open' : 'enclosed',
  fan: { present: v.fan, strength: 1 },
  z: { lead: v.lead, stepsPerTurn: 200 },
  bed: { ...DEMO_MACHINES.shed.bed, residual: v.residual },
  limits: { ...DEMO_MACHINES.shed.limits, speed: v.speed, nozzle: v.heat, bed: v.bed },
})

test('any family on any machine gets a whole recipe within registry, machine and melt cap', () => {
  fc.assert(
    fc.property(
      machines,
      fc.constantFrom(...FAMILIES),
      fc.option(fc.tuple(fc.integer({ min: 190, max: 260 }), fc.integer({ min: 5, max: 40 }))),
      (v, family, label) => {
        const machine = machineOf(v)
        const recipe = deriveRecipe({
          machine,
          filament: roll(family, label && { min: label[0], max: label[0] + label[1] }),
        })
        for (const key of SETTING_KEYS) {
          const r = recipe[key]
          const limited = r.clippedFrom !== undefined
          if (!limited) expect([key, faultOf(key, r.value)]).toEqual([key, null])
          expect([key, say(r.reason).length > 5]).toEqual([key, true])
          expect(r.stack.length).toBeGreaterThan(0)
          const s = settingOf(key)
          if (s.kind === 'number' && s.unit === 'mm/s' && key !== 'retractSpeed')
            expect(Number(r.value)).toBeLessThanOrEqual(v.speed)
        }
        expect(Number(recipe.nozzle.value)).toBeLessThanOrEqual(v.heat)
        expect(Number(recipe.bedFirst.value)).toBeLessThanOrEqual(v.bed)
        expect(Number(recipe.layerHeight.value)).toBeLessThanOrEqual(0.75 * v.nozzle + 1e-9)
        expect(Number(recipe.firstHeight.value)).toBeLessThanOrEqual(0.75 * v.nozzle + 0.0051)
        const cap = meltCap(CARDS[family].meltRate, machine)
        for (const m of featureLoads(recipe))
          if (m.key !== 'firstSpeed' && Number(recipe[m.key].value) > 3)
            expect([m.key, m.rate <= cap * 1.001]).toEqual([m.key, true])
      },
    ),
    tries(60),
  )
})

test('common practice (no source): starts for the demo pair', () => {
  const r = deriveRecipe({ machine: DEMO_MACHINES.shed, filament: roll('pla') })
  expect(r.retractLength.value).toBe(5.1) // 10 mm per metre of 410 mm tube + 1
  expect(r.firstSpeed.value).toBe(20) // half of 40, within 20–30 mm/s
  expect(r.firstWidth.value).toBe(0.48) // 120 % of the nozzle
  expect(r.layerHeight.value).toBe(0.2) // a multiple of 0.04 on an 8 mm screw
  expect(deriveRecipe({ machine: DEMO_MACHINES.shed, filament: roll('tpu-95a') }).retract.value).toBe(false)
  expect(
    deriveRecipe({ machine: DEMO_MACHINES.greenhouse, filament: roll('tpu-85a') }).retractLength.value,
  ).toBe(0.4)
})

test('label beats card, hand beats both, the machine clips, and the stack keeps what each said', () => {
  const machine = DEMO_MACHINES.shed
  const filament = roll('pla', { min: 210, max: 230 })
  const derived = deriveRecipe({ machine, filament })
  expect(derived.nozzle).toMatchObject({ value: 222, source: 'label' })
  expect(derived.nozzle.stack.map((o) => o.source)).toEqual(['card', 'label'])
  const set = deriveRecipe({
    machine,
    filament,
    pins: hand({ nozzle: 300 }),
  })
  expect(set.nozzle).toMatchObject({ value: 260, source: 'hand', clippedFrom: 300 })
  expect(set.nozzleFirst.value).toBe(260)
})

test('pins survive deriving again, and only they differ', () => {
  const machine = DEMO_MACHINES.greenhouse
  const filament = roll('petg')
  const a = deriveRecipe({ machine, filament })
  const b = deriveRecipe({
    machine,
    filament,
    pins: layOver({}, { flow: 97 }, { source: 'hand', reason: said('Box.'), measured: { flow: 0.8 } }),
  })
  expect(differences(a, b)).toEqual([{ key: 'flow', from: 100, to: 97, was: 'card' }])
  expect(deriveRecipe({ machine, filament, pins: pinsOf(b) })).toEqual(b)
})
