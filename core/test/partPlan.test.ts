import { WRITTEN_ONLY, planOnPair, rollReach, type PartOnPair } from '../src/casework'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import type { Kernel } from '../src/geometry'
import { USUAL_LAYOUT, layPart, type PartSettings } from '../src/planner'
import { SETTINGS, deriveRecipe, partSettingsOf, recipeWith, type Changes } from '../src/recipe'
import { kernelReady } from './lib/kernel'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

const machine = DEMO_MACHINES.greenhouse
const filament = { ...demoFilaments('2026-01-01').fern, weightLeft: 500 }
const pair = { machine, filament, recipe: deriveRecipe({ machine, filament }) }
const request = { pair, layout: USUAL_LAYOUT, title: 'post', today: '2026-01-10' }
/** A table: it stands, hangs, has a bridge and small loops. */
const table = () =>
  k.Manifold.cube([6, 14, 6])
    .add(k.Manifold.cube([6, 14, 6]).translate([20, 0, 0]))
    .add(k.Manifold.cube([26, 14, 2]).translate([0, 0, 6]))

test('settings that are only written move no line; what was planned before serves again and gives the same file', () => {
  const solid = table()
  const s: PartSettings = {
    ...partSettingsOf(pair.recipe),
    raft: true,
    supports: 'bed',
    brimLines: 2,
    retract: true,
  }
  const lines = (set: PartSettings) => JSON.stringify(layPart(k, solid, machine, set, USUAL_LAYOUT).plan)
  const was = lines(s)
  const moved = WRITTEN_ONLY.filter((key) => {
    const setting = SETTINGS[key]
    const now = s[key]
    const other =
      typeof now === 'boolean'
        ? !now
        : setting.kind === 'number' && now === setting.max
          ? setting.min
          : Number(now) + ('step' in setting ? setting.step : 1)
    return lines({ ...s, [key]: other }) !== was
  })
  expect(moved).toEqual([])
  const first = planOnPair(k, solid, request)
  const set: Changes = { outerSpeed: 31, fan: 40, nozzle: 205, wipe: 0, earlyStop: 0.05 }
  const other = { ...pair, recipe: recipeWith(pair, set) }
  const again = planOnPair(k, solid, { ...request, pair: other, known: [null, first] })
  expect(again.laid.plan).toBe(first.laid.plan)
  const fresh = planOnPair(k, solid, { ...request, pair: other })
  expect(again.gcode).toBe(fresh.gcode)
  expect(again.view).toEqual(fresh.view)
  const walls = { ...pair, recipe: recipeWith(pair, { wallCount: 4 }) }
  expect(planOnPair(k, solid, { ...request, pair: walls, known: [first] }).laid.plan).not.toBe(
    first.laid.plan,
  )
})

test('a change is derived through: what hangs on it follows', () => {
  const wide = recipeWith(pair, { outerWidth: 0.6 })
  expect(wide.outerWidth.value).toBe(0.6)
  expect(wide.innerWidth.value).toBe(0.6)
  expect(recipeWith(pair, {})).toBe(pair.recipe)
})

describe('a roll', () => {
  let planned: PartOnPair
  beforeAll(() => {
    planned = planOnPair(k, k.Manifold.cube([20, 20, 30]), request)
  })
  test('suffices, or runs out where its grams end, and is joined in a long layer shortly before', () => {
    const { reading } = planned.view
    expect(planned.view.roll.runsOut).toBeNull()
    expect(rollReach(reading, null).runsOut).toBeNull()
    const { mass } = reading.filament
    for (const share of [0.3, 0.6, 0.9]) {
      // three grams stay in the path
      const { runsOut } = rollReach(reading, mass * share + 3)
      expect(runsOut).not.toBeNull()
      const fed = reading.layers.fed.slice(0, runsOut!.layer + 1).reduce((a, b) => a + b, 0)
      expect(fed / reading.filament.length).toBeGreaterThanOrEqual(share - 0.01)
      expect(Math.abs(fed / reading.filament.length - share)).toBeLessThan(0.03)
      expect(runsOut!.joinAt.layer).toBeLessThan(runsOut!.layer + 1)
      expect(runsOut!.layer - runsOut!.joinAt.layer).toBeLessThan(0.1 * reading.layerCount + 2)
    }
    expect(rollReach(reading, 0).runsOut!.layer).toBe(0)
  })
})
