import fc from 'fast-check'
import { DEMO_MACHINES } from '../src/demo'
import { MoveKind } from '../src/gcode'
import { solidOf, type Kernel } from '../src/geometry'
import { planMotion } from '../src/motion'
import { PlanError, planPart, type PartSettings } from '../src/planner'
import { deriveRecipe, partSettingsOf } from '../src/recipe'
import { Feature } from '../src/toolpath'
import { kernelReady } from './lib/kernel'
import { publicMesh } from './lib/meshes'
import { bare, fedVolume, filament, laid, machine, readingOf } from './lib/planned'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

describe('plans', () => {
  test.each([
    ['a cube', () => k.Manifold.cube([20, 20, 20]), 0.01],
    // the edge of a bead is round, and lines end in steps along a round wall
    ['a cylinder', () => k.Manifold.cylinder(15, 9, 9, 120), 0.02],
    [
      'a block with a bore',
      () => k.Manifold.cube([30, 20, 8]).subtract(k.Manifold.cylinder(8, 4, 4, 90).translate([15, 10, 0])),
      0.01,
    ],
  ])('%s of solid plastic is fed its own volume', (_, make, within) => {
    const solid = make()
    const { program } = laid(k, solid, { ...bare, sparseDensity: 100 })
    // whole layers: the last one may end over the part
    const tall = solid.boundingBox().max[2]
    const layers = Math.ceil((tall - bare.firstHeight) / bare.layerHeight - 0.25)
    const wanted = (solid.volume() * (bare.firstHeight + layers * bare.layerHeight)) / tall
    expect(Math.abs(fedVolume(program, bare.diameter) / wanted - 1)).toBeLessThan(within)
  })
  test('what was planned is what the path reader sees: layers, walls, speeds, heats, fan, first layer', () => {
    const s = {
      ...bare,
      skirtLoops: 2,
      minLayerTime: 0,
      wallCount: 3,
      topLayers: 4,
      bottomLayers: 3,
      sparseDensity: 20,
    }
    const { program } = laid(k, k.Manifold.cube([40, 40, 12]), s)
    const r = readingOf(program, s)
    expect(r.layerCount).toBe(Math.ceil((12 - s.firstHeight) / s.layerHeight - 0.25) + 1)
    expect(r.layerHeight).toBeCloseTo(s.layerHeight, 3)
    expect(r.firstLayer!.height).toBeCloseTo(s.firstHeight, 3)
    expect(r.firstLayer!.speed).toBeCloseTo(s.firstSpeed, 0)
    expect(r.build).toMatchObject({
      walls: 3,
      topLayers: 4,
      bottomLayers: 3,
      skirtLoops: 2,
      wallOrder: s.wallOrder,
    })
    expect(Math.abs(r.build.sparseDensity! - 20)).toBeLessThan(5)
    const { [Feature.Outer]: outer, [Feature.Inner]: inner } = r.features
    expect(outer.asked).toBeCloseTo(s.outerSpeed, 0)
    expect(inner.asked).toBeCloseTo(s.innerSpeed, 0)
    expect(outer.width).toBeCloseTo(s.outerWidth, 1)
    expect(r.layers.nozzle[0]).toBe(s.nozzleFirst)
    expect(r.layers.nozzle[5]).toBe(s.nozzle)
    expect(r.layers.fan.at(-1)! * 100).toBeCloseTo(s.fan, 0)
  })
  test('whatever solid, pair and settings: on the bed, within the limits, loops closed, pulled back and given again, layers not too quick', () => {
    const solids = fc.oneof(
      fc
        .tuple(
          fc.integer({ min: 6, max: 60 }),
          fc.integer({ min: 6, max: 60 }),
          fc.integer({ min: 2, max: 16 }),
        )
        .map(
          ([x, y, z]) =>
            () =>
              k.Manifold.cube([x, y, z]),
        ),
      fc
        .tuple(
          fc.integer({ min: 4, max: 20 }),
          fc.integer({ min: 0, max: 20 }),
          fc.integer({ min: 2, max: 14 }),
        )
        .map(
          ([a, b, h]) =>
            () =>
              k.Manifold.cylinder(h, a, b, 40),
        ),
      fc.integer({ min: 5, max: 14 }).map((r) => () => k.Manifold.sphere(r, 40)),
      fc.tuple(fc.integer({ min: 4, max: 10 }), fc.integer({ min: 1, max: 3 })).map(
        ([r, w]) =>
          () =>
            k.Manifold.cylinder(10, r, r, 40)
              .subtract(k.Manifold.cylinder(10, r - w, r - w, 40))
              .translate([0, 0, 0]),
      ),
    )
    const settings = fc.record({
      wallCount: fc.integer({ min: 1, max: 4 }),
      sparseDensity: fc.constantFrom(0, 15, 60, 100),
      topLayers: fc.integer({ min: 0, max: 4 }),
      bottomLayers: fc.integer({ min: 0, max: 4 }),
      brimLines: fc.constantFrom(0, 6),
      cornerTabs: fc.constantFrom(0, 12),
      draughtWall: fc.constantFrom(0, 1),
      skirtLoops: fc.integer({ min: 0, max: 3 }),
      layerHeight: fc.constantFrom(0.12, 0.2, 0.28),
      seamPlace: fc.constantFrom(
        'stacked' as const,
        'tucked' as const,
        'turned-away' as const,
        'scattered' as const,
      ),
      contourOffset: fc.constantFrom(-0.1, 0, 0.05),
      minLayerTime: fc.constantFrom(0, 6),
      slowZoneHeight: fc.constantFrom(0, 2),
      firstWalls: fc.integer({ min: 1, max: 3 }),
      sparseKind: fc.constantFrom('lines' as const, 'grid' as const, 'gyroid' as const),
      topWidth: fc.constantFrom(0.36, 0.5),
      spiral: fc.constantFrom(false, false, false, true),
      supports: fc.constantFrom('none' as const, 'bed' as const, 'everywhere' as const),
    })
    fc.assert(
      fc.property(
        solids,
        settings,
        fc.constantFrom('shed' as const, 'greenhouse' as const),
        (make, set, on) => {
          const m = DEMO_MACHINES[on]
          const s: PartSettings = {
            ...partSettingsOf(deriveRecipe({ machine: m, filament })),
            restartExtra: 0,
            ...set,
          }
          const solid = make()
          const { plan, program: p } = laid(k, solid, s, m)
          expect([p.faultCount, [...p.unknown]]).toEqual([0, []])
          for (const l of plan.layers)
            for (const t of l.strokes) {
              if (t.points.length < 2) throw new Error(`a stroke of ${t.points.length} points`)
              for (const [x, y] of t.points)
                if (!(x >= 0 && y >= 0 && x <= m.bed.width && y <= m.bed.depth)) throw new Error(`${x} ${y}`)
            }
          let balance = 0
          for (let i = 0; i < p.count; i++) {
            if (p.speed[i] > m.limits.speed + 0.02) throw new Error(`${p.speed[i]} mm/s`)
            if (p.kind[i] === MoveKind.Retract || p.kind[i] === MoveKind.Feed) balance += p.e[i]
          }
          // the last pull-back stays
          expect(Math.abs(balance + (s.retract ? s.retractLength : 0))).toBeLessThan(0.05)
          expect(p.states.filter((st) => st.nozzle! > m.limits.nozzle)).toEqual([])
          // a layer takes its time, or is laid at the floor
          const { seconds } = planMotion(p, m.limits)
          const r = readingOf(p, s, m)
          expect(seconds.length).toBe(p.count)
          // a wall that rises without end is read in slices, not in layers
          if (s.minLayerTime && !s.spiral)
            r.layers.seconds.slice(1).forEach((t, i) => {
              if (t >= 0.8 * s.minLayerTime) return
              const fastest = r.layers.outerAsked[i + 1]
              if (fastest !== null && fastest > s.speedFloor * 1.05)
                throw new Error(`layer ${i + 1}: ${t} s at ${fastest}`)
            })
        },
      ),
      tries(12),
    )
  })
  test('a wave with many turns that need no stop is slowed for its layer time like any other line', () => {
    const on = DEMO_MACHINES.greenhouse
    const s: PartSettings = {
      ...partSettingsOf(deriveRecipe({ machine: on, filament })),
      wallCount: 1,
      sparseDensity: 60,
      sparseKind: 'gyroid',
      topLayers: 0,
      bottomLayers: 0,
      layerHeight: 0.12,
      contourOffset: -0.1,
      minLayerTime: 6,
    }
    const { program } = laid(k, k.Manifold.cylinder(14, 18, 2, 40), s, on)
    const { seconds, outerAsked } = readingOf(program, s, on).layers
    seconds.forEach((t, i) => {
      const asked = outerAsked[i]
      if (i && asked !== null && asked > s.speedFloor * 1.05) expect(t).toBeGreaterThan(0.8 * s.minLayerTime)
    })
    expect(Math.min(...seconds)).toBeLessThan(s.minLayerTime)
  })
  test('bridges lie over air with their own speed and fan; nothing else lies over nothing', () => {
    // a table: two legs and a plate
    const legs = k.Manifold.cube([6, 20, 10]).add(k.Manifold.cube([6, 20, 10]).translate([24, 0, 0]))
    const table = legs.add(k.Manifold.cube([30, 20, 2]).translate([0, 0, 10]))
    const { plan } = laid(k, table, { ...bare, bottomLayers: 3, topLayers: 3 })
    const first = plan.layers.find((l) => l.z - l.h / 2 > 10)!
    const bridges = first.strokes.filter((t) => t.kind === 'bridge')
    expect(bridges.length).toBeGreaterThan(0)
    // along X, from leg to leg
    const [a, b] = bridges[0].points
    expect(Math.abs(b[0] - a[0])).toBeGreaterThan(15)
    for (const l of plan.layers)
      if (l !== first) expect(l.strokes.some((t) => t.kind === 'bridge')).toBe(false)
  })
  test('brim, tabs, wall and skirt stand round the foot, from outside inwards; where the bed ends it is said', () => {
    const s = { ...bare, brimLines: 5, cornerTabs: 14, draughtWall: 0, skirtLoops: 2 }
    const { plan } = laid(k, k.Manifold.cube([30, 30, 3]), s)
    const kinds = plan.layers[0].strokes.map((t) => t.kind)
    expect(kinds.filter((x) => x === 'skirt')).toHaveLength(2)
    expect(kinds.indexOf('brim')).toBeGreaterThan(kinds.indexOf('skirt'))
    expect(kinds.indexOf('inner')).toBeGreaterThan(kinds.lastIndexOf('brim'))
    expect(plan.layers[1].strokes.some((t) => t.kind === 'brim' || t.kind === 'skirt')).toBe(false)
    const walled = laid(k, k.Manifold.cube([30, 30, 3]), { ...bare, draughtWall: 1, skirtLoops: 2 }).plan
    for (const l of walled.layers) expect(l.strokes.filter((t) => t.kind === 'draught-wall')).toHaveLength(1)
    expect(walled.layers[0].strokes.some((t) => t.kind === 'skirt')).toBe(false)
    const wide = planPart(k, k.Manifold.cube([machine.bed.width - 4, 30, 1]), machine, s)
    expect(wide.left).toEqual(expect.arrayContaining(['brim']))
    expect(() => planPart(k, k.Manifold.cube([machine.bed.width + 10, 30, 1]), machine, s)).toThrow(PlanError)
    expect(() => planPart(k, k.Manifold.cube([10, 10, machine.height + 5]), machine, s)).toThrow(PlanError)
  })
  test('seams: stacked over each other, turned to their side, tucked into a notch, or strewn', () => {
    const notched = k.Manifold.cube([30, 20, 4]).subtract(k.Manifold.cube([4, 4, 4]).translate([13, 0, 0]))
    const starts = (set: Partial<PartSettings>) =>
      laid(k, notched, { ...bare, ...set }).plan.layers.map(
        (l) => l.strokes.find((t) => t.kind === 'outer')!.points[0],
      )
    const spread = (p: readonly (readonly [number, number])[]) =>
      Math.max(...p.map(([x]) => x)) -
      Math.min(...p.map(([x]) => x)) +
      Math.max(...p.map(([, y]) => y)) -
      Math.min(...p.map(([, y]) => y))
    const { width, depth } = machine.bed
    expect(spread(starts({ seamPlace: 'stacked' }).slice(1))).toBeLessThan(0.2)
    for (const [x] of starts({ seamPlace: 'turned-away', seamDirection: 180 }))
      expect(x).toBeLessThan(width / 2 - 14)
    for (const [x, y] of starts({ seamPlace: 'tucked' })) {
      // the inward corners of the notch
      expect(Math.abs(x - width / 2)).toBeLessThan(3.5)
      expect(Math.abs(y - (depth / 2 - 6))).toBeLessThan(1)
    }
    expect(spread(starts({ seamPlace: 'scattered' }))).toBeGreaterThan(10)
  })
})

