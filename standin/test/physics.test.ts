import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { writePart, type PartOptions } from '@verimend/core/planner'
import { deriveRecipe, layOver, printSettingsOf, type Changes } from '@verimend/core/recipe'
import { said } from '@verimend/core/quantity'
import {
  caliper,
  lookAt,
  polymerOf,
  printProgram,
  soundWorld,
  spanOf,
  type PrintedPart,
  type World,
} from '../src'
import { cooled, cooling, faceCooling, flowing, later, timeTo } from '../src/physics/thermal'
import { weld } from '../src/physics/weld'

const rolls = demoFilaments('2026-01-01')
const machine = DEMO_MACHINES.shed

/** Two posts with a gap to cross, printed with some settings on a world. */
function printed(
  change: (w: World) => World = (w) => w,
  set: Changes = {},
  part: Partial<PartOptions> = {},
  roll: 'terracotta' | 'slate' = 'terracotta',
): PrintedPart {
  const filament = rolls[roll]
  const pins = layOver({}, set, { source: 'hand', reason: said('') })
  const settings = printSettingsOf(deriveRecipe({ machine, filament, pins }))
  const gcode = writePart(machine, settings, {
    shape: 'box',
    width: 12,
    height: 6,
    copies: 2,
    apart: 30,
    ...part,
  })
  const world = change(soundWorld(machine, filament.family))
  return printProgram(readGcode(new TextEncoder().encode(gcode), { filamentDiameter: 1.75 }), machine, world)
}
const total = (p: PrintedPart) => p.strings.reduce((s, t) => s + t.volume, 0)
const meanOf = (p: PrintedPart, field: 'bond' | 'fed' | 'gloss' | 'hot' | 'ripple', from = 0.5): number => {
  let [sum, way] = [0, 0]
  for (let i = 0; i < p.count; i++) {
    if (p.z[i] <= from) continue
    const d = Math.hypot(p.x1[i] - p.x0[i], p.y1[i] - p.y0[i])
    sum += d * p[field][i]
    way += d
  }
  return sum / way
}

test('a sound machine with an honest roll prints an honest part', () => {
  const p = printed()
  expect(p.brokeOff).toBeNull()
  expect(p.slips).toBe(0)
  expect(p.shifts).toEqual([])
  expect(p.lifted).toEqual([])
  expect(p.foot.holds).toBeGreaterThan(0.6)
  expect(p.foot.open).toBeLessThan(0.05)
  expect(p.foot.ridged).toBeLessThan(0.1)
  expect(Math.abs(meanOf(p, 'fed') - 1)).toBeLessThan(0.03)
  expect(meanOf(p, 'bond')).toBeGreaterThan(0.4)
  // grams as pushed: plastic is neither made nor lost but for what drips
  const pushed = (p.pushed * (Math.PI / 4) * 1.75 ** 2) / 1000
  expect(p.grams / (pushed * 1.24)).toBeGreaterThan(0.98)
  expect(p.grams / (pushed * 1.24)).toBeLessThan(1.01)
})

