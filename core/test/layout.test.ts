import { beadArea } from '../src/extrusion'
import type { Kernel, Solid } from '../src/geometry'
import {
  GYROID_LENGTH,
  HEAD,
  PlanError,
  USUAL_LAYOUT,
  fittingScale,
  gyroidLines,
  layPart,
  piecesOf,
  planPart,
  smallestWall,
  stiffnessOf,
  writePlan,
  type Layout,
  type PartSettings,
  type Stroke,
} from '../src/planner'
import { readGcode } from '../src/gcode'
import { kernelReady } from './lib/kernel'
import { bare, fedVolume, laid, machine, readingOf } from './lib/planned'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

const length = (t: Stroke) =>
  t.points.slice(1).reduce((s, [x, y], i) => s + Math.hypot(x - t.points[i][0], y - t.points[i][1]), 0)
const written = (solid: Solid, s: PartSettings, layout: Partial<Layout> = {}) => {
  const part = layPart(k, solid, machine, s, { ...USUAL_LAYOUT, ...layout })
  const gcode = writePlan(part.plan, machine, part.settings, { title: 'x' }, part)
  const program = readGcode(new TextEncoder().encode(gcode), { filamentDiameter: s.diameter })
  return { ...part, gcode, program, reading: readingOf(program, part.settings) }
}

test('a gyroid’s lines have the length their density asks for, and lie on the surface', () => {
  const square = [
    [
      [0, 0],
      [97, 0],
      [97, 83],
      [0, 83],
    ] as [number, number][],
  ]
  let total = 0
  let off = 0
  const heights = 40
  const period = GYROID_LENGTH * 4
  for (let i = 0; i < heights; i++) {
    const z = (period * (i + 0.5)) / heights
    const lines = gyroidLines(square, 4, z)
    total += lines.reduce((s, points) => s + length({ points } as Stroke), 0)
    const a = (2 * Math.PI) / period
    for (const line of lines)
      for (const [x, y] of line.slice(1, -1))
        off = Math.max(
          off,
          Math.abs(
            Math.sin(x * a) * Math.cos(y * a) +
              Math.sin(y * a) * Math.cos(z * a) +
              Math.sin(z * a) * Math.cos(x * a),
          ),
        )
  }
  expect(off).toBeLessThan(1e-6)
  expect(total / heights / ((97 * 83) / 4)).toBeCloseTo(1, 1)
})

test.each(['lines', 'grid', 'gyroid'] as const)(
  'infill as %s is fed the share of the inside it should be',
  (sparseKind) => {
    const s: PartSettings = {
      ...bare,
      sparseKind,
      sparseDensity: 25,
      topLayers: 0,
      bottomLayers: 0,
      wallCount: 1,
      firstWalls: 1,
    }
    const { plan } = laid(k, k.Manifold.cube([40, 34, 5]), s)
    const layers = plan.layers.slice(5, -5)
    const fed = layers.reduce(
      (sum, l) =>
        sum +
        l.strokes
          .filter((t) => t.kind === 'sparse')
          .reduce((v, t) => v + length(t) * beadArea(t.width, l.h), 0),
      0,
    )
    const inside = (40 - 2 * s.outerWidth) * (34 - 2 * s.outerWidth) * s.layerHeight * layers.length
    expect(fed / inside).toBeGreaterThan(0.22)
    // lines are joined along the edge
    expect(fed / inside).toBeLessThan(0.3)
  },
)

