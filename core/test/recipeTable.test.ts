import { MACHINE_KINDS, fullStep, keysOfKinds, type Machine } from '../src/machine'
import { gatherFacts } from '../src/diagnosis'
import {
  FAMILIES,
  FINISHES,
  cardFor,
  cardOf,
  type FamilyId,
  type Filament,
  type Finish,
} from '../src/material'
import { demoFilaments } from '../src/demo'
import {
  GRADES,
  deriveGraded,
  deriveRecipe,
  featureLoads,
  lintRecipe,
  valuesOf,
  type Pins,
  type RecipeValues,
} from '../src/recipe'
import { hand } from './lib/diagnose'

const today = '2026-01-10'
const NOZZLES = [0.2, 0.25, 0.3, 0.4, 0.5, 0.6, 0.8]
const FAST = { speed: 500, acceleration: 20_000, travelAcceleration: 20_000 }

/** What a pair is by itself and no recipe can help. */
const OF_THE_PAIR = new Set([
  'machine-too-cool',
  'bed-too-cool',
  'label-needed',
  'filled-nozzle',
  'soft-through-tube',
  'chips-glass',
  'liner-unknown',
  'wet-roll',
  'held-at-limit',
])

const rollOf = (
  family: FamilyId,
  label: Partial<Filament['label']> = {},
  finish: Finish = 'plain',
): Filament => ({
  ...demoFilaments(today).terracotta,
  family,
  finish,
  abrasive: false,
  shore: cardOf(family).shore,
  label: { nozzle: null, bed: null, speed: null, drying: null, ...label },
  measured: [],
  openedOn: today,
  dryings: [{ on: today, temperature: null, hours: null }],
})
/** A label as makers print it: a little beside the card, with a range of its own. */
const labelOf = (family: FamilyId): Partial<Filament['label']> => {
  const { nozzle, bed } = cardOf(family)
  return {
    nozzle: { min: nozzle.min + 5, max: nozzle.max + 10 },
    bed: { min: bed.rest - 10, max: bed.first + 5 },
  }
}
const machineOf = (kind: keyof typeof MACHINE_KINDS, more: Partial<Machine> = {}): Machine => ({
  ...MACHINE_KINDS[kind].body,
  name: kind,
  notes: '',
  ...more,
})
const withNozzle = (m: Machine, diameter: number): Machine => ({ ...m, nozzle: { ...m.nozzle, diameter } })
const faster = (m: Machine, limits: Partial<Machine['limits']>): Machine => ({
  ...m,
  limits: { ...m.limits, ...limits },
})

const MACHINES: Record<string, Machine> = {
  ...Object.fromEntries(keysOfKinds().map((k) => [k, machineOf(k)])),
  'warm chamber': machineOf('enclosed-fast', { chamber: 60 }),
  'very fast': faster(machineOf('enclosed-fast'), FAST),
  'fast and open': faster(machineOf('open-direct'), {
    speed: 500,
    acceleration: 10_000,
    travelAcceleration: 10_000,
  }),
  'uneven bed': machineOf('open-tube', { bed: { ...MACHINE_KINDS['open-tube'].body.bed, residual: 0.2 } }),
}

/** Every recipe of the table: families × machines × nozzles × grades × with and without a label × fillings. */
function* table(): Generator<{ name: string; machine: Machine; filament: Filament; values: RecipeValues }> {
  for (const [kind, plain] of Object.entries(MACHINES))
    for (const diameter of NOZZLES)
      for (const family of FAMILIES) {
        const rolls: [string, Filament][] = [
          ['no label', rollOf(family)],
          ['label', rollOf(family, labelOf(family))],
          ...(family === 'pla' || family === 'petg' || family === 'pa'
            ? FINISHES.map((f): [string, Filament] => [f, rollOf(family, {}, f)])
            : []),
        ]
        for (const [roll, filament] of rolls) {
          const machine = withNozzle(plain, diameter)
          const graded = deriveGraded({ machine, filament })
          for (const grade of GRADES)
            yield {
              name: `${family}, ${roll}, ${grade}, ${kind}, ${diameter}`,
              machine,
              filament,
              values: valuesOf(graded, grade),
            }
        }
      }
}
const n = (values: RecipeValues, key: keyof RecipeValues) => values[key].value as number