describe('each hidden property moves what it should', () => {
  const sound = printed()
  test('a wet roll strings, a dry one hardly', () => {
    const wet = printed((w) => ({ ...w, roll: { ...w.roll, moisture: 1 } }))
    expect(total(wet)).toBeGreaterThan(1.5 * total(sound) + 0.01)
    expect(Math.abs(meanOf(wet, 'bond') - meanOf(sound, 'bond'))).toBeLessThan(0.05)
  })
  test('without a pull-back it strings, with more slack in the tube it takes a longer one', () => {
    expect(total(printed(undefined, { retract: false }))).toBeGreaterThan(4 * total(sound) + 0.1)
    const slack = (mm: number, length: number) =>
      total(printed((w) => ({ ...w, drive: { ...w.drive, slack: mm } }), { retractLength: length }))
    expect(slack(4, 3)).toBeGreaterThan(slack(0.5, 3))
    expect(slack(4, 7)).toBeLessThan(slack(4, 3))
  })
  test('a drive that pushes too much overfeeds, a thicker roll too; neither changes the bond by much', () => {
    const much = printed((w) => ({ ...w, drive: { ...w.drive, steps: 1.06 } }))
    expect(meanOf(much, 'fed') / meanOf(sound, 'fed')).toBeCloseTo(1.06, 1)
    const thick = printed((w) => ({ ...w, roll: { ...w.roll, diameter: 1.8 } }))
    expect(meanOf(thick, 'fed') / meanOf(sound, 'fed')).toBeCloseTo((1.8 / 1.75) ** 2, 1)
  })
  test('a colder nozzle welds worse, a hotter one strings more', () => {
    const at = (offset: number) => printed((w) => ({ ...w, hotEnd: { ...w.hotEnd, offset } }))
    expect(meanOf(at(-20), 'bond')).toBeLessThan(meanOf(sound, 'bond'))
    expect(total(at(20))).toBeGreaterThan(total(sound))
  })
  test('a half blocked nozzle starves fast lines and makes the drive slip', () => {
    const half = printed((w) => ({ ...w, hotEnd: { ...w.hotEnd, open: 0.35 } }), {
      innerSpeed: 90,
      sparseSpeed: 120,
      solidSpeed: 80,
    })
    expect(half.slips).toBeGreaterThan(5)
    expect(meanOf(half, 'fed')).toBeLessThan(0.95)
  })
  test('a nozzle too far off the bed leaves gaps, too near it ploughs; a tilted bed differs from side to side', () => {
    const gap = (mm: number) => printed((w) => ({ ...w, bed: { ...w.bed, gap: mm } })).foot
    expect(gap(0.1).open).toBeGreaterThan(0.5)
    expect(gap(0.1).holds).toBeLessThan(sound.foot.holds)
    expect(gap(-0.1).ridged).toBeGreaterThan(0.5)
    const tilted = printed((w) => ({ ...w, bed: { ...w.bed, tilt: [1.2, 0] } }), {}, { apart: 120 })
    expect(tilted.foot.uneven).toBeGreaterThan(sound.foot.uneven + 0.05)
  })
  test('ASA on a cool or dirty bed in moving air lifts at its corners; PLA there does not', () => {
    const hood: Partial<PartOptions> = { width: 110, depth: 60, height: 8, copies: 1 }
    const bad = (w: World): World => ({
      ...w,
      bed: { ...w.bed, clean: 0.4, colder: 25 },
      air: { ...w.air, draught: 1 },
    })
    const asa = printed(bad, {}, hood, 'slate')
    expect(Math.max(0, ...asa.lifted.map((c) => c.by))).toBeGreaterThan(0.2)
    expect(printed((w) => w, {}, hood).lifted).toEqual([])
  })
  test('weak motors shift a part, a loose frame swings, a bent screw moves its layers', () => {
    const weak = printed((w) => ({ ...w, frame: { ...w.frame, weakAt: 300 } }), {}, { height: 14, apart: 60 })
    expect(weak.shifts.length).toBeGreaterThan(0)
    const loose = printed((w) => ({ ...w, frame: { ...w.frame, loose: 0.2 } }))
    expect(meanOf(loose, 'ripple')).toBeGreaterThan(1.5 * meanOf(sound, 'ripple'))
    const bent = printed(
      (w) => ({ ...w, frame: { ...w.frame, screw: { amplitude: 0.05, period: 8 } } }),
      {},
      { height: 20 },
    )
    const dx = bent.layers.map((l) => l.dx)
    expect(Math.max(...dx) - Math.min(...dx)).toBeGreaterThan(0.09)
  })
  test('the same world prints the same part; a print that is broken off is what was made so far', () => {
    expect(printed()).toEqual(sound)
    const filament = rolls.terracotta
    const settings = printSettingsOf(deriveRecipe({ machine, filament }))
    const program = readGcode(
      new TextEncoder().encode(writePart(machine, settings, { shape: 'box', width: 20, height: 6 })),
      { filamentDiameter: 1.75 },
    )
    const world = soundWorld(machine, 'pla')
    const whole = printProgram(program, machine, world)
    const half = printProgram(program, machine, world, { until: whole.seconds / 2 })
    expect(half.brokeOff).not.toBeNull()
    expect(half.count).toBeLessThan(whole.count)
    expect([...half.width]).toEqual([...whole.width.subarray(0, half.count)])
  })
})

