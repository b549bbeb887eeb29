import fc from 'fast-check'
import { ClipperD, EndType, JoinType, areaPathsD, inflatePathsD } from 'clipper2-ts'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { beadArea, filamentArea } from '../src/extrusion'
import { MoveKind, readGcode, type Program } from '../src/gcode'
import { scoped, solidOf, type Kernel, type Ring, type Solid } from '../src/geometry'
import { planMotion } from '../src/motion'
import {
  PlanError,
  bridgeAngle,
  hatch,
  isInside,
  lengthOf,
  onBed,
  piecesOf,
  planPart,
  slicesOf,
  toAndFro,
  writePlan,
  type PartSettings,
  type SupportOptions,
} from '../src/planner'
import type { Machine } from '../src/machine'
import {
  NOT_LAID,
  SETTINGS,
  SETTING_KEYS,
  deriveRecipe,
  partSettingsOf,
  type SettingKey,
} from '../src/recipe'
import { Feature, readPath } from '../src/toolpath'
import { kernelReady } from './lib/kernel'
import { publicMesh } from './lib/meshes'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const machine = DEMO_MACHINES.greenhouse
const filament = demoFilaments('2026-01-01').fern
const recipe = deriveRecipe({ machine, filament })
const usual = partSettingsOf(recipe)
const bare: PartSettings = {
  ...usual,
  skirtLoops: 0,
  brimLines: 0,
  cornerTabs: 0,
  draughtWall: 0,
  contourOffset: 0,
  holeOffset: 0,
  footTrim: 0,
  scaleX: 100,
  scaleY: 100,
  scaleZ: 100,
  earlyStop: 0,
  wipe: 0,
  restartExtra: 0,
}
const laid = (solid: Solid, s: PartSettings, on = machine) => {
  const plan = planPart(k, solid, on, s)
  const gcode = writePlan(plan, on, s, { title: 'part' })
  const program = readGcode(new TextEncoder().encode(gcode), { filamentDiameter: s.diameter })
  return { plan, gcode, program }
}
/** mm³ that are laid as lines. */
function fedVolume(p: Program, diameter: number): number {
  let e = 0
  for (let i = 0; i < p.count; i++) if (p.kind[i] === MoveKind.Extrude) e += p.e[i]
  return e * filamentArea(diameter)
}

describe('slices against closed forms', () => {
  const many = 200
  const areasOf = (solid: Solid, s: PartSettings) =>
    scoped((keep) =>
      slicesOf(k, keep(onBed(solid, 0, 0)), s, keep).map(({ z, h, area }) => ({
        at: z - h / 2,
        area: area.area(),
      })),
    )
  test('sphere and cone: each layer as large as the circle there, the whole as large as the solid', () => {
    for (const { at, area } of areasOf(k.Manifold.sphere(15, many), bare)) {
      const wanted = Math.PI * Math.max(0, 15 ** 2 - (at - 15) ** 2)
      if (wanted > 20) expect(Math.abs(area / wanted - 1)).toBeLessThan(0.01)
    }
    const cone = areasOf(k.Manifold.cylinder(20, 12, 2, many), bare)
    for (const { at, area } of cone.slice(0, -1)) {
      const r = 12 - (10 * at) / 20
      expect(Math.abs(area / (Math.PI * r * r) - 1)).toBeLessThan(0.01)
    }
  })
  test('a block with a bore: contour, hole and foot move the edges they should, and no other', () => {
    const block = k.Manifold.cube([40, 30, 6]).subtract(
      k.Manifold.cylinder(6, 5, 5, many).translate([20, 15, 0]),
    )
    // an island within the bore
    const solid = block.add(k.Manifold.cylinder(6, 2, 2, many).translate([20, 15, 0]))
    const hole = Math.PI * 25
    const pin = Math.PI * 4
    const of = (set: Partial<PartSettings>) => areasOf(solid, { ...bare, ...set })
    const near = (got: number, wanted: number) => expect(Math.abs(got - wanted)).toBeLessThan(0.3)
    near(of({})[5].area, 1200 - hole + pin)
    near(of({ contourOffset: -0.1 })[5].area, 39.8 * 29.8 - Math.PI * 5.1 ** 2 + Math.PI * 1.9 ** 2)
    near(of({ holeOffset: 0.2 })[5].area, 1200 - Math.PI * 5.2 ** 2 + pin)
    near(of({ holeOffset: -0.2 })[5].area, 1200 - Math.PI * 4.8 ** 2 + pin)
    const trimmed = of({ footTrim: 0.2 })
    near(trimmed[0].area, 39.6 * 29.6 - Math.PI * 5.2 ** 2 + Math.PI * 1.8 ** 2)
    near(trimmed[5].area, 1200 - hole + pin)
    near(of({ scaleX: 102 })[5].area, 1.02 * (1200 - hole + pin))
  })
  test('offsets agree with another library', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.integer({ min: -3000, max: 3000 }), fc.integer({ min: -3000, max: 3000 })), {
          minLength: 3,
          maxLength: 9,
        }),
        fc.integer({ min: -120, max: 200 }),
        (corners, by) => {
          const ring = corners.map(([x, y]): [number, number] => [x / 100, y / 100])
          const delta = by / 100
          scoped((keep) => {
            const ours = keep(keep(new k.CrossSection([ring], 'EvenOdd')).offset(delta, 'Miter', 2))
            // the other one gets the same outline, crossings taken out
            const clean = keep(new k.CrossSection([ring], 'EvenOdd')).toPolygons()
            const theirs = inflatePathsD(
              clean.map((r) => r.map(([x, y]) => ({ x, y }))),
              delta,
              JoinType.Miter,
              EndType.Polygon,
              2,
              6,
            )
            const area = areaPathsD(theirs)
            expect(Math.abs(ours.area() - area)).toBeLessThan(0.01 * Math.max(1, Math.abs(area)) + 0.05)
          })
        },
      ),
      tries(60),
    )
    expect(ClipperD).toBeDefined()
  })
})