test.each([
  ['bunny', 0],
  ['teapot', 6],
] as const)(
  'the public %s, 60 mm wide, is made whole, laid, and read back as it was meant',
  (name, holes) => {
    const { solid, mended } = solidOf(k, publicMesh(name))
    expect([mended.holes, mended.open]).toEqual([holes, 0])
    const { min, max } = solid!.boundingBox()
    const factor = 60 / Math.max(max[0] - min[0], max[1] - min[1], max[2] - min[2])
    const upright = solid!.rotate([90, 0, 0]).scale(factor)
    const s = { ...bare, minLayerTime: 0, sparseDensity: 100 }
    const { plan, program } = laid(k, upright, s)
    const r = readingOf(program, s)
    expect(Math.abs(r.layerCount - plan.layers.filter((l) => l.strokes.length).length)).toBeLessThanOrEqual(1)
    // what is thinner than two lines is fed a little less than it holds
    expect(Math.abs(fedVolume(program, s.diameter) / upright.volume() - 1)).toBeLessThan(0.05)
    const box = upright.boundingBox()
    expect(r.build.size!.x).toBeCloseTo(box.max[0] - box.min[0], 0)
    expect(r.build.size!.y).toBeCloseTo(box.max[1] - box.min[1], 0)
    expect(r.features[Feature.Outer].width).toBeCloseTo(s.outerWidth, 1)
    expect(r.travel.openUnretracted).toBe(0)
  },
)
test('a plan can be ended at any moment; what is told of its progress only grows', () => {
  const solid = k.Manifold.sphere(20, 64)
  let last = 0
  const ended = new Error('ended')
  const at = (share: number) =>
    planPart(k, solid, machine, bare, {
      onStep: (done) => {
        expect(done).toBeGreaterThanOrEqual(last - 1e-9)
        last = done
        if (done >= share) throw ended
      },
    })
  for (const share of [0, 0.2, 0.6, 0.95]) {
    last = 0
    expect(() => at(share)).toThrow(ended)
  }
  last = 0
  expect(
    planPart(k, solid, machine, bare, { onStep: (done) => (last = done) }).layers.length,
  ).toBeGreaterThan(100)
  expect(last).toBeGreaterThan(0.9)
})