test('laws: cooling is exponential, a weld needs heat above the glass transition and grows with it', () => {
  const pla = polymerOf('pla')
  const tau = cooling(pla, 0.2, 0.45, 40)
  expect(tau).toBeGreaterThan(1)
  expect(tau).toBeLessThan(20)
  const there = timeTo(200, 60, 25, tau)
  expect(cooled(200, 25, there, tau)).toBeCloseTo(60, 6)
  // lumped capacitance (Incropera & DeWitt 5.1): from 25 °C in 200 °C gas with a time constant of 1 s it is 199 °C after 5.2 s
  expect(timeTo(200 - 25, 1, 0, 1)).toBeCloseTo(5.2, 1)
  // heat is never found again, and a hotter or slower melt flows for longer
  expect(later(200, 25, 0, 1, 10)).toBeCloseTo(200, 6)
  expect(later(200, 25, 8, 1, 10)).toBeGreaterThan(later(200, 25, 12, 1, 10))
  expect(flowing(pla, 220, 25, 2)).toBeGreaterThan(flowing(pla, 200, 25, 2))
  expect(flowing(pla, 40, 25, 2)).toBe(0)
  expect(weld(pla, 80, 20, 25, tau)).toBeLessThan(0.05)
  const face = faceCooling(pla, 0.2, 0.45, 40)
  expect(face).toBeLessThan(tau)
  expect(weld(pla, 220, 60, 25, face)).toBeGreaterThan(weld(pla, 195, 60, 25, face))
  expect(weld(pla, 205, 80, 25, face)).toBeGreaterThan(weld(pla, 205, 30, 25, face))
})

test('a caliper reads what was laid, with spread, shrinking, scale and a hand; a look tells threads, bond and sag by region', () => {
  const cube: Partial<PartOptions> = { width: 20, height: 10, copies: 1 }
  const honest = printed(undefined, {}, cube)
  const world = soundWorld(machine, 'pla')
  const around = { x0: 0, x1: 300, y0: 0, y1: 300, z0: 2, z1: 8 }
  const size = (p: PrintedPart, w: World, axis: 'x' | 'y' | 'z' = 'x') => {
    const exact = spanOf(p, w, around, axis, 'outside')!
    return [0, 1, 2, 3, 4, 5].map((k) => caliper(exact, w, 0.01, k)).reduce((a, b) => a + b) / 6
  }
  const usual = size(honest, world)
  // drawn 20, spread to both sides, shrunk by a quarter of a hundredth and more
  expect(usual).toBeGreaterThan(19.95)
  expect(usual).toBeLessThan(20.2)
  const fat = { ...world, spread: 0.1 }
  expect(size(honest, fat) - usual).toBeCloseTo(0.14, 1)
  const long: World = { ...world, frame: { ...world.frame, scale: [1.01, 1, 1] } }
  const stretched = printed(() => long, {}, cube)
  expect(size(stretched, long) - usual).toBeCloseTo(0.2, 1)
  expect(Math.abs(size(stretched, long, 'y') - size(honest, world, 'y'))).toBeLessThan(0.03)
  expect(spanOf(honest, world, { ...around, x0: 290 }, 'x', 'outside')).toBeNull()
  const posts = printed((w) => ({ ...w, roll: { ...w.roll, moisture: 1 } }))
  const all = lookAt(posts, world, { ...around, z0: 0, z1: 6 })
  expect(all.threads).toBeGreaterThan(lookAt(printed(), world, { ...around, z0: 0, z1: 6 }).threads)
  expect(all.bond).toBeGreaterThan(0.3)
  expect(lookAt(posts, world, { ...around, x0: 290 })).toMatchObject({ threads: 0, bond: null, fed: 0 })
})
