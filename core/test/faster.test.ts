import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { chosenFor, lossOf, planOnPair, waysFaster, type FasterChange } from '../src/casework'
import type { Kernel } from '../src/geometry'
import type { Machine } from '../src/machine'
import { USUAL_LAYOUT } from '../src/planner'
import {
  believedMeltCap,
  deriveRecipe,
  featureLoads,
  keysOf,
  lintRecipe,
  machineLimit,
  recipeWith,
  type Changes,
} from '../src/recipe'
import { hand } from './lib/diagnose'
import { kernelReady } from './lib/kernel'

const today = '2026-01-10'
const filament = demoFilaments(today).terracotta
let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

/** Ways to print a box faster, and the time it takes, by really planning each. */
function ways(machine: Machine, changes: Changes = {}) {
  const box = k.Manifold.cube([30, 24, 10])
  const pair = { machine, filament, recipe: deriveRecipe({ machine, filament, pins: hand(changes) }) }
  const plan = (recipe = pair.recipe) => {
    const { view } = planOnPair(k, box, {
      pair: { ...pair, recipe },
      layout: USUAL_LAYOUT,
      title: 'box',
      today,
    })
    return { reading: view.reading, stiffness: view.stiffness.relative }
  }
  const now = plan()
  return {
    pair,
    plan,
    minutes: now.reading.seconds / 60,
    list: waysFaster(pair, now, { today, longest: 30 }, plan),
  }
}

test.each(['shed', 'greenhouse'] as const)(
  'ways to print faster on the %s save what they say, within hot end and machine, and say what they lose',
  (on) => {
    const { pair, plan, minutes, list } = ways(DEMO_MACHINES[on])
    expect(list.length).toBeGreaterThan(3)
    for (const w of list) {
      const recipe = recipeWith(pair, w.changes)
      expect(w.minutes).toBeGreaterThan(0)
      const cap = believedMeltCap(pair.machine, filament, recipe.meltCap)
      for (const f of featureLoads(recipe, cap))
        expect([w.changes, f.key, f.share <= 1.001]).toEqual([w.changes, f.key, true])
      for (const key of keysOf(w.changes)) {
        const limit = machineLimit(key, pair.machine)
        if (limit !== undefined) expect(recipe[key].value as number).toBeLessThanOrEqual(limit)
      }
      // nothing that bites: what a person is warned of is not proposed
      const faults = lintRecipe({ ...pair, values: recipe, today }).filter((f) => f.severity === 'fault')
      const before = lintRecipe({ ...pair, values: pair.recipe, today }).filter((f) => f.severity === 'fault')
      expect(faults.map((f) => f.rule)).toEqual(before.map((f) => f.rule))
    }
    // fewer lines inside are a weaker part, and it is said
    const thinner = list.find((w) => 'sparseDensity' in w.changes || 'wallCount' in w.changes)
    expect(thinner?.weaker).toBeGreaterThan(0.01)
    // what is chosen for a share changes nothing twice and, planned together, comes near to it
    const chosen = chosenFor(list, minutes, 0.3)
    const keys = chosen.flatMap((w) => keysOf(w.changes))
    expect(new Set(keys).size).toBe(keys.length)
    const together = plan(recipeWith(pair, ...chosen.map((w) => w.changes)))
    expect(1 - together.reading.seconds / 60 / minutes).toBeGreaterThan(0.2)
  },
)

test('a recipe that is as coarse and as fast as it may be has little left to save', () => {
  const { shed } = DEMO_MACHINES
  const slow: Machine = {
    ...shed,
    limits: { ...shed.limits, speed: 40, acceleration: 500, travelAcceleration: 500 },
  }
  const { list } = ways(slow, {
    layerHeight: 0.28,
    fillWidth: 0.6,
    sparseDensity: 0,
    wallCount: 2,
    topLayers: 3,
    bottomLayers: 3,
    draughtWall: 0,
    brimLines: 0,
    skirtLoops: 1,
    pace: 'brisk',
  })
  expect(list.filter((w) => !('minLayerTime' in w.changes))).toEqual([])
})

test('a likelier fault and a weaker part weigh against what is saved', () => {
  const way = (minutes: number, rise: number, weaker: number): FasterChange => ({
    changes: {},
    minutes,
    grams: 0,
    weaker,
    risk: rise ? { family: 'size', before: 0.1, after: 0.1 + rise } : null,
  })
  expect(lossOf(way(1, 0, 0))).toBe(1)
  expect(lossOf(way(1, 0.05, 0))).toBeGreaterThan(lossOf(way(1, 0.01, 0)))
  expect(lossOf(way(1, 0, 0.3))).toBeGreaterThan(lossOf(way(1, 0, 0.1)))
})