describe('filling', () => {
  const square = (side: number): Ring => [
    [0, 0],
    [side, 0],
    [side, side],
    [0, side],
  ]
  test('lines across a square and a ring are as long as geometry says', () => {
    // 20 mm side, lines 1 mm apart: so long as the area over their distance
    for (const angle of [0, 30, 45, 90, 135])
      expect(Math.abs(lengthOf(hatch([square(20)], angle, 0.05)) * 0.05 - 400)).toBeLessThan(2)
    const hole: Ring = [
      [5, 5],
      [5, 15],
      [15, 15],
      [15, 5],
    ]
    const rows = hatch([square(20), hole], 0, 0.5, 0.25)
    expect(lengthOf(rows) * 0.5).toBeCloseTo(300, 6)
    // where the hole is, each row has two lines
    expect(rows[20].length).toBe(2)
    expect(hatch([], 0, 1)).toEqual([])
  })
  test('to and fro lays every line once, whatever the shape', () => {
    fc.assert(
      fc.property(
        fc.array(fc.tuple(fc.nat(400), fc.nat(400)), { minLength: 3, maxLength: 12 }),
        fc.integer({ min: 0, max: 179 }),
        (corners, angle) => {
          const rows = hatch([corners.map(([x, y]): [number, number] => [x / 10, y / 10])], angle, 0.7)
          const paths = toAndFro(rows, 1.5)
          const all = rows.flat().length
          expect(paths.reduce((s, p) => s + p.length / 2, 0)).toBe(all)
        },
      ),
      tries(60),
    )
  })
  test('a bridge runs across the shorter span that is held at both ends', () => {
    const gap = (w: number, d: number): Ring => [
      [0, 0],
      [w, 0],
      [w, d],
      [0, d],
    ]
    // carried at left and right
    const piers: Ring[] = [
      [
        [-5, -1],
        [0.5, -1],
        [0.5, 11],
        [-5, 11],
      ],
      [
        [29.5, -1],
        [40, -1],
        [40, 11],
        [29.5, 11],
      ],
    ]
    const found = bridgeAngle([gap(30, 10)], piers, 0.4)!
    expect(found.angle).toBe(0)
    expect(found.span).toBeCloseTo(30, 1)
    // carried all round: across the short way
    const frame: Ring[] = [
      [
        [-9, -9],
        [39, -9],
        [39, 19],
        [-9, 19],
      ],
      [
        [0.2, 0.2],
        [0.2, 9.8],
        [29.8, 9.8],
        [29.8, 0.2],
      ],
    ]
    expect(bridgeAngle([gap(30, 10)], frame, 0.4)!.angle).toBe(90)
    expect(bridgeAngle([gap(30, 10)], [], 0.4)).toBeNull()
    expect(isInside([gap(30, 10)], 15, 5)).toBe(true)
  })
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
    const { program } = laid(solid, { ...bare, sparseDensity: 100 })
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
    const { program } = laid(k.Manifold.cube([40, 40, 12]), s)
    const r = readPath(program, {
      filamentDiameter: s.diameter,
      density: s.density,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    })
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
          const { plan, program: p } = laid(solid, s, m)
          expect([p.faultCount, [...p.unknown]]).toEqual([0, []])
          for (const l of plan.layers)
            for (const t of l.strokes) {
              expect(t.points.length).toBeGreaterThan(1)
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
          for (const st of p.states) expect(st.nozzle).toBeLessThanOrEqual(m.limits.nozzle)
          // a layer takes its time, or is laid at the floor
          const { seconds } = planMotion(p, m.limits)
          const r = readPath(p, {
            filamentDiameter: s.diameter,
            density: s.density,
            nozzleDiameter: m.nozzle.diameter,
            limits: m.limits,
          })
          expect(seconds.length).toBe(p.count)
          if (s.minLayerTime)
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
  test('bridges lie over air with their own speed and fan; nothing else lies over nothing', () => {
    // a table: two legs and a plate
    const legs = k.Manifold.cube([6, 20, 10]).add(k.Manifold.cube([6, 20, 10]).translate([24, 0, 0]))
    const table = legs.add(k.Manifold.cube([30, 20, 2]).translate([0, 0, 10]))
    const { plan } = laid(table, { ...bare, bottomLayers: 3, topLayers: 3 })
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
    const { plan } = laid(k.Manifold.cube([30, 30, 3]), s)
    const kinds = plan.layers[0].strokes.map((t) => t.kind)
    expect(kinds.filter((x) => x === 'skirt')).toHaveLength(2)
    expect(kinds.indexOf('brim')).toBeGreaterThan(kinds.indexOf('skirt'))
    expect(kinds.indexOf('inner')).toBeGreaterThan(kinds.lastIndexOf('brim'))
    expect(plan.layers[1].strokes.some((t) => t.kind === 'brim' || t.kind === 'skirt')).toBe(false)
    const walled = laid(k.Manifold.cube([30, 30, 3]), { ...bare, draughtWall: 1, skirtLoops: 2 }).plan
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
      laid(notched, { ...bare, ...set }).plan.layers.map(
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
    const { plan, program } = laid(upright, s)
    const r = readPath(program, {
      filamentDiameter: s.diameter,
      density: s.density,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    })
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
    planPart(k, solid, machine, bare, (done) => {
      expect(done).toBeGreaterThanOrEqual(last - 1e-9)
      last = done
      if (done >= share) throw ended
    })
  for (const share of [0, 0.2, 0.6, 0.95]) {
    last = 0
    expect(() => at(share)).toThrow(ended)
  }
  last = 0
  expect(planPart(k, solid, machine, bare, (done) => (last = done)).layers.length).toBeGreaterThan(100)
  expect(last).toBeGreaterThan(0.9)
})

test('a raft: seen as one by the path reader, its uppermost lines across the part’s lowest, air between, the part slow and a little starved over it', () => {
  const s: PartSettings = { ...bare, raft: true, skirtLoops: 1, minLayerTime: 0, raftTopDensity: 100 }
  const { plan, program } = laid(k.Manifold.cube([24, 24, 6]), s)
  const r = readPath(program, {
    filamentDiameter: s.diameter,
    density: s.density,
    nozzleDiameter: machine.nozzle.diameter,
    limits: machine.limits,
  })
  const raft = s.raftBottomLayers + s.raftTopLayers
  expect(r.base.raftLayers).toBe(raft)
  const first = plan.layers[raft]
  const last = plan.layers[raft - 1]
  expect(first.overRaft).toBe(true)
  expect(first.z - first.h - last.z).toBeCloseTo(s.raftGap, 6)
  const direction = (kind: string, strokes: typeof first.strokes) => {
    const [a, b] = strokes.find((t) => t.kind === kind)!.points
    return ((Math.atan2(b[1] - a[1], b[0] - a[0]) * 180) / Math.PI + 360) % 180
  }
  const crossing = Math.abs(direction('raft-top', last.strokes) - direction('solid', first.strokes))
  expect(Math.min(crossing, 180 - crossing)).toBeCloseTo(s.raftCrossing, 3)
  // it reaches beyond the part by its margin
  const xs = last.strokes.filter((t) => t.kind === 'raft-top').flatMap((t) => t.points.map(([x]) => x))
  expect(Math.max(...xs) - Math.min(...xs)).toBeCloseTo(24 + 2 * s.raftMargin - s.raftTopWidth, 0)
  expect(plan.layers.slice(1, raft).every((l) => l.strokes.every((t) => t.kind.startsWith('raft')))).toBe(
    true,
  )
})
test('walls that hang get the fan for it, and only they', () => {
  // a cone on its tip, flatter than 45°
  const s = { ...bare, fan: 30, fanOverhang: 90, minLayerTime: 0 }
  const cup = k.Manifold.cylinder(8, 4, 16, 64)
  const { plan, gcode } = laid(cup, s)
  const hanging = plan.layers.slice(3).map((l) => l.strokes.some((t) => t.hangs))
  expect(hanging.filter(Boolean).length).toBeGreaterThan(hanging.length * 0.8)
  expect(gcode).toMatch(
    new RegExp(`^M106 S${machine.commands?.fan === 'fraction' ? '0.9' : Math.round(0.9 * 255)}`, 'm'),
  )
  const upright = laid(k.Manifold.cylinder(8, 9, 9, 64), s)
  expect(upright.plan.layers.some((l) => l.strokes.some((t) => t.hangs))).toBe(false)
})
test('every setting of a recipe moves something when a part is laid, or says why it does not', () => {
  const leg = k.Manifold.cube([5, 12, 3])
  const solid = leg
    .add(leg.translate([17, 0, 0]))
    .add(k.Manifold.cube([22, 12, 2.4]).translate([0, 0, 3]))
    .subtract(k.Manifold.cylinder(20, 2, 2, 24).translate([11, 6, 0]))
    .add(k.Manifold.cylinder(3, 2, 7, 24).translate([11, 30, 0]))
  const on: Machine = {
    ...machine,
    commands: {
      feed: 'relative',
      fan: 'bytes',
      acceleration: 'split',
      corner: 'change',
      pressure: 'k',
      level: 'none',
    },
    limits: { ...machine.limits, corner: { kind: 'instant-change', limit: 40 } },
  }
  const set = {
    brimLines: 3,
    cornerTabs: 8,
    slowZoneHeight: 1,
    seamPlace: 'turned-away',
    retract: true,
    smallLoopLength: 20,
    minLayerTime: 8,
    zLift: 0.2,
    fan: 40,
    pressureCompensation: 0.03,
    layerHeight: 0.28,
  } as const
  const out = (s: PartSettings, m: Machine) => writePlan(planPart(k, solid, m, s), m, s, { title: 'x' })
  const grounds = [
    { s: { ...usual, ...set } as PartSettings, m: on },
    { s: { ...usual, ...set, raft: true, raftGap: 0.1 } as PartSettings, m: on },
    {
      s: { ...usual, ...set, brimLines: 0, cornerTabs: 0, minLayerTime: 60 } as PartSettings,
      m: {
        ...on,
        commands: { ...on.commands!, corner: 'deviation' as const },
        limits: { ...on.limits, corner: { kind: 'junction-deviation' as const, deviation: 0.2 } },
      },
    },
  ].map((g) => ({ ...g, was: out(g.s, g.m) }))
  const idle: string[] = []
  for (const key of SETTING_KEYS) {
    if (NOT_LAID[key]) continue
    const moves = grounds.some(({ s, m, was }) => {
      const now = s[key as keyof PartSettings]
      return othersOf(key, now).some((other) => out({ ...s, [key]: other }, m) !== was)
    })
    if (!moves) idle.push(key)
  }
  expect(idle).toEqual([])
})
/** Other values a setting may have, far enough off to be seen. */
function othersOf(key: SettingKey, now: unknown): unknown[] {
  const s = SETTINGS[key]
  if (typeof now === 'boolean') return [!now]
  if (typeof now === 'number' && 'min' in s) {
    const far = Math.max(s.step * 12, (s.max - s.min) / 8)
    return [Math.min(s.max, now + far), Math.max(s.min, now - far)].filter((v) => v !== now)
  }
  return s.kind === 'choice' ? s.choices.map((o): unknown => o.value).filter((v) => v !== now) : []
}

describe('pieces that are printed in place', () => {
  const ring = (R: number, r: number) =>
    new k.CrossSection([
      Array.from({ length: 48 }, (_, i): [number, number] => [
        R + r * Math.cos((2 * Math.PI * i) / 48),
        r * Math.sin((2 * Math.PI * i) / 48),
      ]),
    ]).revolve(128)
  const bore = (gap: number) =>
    k.Manifold.cylinder(2, 4, 4, 72).add(
      k.Manifold.cylinder(2, 8, 8, 72).subtract(k.Manifold.cylinder(2, 4 + gap, 4 + gap, 72)),
    )
  test('a pin in its socket: the gap as it is drawn, and wider by twice what the contour is drawn in', () => {
    for (const gap of [0.15, 0.3, 0.6]) {
      const drawn = piecesOf(k, bore(gap), bare)
      expect([drawn.count, drawn.gaps.length]).toEqual([2, 1])
      expect(Math.abs(drawn.gaps[0].gap - gap)).toBeLessThan(0.01)
      const freer = piecesOf(k, bore(gap), { ...bare, contourOffset: -0.05 })
      expect(Math.abs(freer.gaps[0].gap - gap - 0.1)).toBeLessThan(0.01)
    }
    // swollen shut
    expect(piecesOf(k, bore(0.15), { ...bare, contourOffset: 0.1 }).count).toBe(1)
  })
  test('two interlocked rings never join; where they come nearest is in the middle', () => {
    // middle lines of radius 12, their middles 18 apart: 6 between the lines, less both tubes of 2.5
    const lying = ring(12, 2.5)
    const upright = ring(12, 2.5).rotate([90, 0, 0]).translate([18, 0, 0])
    const { count, gaps } = piecesOf(k, lying.add(upright), { ...bare, layerHeight: 0.1 })
    expect([count, gaps.length]).toEqual([2, 1])
    expect(Math.abs(gaps[0].gap / 1 - 1)).toBeLessThan(0.02)
    // half way up, on the line through both middles
    expect(Math.abs(gaps[0].z - 14.5)).toBeLessThan(0.3)
    expect(Math.abs(gaps[0].from[1])).toBeLessThan(0.6)
  })
  test('one solid is one piece, without a gap', () => {
    expect(piecesOf(k, k.Manifold.cube([10, 10, 10]), bare)).toMatchObject({ count: 1, gaps: [] })
  })
})

describe('what is thinner than two lines', () => {
  test('a plate and a tube of less than a line are laid with one line of their own width, and fed what they hold', () => {
    for (const thick of [0.25, 0.35, 0.42]) {
      const plate = k.Manifold.cube([30, thick, 4])
      const { plan, program } = laid(plate, { ...bare, firstWidth: bare.outerWidth, flowFirst: 100 })
      const [line, ...others] = plan.layers[5].strokes
      expect(others).toEqual([])
      expect(line.closed).toBe(false)
      expect(Math.abs(line.width / thick - 1)).toBeLessThan(0.1)
      // the sides of a bead are round: it holds less than its box
      const round = beadArea(thick, bare.layerHeight) / (thick * bare.layerHeight)
      expect(Math.abs(fedVolume(program, bare.diameter) / plate.volume() / round - 1)).toBeLessThan(0.08)
    }
    const tube = k.Manifold.cylinder(4, 8, 8, 90).subtract(k.Manifold.cylinder(4, 7.65, 7.65, 90))
    const { plan } = laid(tube, bare)
    const [loop, ...others] = plan.layers[5].strokes
    expect([others.length, loop.closed]).toEqual([0, true])
    expect(Math.abs(loop.width / 0.35 - 1)).toBeLessThan(0.1)
  })
  test('a fin on a block gets its line, the block its walls; what no nozzle can lay is left out', () => {
    const block = k.Manifold.cube([20, 20, 3])
    const fin = block.add(k.Manifold.cube([10, 0.4, 3]).translate([20, 10, 0]))
    const { plan } = laid(fin, bare)
    const thin = plan.layers[4].strokes.filter((t) => t.kind === 'outer' && !t.closed)
    expect(thin).toHaveLength(1)
    const xs = thin[0].points.map(([x]) => x)
    expect(Math.max(...xs) - Math.min(...xs)).toBeGreaterThan(8.5)
    const hair = block.add(k.Manifold.cube([10, 0.05, 3]).translate([20, 10, 0]))
    expect(laid(hair, bare).plan.layers[4].strokes.every((t) => t.kind !== 'outer' || t.closed)).toBe(true)
  })
})

describe('supports', () => {
  // a plate on one leg, and a shelf over a foot
  const leg = () => k.Manifold.cube([8, 20, 12]).add(k.Manifold.cube([40, 20, 2]).translate([0, 0, 12]))
  const shelf = () => leg().add(k.Manifold.cube([20, 20, 3]).translate([20, 0, 0]))
  const carriedIn = (solid: Solid, o: Partial<SupportOptions> = {}, set: Partial<PartSettings> = {}) =>
    planPart(k, solid, machine, { ...bare, ...set }, undefined, {
      from: 'everywhere',
      angle: 55,
      density: 20,
      ...o,
    }).layers.map((l) => ({ z: l.z, strokes: l.strokes.filter((t) => t.kind === 'support') }))
  test('what hangs is carried from the bed up, with air under it and beside; what stands is not', () => {
    const layers = carriedIn(leg(), {}, { supportGap: 0.4 })
    const with_ = layers.filter((l) => l.strokes.length)
    expect(with_[0].z).toBeCloseTo(bare.firstHeight, 6)
    const top = with_.at(-1)!.z
    // the plate's underside is at 12
    expect(12 - top).toBeGreaterThan(0.3)
    expect(12 - top).toBeLessThan(0.7)
    const xs = with_[5].strokes.flatMap((t) => t.points.map(([x]) => x))
    // the leg ends at 8 of 40: the middle of the bed is at 20
    expect(Math.min(...xs) - (machine.bed.width / 2 - 12)).toBeGreaterThan(0.4)
    expect(carriedIn(k.Manifold.cube([20, 20, 10])).every((l) => !l.strokes.length)).toBe(true)
    // a face of 45° needs none, one of 65° does
    const cup = (r: number) => k.Manifold.cylinder(6, 4, r, 48)
    expect(carriedIn(cup(9)).every((l) => !l.strokes.length)).toBe(true)
    expect(carriedIn(cup(18)).some((l) => l.strokes.length)).toBe(true)
  })
  test('from the bed only leaves out what stands over the part; a patch can be left out by itself', () => {
    const length = (layers: ReturnType<typeof carriedIn>) =>
      layers
        .flatMap((l) => l.strokes)
        .reduce(
          (s, t) =>
            s +
            t.points
              .slice(1)
              .reduce((w, [x, y], i) => w + Math.hypot(x - t.points[i][0], y - t.points[i][1]), 0),
          0,
        )
    const all = length(carriedIn(shelf()))
    const bed = length(carriedIn(shelf(), { from: 'bed' }))
    expect(bed).toBeLessThan(all)
    expect(bed).toBeGreaterThan(0)
    const { width, depth } = machine.bed
    expect(length(carriedIn(leg(), { without: [{ x: width / 2, y: depth / 2, radius: 80 }] }))).toBe(0)
  })
  test('the path reader sees them as supports, and the gap moves them', () => {
    const s = { ...bare, minLayerTime: 0 }
    const plan = planPart(k, leg(), machine, s, undefined, { from: 'bed', angle: 50, density: 25 })
    const gcode = writePlan(plan, machine, s, { title: 'x' })
    const r = readPath(readGcode(new TextEncoder().encode(gcode), { filamentDiameter: s.diameter }), {
      filamentDiameter: s.diameter,
      density: s.density,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    })
    expect(r.layerCount).toBe(plan.layers.length)
    const tops = [0.2, 0.6].map(
      (gap) =>
        carriedIn(leg(), {}, { supportGap: gap })
          .filter((l) => l.strokes.length)
          .at(-1)!.z,
    )
    expect(tops[0] - tops[1]).toBeCloseTo(0.4, 6)
  })
})
