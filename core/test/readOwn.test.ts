import { DEMO_MACHINES, DEMO_PARTS, demoFilaments } from '../src/demo'
import { planOnPair } from '../src/casework'
import { findingContext, findingsOf } from '../src/diagnosis'
import type { Kernel, Solid } from '../src/geometry'
import { USUAL_LAYOUT } from '../src/planner'
import { compareWithRecipe, deriveRecipe, type Changes } from '../src/recipe'
import { hand } from './lib/diagnose'
import { readGcode } from '../src/gcode'
import { readPath } from '../src/toolpath'
import { kernelReady } from './lib/kernel'

const today = '2026-01-10'
const AS_DRAWN = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0] as const
const filament = demoFilaments(today).terracotta

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const SHAPES: Record<string, () => Solid> = {
  box: () => k.Manifold.cube([40, 30, 12]),
  ring: () => k.Manifold.cylinder(12, 20, 20, 64).subtract(k.Manifold.cylinder(12, 14, 14, 64)),
  'three walls on a strip': () =>
    k.Manifold.compose([
      ...[0, 1, 2].map((i) => k.Manifold.cube([8, 30, 12]).translate([i * 20, 0, 0])),
      k.Manifold.cube([48, 8, 2]),
    ]),
}
/** What is laid round, under and at the ends of a part: each once took the reader in. */
const ROUND_ABOUT: Changes[] = [
  {},
  { earlyStop: 0.06, wipe: 2 },
  { wipe: 4 },
  { draughtWall: 1 },
  { draughtWall: 2 },
  { raft: true },
  { raft: true, draughtWall: 1 },
  { raft: true, raftDensity: 40, raftBottomWidth: 1.6 },
  { cornerTabs: 12 },
  { cornerTabs: 8, brimLines: 6 },
  { brimLines: 8, brimGap: 0.2 },
  { skirtLoops: 4 },
  { seamPlace: 'scattered' },
]
/** What would be said of a machine or a print that has none of it. */
const FALSE_ALARMS = [
  'open-air-drag',
  'no-priming',
  'ends-untreated',
  'first-underfed',
  'first-overfed',
  'first-gaps',
  'first-wide',
  'first-narrow',
  'islands-quick',
  'speeds-apart',
  'slow-down-swings',
]

describe.each(Object.keys(SHAPES))('a file of our own, of a %s', (shape) => {
  test.each(['shed', 'greenhouse'] as const)(
    'reads as its recipe, whatever is round about it, on the %s',
    (on) => {
      const machine = DEMO_MACHINES[on]
      const wrong: string[] = []
      for (const change of ROUND_ABOUT) {
        const recipe = deriveRecipe({ machine, filament, pins: hand(change) })
        const { view } = planOnPair(k, SHAPES[shape](), {
          pair: { machine, filament, recipe },
          layout: { ...USUAL_LAYOUT, placement: AS_DRAWN },
          title: 'part',
          today,
        })
        const name = JSON.stringify(change)
        for (const d of compareWithRecipe(view.reading, recipe))
          wrong.push(`${name}: ${d.key} ${d.recipe} → ${d.file}`)
        for (const f of findingsOf(view.reading, findingContext({ machine, filament, recipe })))
          if (FALSE_ALARMS.includes(f.kind)) wrong.push(`${name}: ${f.kind}`)
      }
      expect(wrong).toEqual([])
    },
  )
})

test('lines that prime the nozzle beside a small part are no raft, however wide they are', () => {
  const rect = (x: number, y: number, w: number, e: number) =>
    [
      [w, 0],
      [w, w],
      [0, w],
      [0, 0],
    ].map(([dx, dy]) => `G1 X${x + dx} Y${y + dy} E${e}`)
  const layer = (z: number) => [
    `G1 Z${z} F600`,
    'G0 X100 Y100',
    ...rect(100, 100, 12, 0.4),
    'G0 X100.4 Y100.4',
    ...rect(100.4, 100.4, 11.2, 0.37),
  ]
  const text = [
    'M83',
    'G1 Z0.25 F600',
    'G0 X5 Y5',
    'G1 X5 Y180 E26 F1200',
    'G1 X6.2 Y180 E0.2',
    'G1 X6.2 Y5 E26',
    ...layer(0.25),
    ...Array.from({ length: 20 }, (_, i) => layer(0.45 + 0.2 * i)).flat(),
  ].join('\n')
  const r = readPath(readGcode(new TextEncoder().encode(text)), {
    filamentDiameter: 1.75,
    density: 1.24,
    nozzleDiameter: 0.4,
    limits: DEMO_MACHINES.shed.limits,
  })
  expect(r.base.raftLayers).toBe(0)
  expect(r.primed).toBe(true)
})

test.each<[string, () => Solid]>([
  [
    'a tube in a tube on one floor',
    () =>
      k.Manifold.union([
        k.Manifold.cylinder(20, 20, 20, 64).subtract(k.Manifold.cylinder(20, 18.8, 18.8, 64)),
        k.Manifold.cylinder(20, 10, 10, 64).subtract(k.Manifold.cylinder(20, 8.8, 8.8, 64)),
        k.Manifold.cylinder(1, 20, 20, 64),
      ]),
  ],
  [
    'a ring that turns round a hub',
    () =>
      k.Manifold.compose([
        k.Manifold.cylinder(10, 20, 20, 64).subtract(k.Manifold.cylinder(10, 19, 19, 64)),
        k.Manifold.cylinder(10, 18.6, 18.6, 64),
      ]),
  ],
  ...DEMO_PARTS.map(({ name, make }): [string, () => Solid] => [name, () => make(k)]),
])('%s has no wall against draughts: its shell is its own', (_, shape) => {
  const machine = DEMO_MACHINES.greenhouse
  const recipe = deriveRecipe({ machine, filament })
  const solid = shape()
  const { view, analysis } = planOnPair(k, solid, {
    pair: { machine, filament, recipe },
    layout: { ...USUAL_LAYOUT, placement: AS_DRAWN },
    title: 'part',
    today,
  })
  const { min, max } = solid.boundingBox()
  expect(analysis.shields.size).toBe(0)
  expect(Math.abs(view.reading.build.size!.x - (max[0] - min[0]))).toBeLessThan(0.3)
})
