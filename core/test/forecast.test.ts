import fc from 'fast-check'
import { changesWorth, forecastOf, type FamilyForecast } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { FAMILIES_OF_FAULT, SIGNS, SUSPECTS, STRENGTH, type FaultFamily } from '../src/knowledge'
import { readGcode } from '../src/gcode'
import type { Kernel, Solid } from '../src/geometry'
import { planPart, writePlan } from '../src/planner'
import { deriveRecipe, partSettingsOf, type Changes } from '../src/recipe'
import { readPath, type PathReading } from '../src/toolpath'
import { hand } from './lib/diagnose'
import { kernelReady } from './lib/kernel'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const rolls = demoFilaments('2026-01-01')
const today = '2026-01-10'
const pairOf = (roll: keyof typeof rolls, on: 'shed' | 'greenhouse', set: Changes = {}) => {
  const machine = DEMO_MACHINES[on]
  const filament = rolls[roll]
  return { machine, filament, recipe: deriveRecipe({ machine, filament, pins: hand(set) }) }
}
type Pair = ReturnType<typeof pairOf>
function planned(pair: Pair, solid: Solid): PathReading {
  const s = partSettingsOf(pair.recipe)
  const gcode = writePlan(planPart(k, solid, pair.machine, s), pair.machine, s, { title: 'part' })
  return readPath(readGcode(new TextEncoder().encode(gcode), { filamentDiameter: s.diameter }), {
    filamentDiameter: s.diameter,
    density: s.density,
    nozzleDiameter: pair.machine.nozzle.diameter,
    limits: pair.machine.limits,
  })
}
const chanceOf = (all: FamilyForecast[], family: FaultFamily) => all.find((f) => f.family === family)!.chance
const ofPart = (pair: Pair, solid: Solid, longest: number | null = null) =>
  forecastOf(pair, planned(pair, solid), { today, longest })

test('every pair gets a chance for each family, between nought and one, its causes largest first', () => {
  fc.assert(
    fc.property(
      fc.constantFrom(...(Object.keys(rolls) as (keyof typeof rolls)[])),
      fc.constantFrom('shed' as const, 'greenhouse' as const),
      (roll, on) => {
        const all = forecastOf(pairOf(roll, on), null, { today })
        expect(all.map((f) => f.family).sort()).toEqual(FAMILIES_OF_FAULT.map((f) => f.id).sort())
        all.forEach((f, i) => {
          expect(f.chance > 0 && f.chance < 1).toBe(true)
          if (i) expect(f.chance).toBeLessThanOrEqual(all[i - 1].chance)
          f.causes.forEach((c, j) => j && expect(c.chance).toBeLessThanOrEqual(f.causes[j - 1].chance))
        })
      },
    ),
    tries(20),
  )
})

test('a family’s chance is that of all combinations of its causes, counted out', () => {
  const all = forecastOf(pairOf('terracotta', 'shed'), null, { today })
  const family = all.find((f) => f.family === 'seam')!
  const causes = family.causes.slice(0, 10)
  // each there or not, and each of its signs shown or not
  let seen = 0
  for (let mask = 0; mask < 1 << causes.length; mask++) {
    let p = 1
    let hidden = 1
    causes.forEach((c, i) => {
      const links: Partial<Record<string, keyof typeof STRENGTH>> = SUSPECTS[c.id].signs
      const shows =
        1 -
        Object.entries(links)
          .filter(([sign]) => SIGNS[sign as keyof typeof SIGNS].family === 'seam')
          .reduce((h, [, s]) => h * (1 - STRENGTH[s!]), 1)
      const there = c.chance / shows
      p *= mask & (1 << i) ? there : 1 - there
      if (mask & (1 << i)) hidden *= 1 - shows
    })
    seen += p * (1 - hidden)
  }
  const ours = 1 - causes.reduce((none, c) => none * (1 - c.chance), 1)
  expect(ours).toBeCloseTo(seen, 12)
})

test('flattest face down, a brim, a wall against draughts: each lowers what it is for', () => {
  const slab = () => k.Manifold.cube([60, 12, 30])
  const pla = pairOf('fern', 'shed')
  // on its edge, and on its broad side
  const onEdge = ofPart(pla, slab())
  const flat = ofPart(pla, slab().rotate([90, 0, 0]))
  expect(chanceOf(flat, 'first-layer')).toBeLessThanOrEqual(chanceOf(onEdge, 'first-layer') + 1e-9)
  // tall and slender: it tips
  const pole = k.Manifold.cube([6, 6, 50])
  const lying = pole.rotate([90, 0, 0])
  expect(chanceOf(ofPart(pla, lying), 'first-layer')).toBeLessThan(chanceOf(ofPart(pla, pole), 'first-layer'))
  const abs = (Object.keys(rolls) as (keyof typeof rolls)[]).find(
    (r) => rolls[r].family === 'abs' || rolls[r].family === 'asa',
  )
  expect(abs).toBeDefined()
  const tall = k.Manifold.cube([60, 40, 12])
  const open = pairOf(abs!, 'shed', { brimLines: 0, draughtWall: 0 })
  const bare = ofPart(open, tall, 60)
  const brim = ofPart(pairOf(abs!, 'shed', { brimLines: 12, draughtWall: 0 }), tall, 60)
  const wall = ofPart(pairOf(abs!, 'shed', { brimLines: 12, draughtWall: 1 }), tall, 60)
  const lift = (f: FamilyForecast[]) =>
    f
      .flatMap((x) => x.causes)
      .filter((c) => /shrink|draught|lift|warp/.test(c.id))
      .reduce((s, c) => s + c.chance, 0)
  expect(chanceOf(brim, 'first-layer')).toBeLessThan(chanceOf(bare, 'first-layer'))
  expect(lift(wall)).toBeLessThanOrEqual(lift(brim))
  // PLA lifts less than ABS
  expect(chanceOf(ofPart(pairOf('fern', 'shed'), tall, 60), 'first-layer')).toBeLessThan(
    chanceOf(bare, 'first-layer'),
  )
})

test('changes worth making: each lowers the family it is for, for what it costs; the same plan without it is as before', () => {
  const pair = pairOf('fern', 'shed', { firstSpeed: 60, fan: 20 })
  const solid = k.Manifold.cube([30, 8, 20])
  const reading = planned(pair, solid)
  const replan = (recipe: Pair['recipe']) => planned({ ...pair, recipe }, solid)
  const found = changesWorth(pair, reading, { today }, replan, 6)
  expect(found.length).toBeGreaterThan(0)
  const worth = (c: (typeof found)[number]) => (c.before - c.after) / (1 + 0.25 * Math.max(0, c.minutes))
  found.forEach((c, i) => {
    expect(c.after).toBeLessThan(c.before)
    expect(c.to).not.toEqual(c.from)
    if (i) expect(worth(c)).toBeLessThanOrEqual(worth(found[i - 1]) + 1e-12)
  })
  // a first layer at a third of the speed is among them, and costs time
  const slower = found.find((c) => c.key === 'firstSpeed')
  if (slower) expect(slower.minutes).toBeGreaterThan(0)
  // what cannot be laid is passed over
  expect(changesWorth(pair, reading, { today }, () => null, 3)).toEqual([])
})