test('a single-wall spiral rises without a travel, is fed one wall of its outline, and is read back as one', () => {
  const s: PartSettings = { ...bare, spiral: true, minLayerTime: 0 }
  const { program, plan } = laid(k, k.Manifold.cylinder(20, 15, 15, 96), s)
  const r = readingOf(program, s)
  expect(r.spiral).toBe(true)
  const rising = plan.layers.slice(s.bottomLayers)
  expect(rising.every((l) => l.strokes.length === 1 && l.strokes[0].rises)).toBe(true)
  // 2πr of one line over the height, and the bottom
  const wall = 2 * Math.PI * (15 - s.outerWidth / 2) * beadArea(s.outerWidth, s.layerHeight) * rising.length
  const first = s.firstHeight + (s.bottomLayers - 1) * s.layerHeight
  expect(fedVolume(program, s.diameter) / (wall + Math.PI * 225 * first)).toBeCloseTo(1, 1)
  // two pillars have no one wall
  const pillars = k.Manifold.cube([8, 8, 9]).add(k.Manifold.cube([8, 8, 9]).translate([20, 0, 0]))
  expect(() => planPart(k, pillars, machine, s)).toThrow(PlanError)
})

test('walls of the first layer, widths of solid layers and of the top face, and speeds of overhangs by steepness act', () => {
  const s: PartSettings = {
    ...bare,
    firstWalls: 1,
    wallCount: 3,
    topWidth: 0.36,
    solidWidth: 0.52,
    minLayerTime: 0,
  }
  const { plan } = laid(k, k.Manifold.cube([20, 20, 6]), s)
  const of = (i: number, kind: string) => plan.layers.at(i)!.strokes.filter((t) => t.kind === kind)
  expect([of(0, 'inner').length, of(6, 'inner').length]).toEqual([0, 2])
  expect(of(-1, 'top')[0].width).toBe(0.36)
  expect(of(2, 'solid')[0].width).toBe(0.52)
  const cup = (degrees: number) => k.Manifold.cylinder(6, 6, 6 + 6 * Math.tan((degrees * Math.PI) / 180), 64)
  const steepness = (degrees: number) =>
    new Set(
      laid(k, cup(degrees), bare)
        .plan.layers.slice(4, -3)
        .flatMap((l) => l.strokes.filter((t) => t.kind === 'outer').map((t) => t.hangs)),
    )
  expect([...steepness(38)]).toEqual([undefined])
  expect([...steepness(52)]).toEqual([45])
  expect([...steepness(66)]).toEqual([60])
  const slow: PartSettings = {
    ...bare,
    outerSpeed: 60,
    overhangSpeed: 31,
    steepSpeed: 17,
    smallLoopLength: 0,
    minLayerTime: 0,
  }
  expect(laid(k, cup(52), slow).gcode).toContain(`F${31 * 60}`)
  expect(laid(k, cup(66), slow).gcode).toContain(`F${17 * 60}`)
})