describe('recipes over the whole table', () => {
  const broken: Record<string, string[]> = {}
  const breaks = (law: string, name: string) => (broken[law] ??= []).push(name)
  let count = 0
  beforeAll(() => {
    for (const { name, machine, filament, values } of table()) {
      count++
      for (const w of lintRecipe({ machine, filament, values, today }))
        if (!OF_THE_PAIR.has(w.rule) && !(w.rule === 'first-height-far' && w.mend === null))
          breaks(`accuses itself of ${w.rule}`, name)
      const { diameter } = machine.nozzle
      const [layer, first] = [n(values, 'layerHeight'), n(values, 'firstHeight')]
      if (first < layer - 1e-9) breaks('first layer thinner than a layer', name)
      if (first < 0.5 * diameter - 0.5 * fullStep(machine) - 1e-9)
        breaks('first layer under half the nozzle', name)
      if (first > 0.75 * diameter + 1e-9) breaks('first layer over three quarters of the nozzle', name)
      if (layer < Math.max(0.06, 0.25 * diameter) - 1e-9 && !filament.shore)
        breaks('layer thinner than a quarter of the nozzle', name)
      for (const f of featureLoads(values)) if (f.share > 1.001) breaks(`more than melts: ${f.key}`, name)
    }
  })

  it('has no recipe that accuses itself, and first layers and layers that can be printed', () => {
    expect(count).toBeGreaterThan(3000)
    expect(
      Object.fromEntries(
        Object.entries(broken).map(([law, names]) => [law, [names.length, names.slice(0, 4)]]),
      ),
    ).toEqual({})
  })

  const values = (machine: Machine, filament: Filament, pins: Pins = {}) =>
    deriveRecipe({ machine, filament, pins })
  const [enclosed, open] = [machineOf('enclosed-fast'), machineOf('open-direct')]
  const pla = rollOf('pla')

  it('cools and waits for the air there is, not for what a chamber could reach', () => {
    const able = machineOf('enclosed-fast', { chamber: 60 })
    expect(n(values(able, pla), 'minLayerTime')).toBe(n(values(enclosed, pla), 'minLayerTime'))
    // what is set to be warm is warm
    const asa = rollOf('asa')
    expect(n(values(able, asa), 'chamber')).toBe(60)
    expect(n(values(able, asa), 'minLayerTime')).toBeGreaterThan(n(values(enclosed, asa), 'minLayerTime'))
    expect(n(values(able, asa, hand({ chamber: 0 })), 'minLayerTime')).toBe(
      n(values(enclosed, asa), 'minLayerTime'),
    )
  })

  it('is never slower or gentler on a faster machine of the same build', () => {
    const keys = [
      'outerSpeed',
      'innerSpeed',
      'sparseSpeed',
      'travelSpeed',
      'outerAcceleration',
      'innerAcceleration',
      'travelAcceleration',
    ] as const
    const ladder = [
      { speed: 120, acceleration: 700, travelAcceleration: 1000 },
      { speed: 200, acceleration: 2000, travelAcceleration: 2500 },
      { speed: 300, acceleration: 4000, travelAcceleration: 5000 },
      { speed: 400, acceleration: 8000, travelAcceleration: 10_000 },
      FAST,
    ]
    for (const build of [open, enclosed])
      for (const family of FAMILIES)
        for (const pace of ['careful', 'brisk'] as const) {
          const along = ladder.map((l) => values(faster(build, l), rollOf(family), hand({ pace })))
          for (const key of keys)
            for (let i = 1; i < along.length; i++)
              expect([family, key, n(along[i], key) >= n(along[i - 1], key)]).toEqual([family, key, true])
        }
  })

  it('is no slower enclosed than open at the same limits and hot end, for any plastic', () => {
    for (const family of FAMILIES)
      for (const pace of ['careful', 'brisk'] as const) {
        const same = { ...enclosed, frame: 'open' as const }
        for (const key of ['outerSpeed', 'innerSpeed', 'travelSpeed', 'outerAcceleration'] as const)
          expect(n(values(enclosed, rollOf(family), hand({ pace })), key)).toBeGreaterThanOrEqual(
            n(values(same, rollOf(family), hand({ pace })), key),
          )
      }
  })

  it('prints a machine of 500 mm/s and 20,000 mm/s² otherwise than one of 300 and 4,000, and faster still with a high-flow hot end', () => {
    const slow = faster(enclosed, { speed: 300, acceleration: 4000, travelAcceleration: 5000 })
    const fast = faster(enclosed, FAST)
    const brisk = hand({ pace: 'brisk' as const })
    const [a, b, c] = [slow, fast, { ...fast, meltZone: 'high-flow' as const }].map((m) =>
      values(m, pla, brisk),
    )
    expect(n(b, 'outerAcceleration')).toBeGreaterThan(1.5 * n(a, 'outerAcceleration'))
    expect(n(b, 'outerSpeed')).toBeGreaterThan(n(a, 'outerSpeed'))
    expect(n(c, 'innerSpeed')).toBeGreaterThan(1.4 * n(b, 'innerSpeed'))
    for (const v of [a, b, c]) for (const f of featureLoads(v)) expect(f.share).toBeLessThanOrEqual(1.001)
  })

  it('believes a melt rate set by hand only to 2.5 times the usual, a measured one wholly', () => {
    const fast = faster(open, FAST)
    const high = values(fast, pla, hand({ meltCap: 60, pace: 'brisk' }))
    const believed = values(fast, pla, hand({ meltCap: 30, pace: 'brisk' }))
    expect(n(high, 'innerSpeed')).toBe(n(believed, 'innerSpeed'))
    // a cap that was merely set does not silence the question whether the hot end keeps up
    const asked = values(fast, pla, hand({ meltCap: 60, innerSpeed: 500 }))
    expect(
      gatherFacts({ machine: fast, filament: pla, recipe: asked, today }).meltShare!.value,
    ).toBeGreaterThan(110)
  })

  it('starts on a wide label where the speed calls for, on a narrow one where the plastic does', () => {
    const wide = rollOf('pla', { nozzle: { min: 200, max: 260 }, speed: { min: 50, max: 500 } })
    const fast = faster(enclosed, FAST)
    const careful = n(values(open, wide), 'nozzle')
    expect(careful).toBeGreaterThanOrEqual(200)
    expect(careful).toBeLessThanOrEqual(215)
    const brisk = n(values(fast, wide, hand({ pace: 'brisk' })), 'nozzle')
    expect(brisk).toBeGreaterThan(careful + 20)
    expect(brisk).toBeLessThanOrEqual(260)
    // an ordinary label stays what it was
    expect(n(values(open, rollOf('pla', { nozzle: { min: 195, max: 225 } })), 'nozzle')).toBe(213)
  })

  it('lets a filling act, each its own way', () => {
    const plain = values(open, pla)
    const of = (finish: Finish, family: FamilyId = 'pla') => values(open, rollOf(family, {}, finish))
    expect(n(of('wood'), 'nozzle')).toBeLessThan(n(plain, 'nozzle'))
    expect(n(of('wood'), 'nozzle')).toBeGreaterThanOrEqual(190)
    expect(n(of('wood'), 'retractLength')).toBeLessThan(0.5 * n(plain, 'retractLength'))
    for (const finish of ['glow', 'metal', 'fibre', 'filled'] as const) {
      const rise = n(of(finish), 'nozzle') - n(plain, 'nozzle')
      expect([finish, rise >= 5 && rise <= 15]).toEqual([finish, true])
      expect(n(of(finish), 'outerSpeed')).toBeLessThan(n(plain, 'outerSpeed'))
      expect(n(of(finish), 'retractLength')).toBe(n(plain, 'retractLength'))
    }
    const hot = (finish: Finish) => n(values(enclosed, rollOf('pa', {}, finish)), 'nozzle')
    const nylon = hot('fibre') - hot('plain')
    expect(nylon).toBeGreaterThanOrEqual(10)
    expect(nylon).toBeLessThanOrEqual(20)
    expect(cardFor({ family: 'pa', finish: 'fibre' }).shrink).toBeLessThan(0.6 * cardOf('pa').shrink)
    // a look is no filling
    for (const finish of ['matte', 'clear'] as const) expect(n(of(finish), 'nozzle')).toBe(n(plain, 'nozzle'))
  })
})