describe('layouts', () => {
  const plate = () => k.Manifold.cube([30, 20, 4])
  test('a part stands on its flattest face unless it is told otherwise, is turned and scaled', () => {
    const upright = plate().rotate([90, 0, 0])
    expect(written(upright, bare).reading.build.size!.z).toBeCloseTo(4, 0)
    const size = written(upright, bare, { turn: 90, scale: 50 }).reading.build.size!
    expect(size.x).toBeCloseTo(10, 0)
    expect(size.y).toBeCloseTo(15, 0)
    const shrunk = { ...bare, scaleX: 102, scaleY: 102 }
    expect(written(plate(), shrunk).reading.build.size!.x).toBeCloseTo(30.6, 1)
    expect(written(plate(), shrunk, { withShrink: false }).reading.build.size!.x).toBeCloseTo(30, 1)
  })
  test('copies together and one after another: as many, apart, each whole; too tall for the head is refused', () => {
    const one = written(plate(), bare)
    const together = written(plate(), bare, { copies: 4 })
    expect(together.reading.objects).toHaveLength(4)
    expect(together.reading.layerCount).toBe(one.reading.layerCount)
    expect(fedVolume(together.program, bare.diameter) / fedVolume(one.program, bare.diameter)).toBeCloseTo(
      4,
      1,
    )
    const each = written(plate(), bare, { copies: 3, order: 'one-by-one' })
    expect(each.places).toHaveLength(3)
    expect(each.gcode.match(/^M104 S/gm)!.length).toBeGreaterThan(one.gcode.match(/^M104 S/gm)!.length)
    for (const [i, a] of each.places.entries())
      for (const b of each.places.slice(i + 1)) {
        const clear = Math.max(Math.abs(a.x - b.x) - 30, Math.abs(a.y - b.y) - 20)
        expect(clear).toBeGreaterThanOrEqual(HEAD.reach - 1e-6)
      }
    const refused = (layout: Partial<Layout>) => {
      try {
        written(k.Manifold.cube([20, 20, 40]), bare, {
          placement: [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0],
          ...layout,
        })
        return null
      } catch (error) {
        return (error as PlanError).code
      }
    }
    expect(refused({ copies: 2, order: 'one-by-one' })).toBe('too-tall-one-by-one')
    expect(refused({ copies: 64, scale: 200 })).toBe('no-room-for-copies')
    expect(refused({ scale: 900 })).toBe('part-too-tall')
  })
  test('a tab that was taken off stays off, also when the contour moves', () => {
    const s = { ...bare, cornerTabs: 10 }
    const tabs = (layout: Partial<Layout>, set: PartSettings = s) =>
      written(plate(), set, layout).plan.layers[0].strokes.filter((t) => t.kind === 'brim').length
    const all = written(plate(), s).plan
    expect(all.tabs).toHaveLength(4)
    const withoutTab = [all.tabs[0], all.tabs[1]]
    expect(tabs({ withoutTab })).toBe(tabs({}) / 2)
    expect(tabs({ withoutTab }, { ...s, contourOffset: -0.1 })).toBe(tabs({}) / 2)
  })
  test('what is too large is told the scale at which it fits', () => {
    const wide = k.Manifold.cube([400, 20, 4])
    const scale = fittingScale(wide, machine, bare)!
    expect(scale).toBeLessThan(100)
    expect(() => written(wide, bare, { scale })).not.toThrow()
    expect(() => written(wide, bare, { scale: scale * 1.01 })).toThrow(PlanError)
    expect(fittingScale(plate(), machine, bare)).toBeNull()
  })
})

test('the thinnest wall is found, to a fifth of a nozzle', () => {
  const fin = (width: number) =>
    k.Manifold.cube([20, 20, 8]).add(k.Manifold.cube([12, width, 8]).translate([20, 8, 0]))
  expect(smallestWall(fin(6), 0.4)).toBeNull()
  for (const width of [0.15, 0.3, 0.6]) {
    const found = smallestWall(fin(width), 0.4)!
    expect(found.width).toBeGreaterThanOrEqual(width)
    expect(found.width - width).toBeLessThanOrEqual(0.081)
  }
})

test('stiffness: solid is one, a hollow box its walls, between them the power of its density', () => {
  const cube = k.Manifold.cube([20, 20, 8])
  const of = (set: Partial<PartSettings>) => {
    const s = { ...bare, ...set }
    return stiffnessOf(laid(k, cube, s).plan, s, 3200)
  }
  expect(of({ sparseDensity: 100 }).relative).toBeCloseTo(1, 1)
  const hollow = of({ sparseDensity: 0 })
  expect(hollow.relative).toBeCloseTo(hollow.closed, 6)
  const half = of({ sparseDensity: 50 })
  expect(half.relative).toBeCloseTo(half.closed + (1 - half.closed) * 0.25, 6)
  expect(of({ sparseDensity: 50, sparseKind: 'gyroid' }).relative).toBeGreaterThan(half.relative)
})

test('pieces over each other: the air straight up between them, in whole layers', () => {
  const s = { ...bare, firstHeight: 0.2, layerHeight: 0.2 }
  const lid = (gap: number) =>
    k.Manifold.cube([20, 20, 4]).add(k.Manifold.cube([10, 10, 3]).translate([5, 5, 4 + gap]))
  const { count, gaps } = piecesOf(k, lid(0.6), s)
  expect([count, gaps.length]).toEqual([2, 1])
  expect(gaps[0].gap).toBeCloseTo(0.6, 6)
  expect(gaps[0].upright).toBe(true)
  expect(piecesOf(k, lid(4), s).gaps).toEqual([])
})
