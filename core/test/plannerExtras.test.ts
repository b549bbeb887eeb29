import { beadArea } from '../src/extrusion'
import { readGcode } from '../src/gcode'
import type { Kernel, Solid } from '../src/geometry'
import type { Machine } from '../src/machine'
import {
  PlanError,
  piecesOf,
  planPart,
  writePlan,
  type PartSettings,
  type UncarriedPlace,
} from '../src/planner'
import { NOT_LAID, SETTINGS, SETTING_KEYS, type SettingKey } from '../src/recipe'
import { readPath } from '../src/toolpath'
import { kernelReady } from './lib/kernel'
import { bare, fedVolume, laid, machine, readingOf, usual } from './lib/planned'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})

test('a raft: seen as one by the path reader, its uppermost lines across the part’s lowest, air between, the part slow and a little starved over it', () => {
  const s: PartSettings = { ...bare, raft: true, skirtLoops: 1, minLayerTime: 0, raftTopDensity: 100 }
  const { plan, program } = laid(k, k.Manifold.cube([24, 24, 6]), s)
  const r = readingOf(program, s)
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
  const { plan, gcode } = laid(k, cup, s)
  const hanging = plan.layers.slice(3).map((l) => l.strokes.some((t) => t.hangs))
  expect(hanging.filter(Boolean).length).toBeGreaterThan(hanging.length * 0.8)
  expect(gcode).toMatch(
    new RegExp(`^M106 S${machine.commands?.fan === 'fraction' ? '0.9' : Math.round(0.9 * 255)}`, 'm'),
  )
  const upright = laid(k, k.Manifold.cylinder(8, 9, 9, 64), s)
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
  const out = (s: PartSettings, m: Machine) => {
    try {
      return writePlan(planPart(k, solid, m, s), m, s, { title: 'x' })
    } catch (error) {
      if (error instanceof PlanError) return error.code
      throw error
    }
  }
  const grounds = [
    { s: { ...usual, ...set } as PartSettings, m: on },
    { s: { ...usual, ...set, supports: 'everywhere', supportGap: 0.3 } as PartSettings, m: on },
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
      const { plan, program } = laid(k, plate, { ...bare, firstWidth: bare.outerWidth, flowFirst: 100 })
      const [line, ...others] = plan.layers[5].strokes
      expect(others).toEqual([])
      expect(line.closed).toBe(false)
      expect(Math.abs(line.width / thick - 1)).toBeLessThan(0.1)
      // the sides of a bead are round: it holds less than its box
      const round = beadArea(thick, bare.layerHeight) / (thick * bare.layerHeight)
      expect(Math.abs(fedVolume(program, bare.diameter) / plate.volume() / round - 1)).toBeLessThan(0.08)
    }
    const tube = k.Manifold.cylinder(4, 8, 8, 90).subtract(k.Manifold.cylinder(4, 7.65, 7.65, 90))
    const { plan } = laid(k, tube, bare)
    const [loop, ...others] = plan.layers[5].strokes
    expect([others.length, loop.closed]).toEqual([0, true])
    expect(Math.abs(loop.width / 0.35 - 1)).toBeLessThan(0.1)
  })
  test('a fin on a block gets its line, the block its walls; what no nozzle can lay is left out', () => {
    const block = k.Manifold.cube([20, 20, 3])
    const fin = block.add(k.Manifold.cube([10, 0.4, 3]).translate([20, 10, 0]))
    const { plan } = laid(k, fin, bare)
    const thin = plan.layers[4].strokes.filter((t) => t.kind === 'outer' && !t.closed)
    expect(thin).toHaveLength(1)
    const xs = thin[0].points.map(([x]) => x)
    expect(Math.max(...xs) - Math.min(...xs)).toBeGreaterThan(8.5)
    const hair = block.add(k.Manifold.cube([10, 0.05, 3]).translate([20, 10, 0]))
    expect(laid(k, hair, bare).plan.layers[4].strokes.every((t) => t.kind !== 'outer' || t.closed)).toBe(true)
  })
})

describe('supports', () => {
  // a plate on one leg, and a shelf over a foot
  const leg = () => k.Manifold.cube([8, 20, 12]).add(k.Manifold.cube([40, 20, 2]).translate([0, 0, 12]))
  const shelf = () => leg().add(k.Manifold.cube([20, 20, 3]).translate([20, 0, 0]))
  const carried: PartSettings = { ...bare, supports: 'everywhere', supportAngle: 55, supportDensity: 20 }
  const carriedIn = (solid: Solid, set: Partial<PartSettings> = {}, uncarried: UncarriedPlace[] = []) =>
    planPart(k, solid, machine, { ...carried, ...set }, { uncarried }).layers.map((l) => ({
      z: l.z,
      strokes: l.strokes.filter((t) => t.kind === 'support'),
    }))
  test('what hangs is carried from the bed up, with air under it and beside; what stands is not', () => {
    const layers = carriedIn(leg(), { supportGap: 0.4 })
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
    const bed = length(carriedIn(shelf(), { supports: 'bed' }))
    expect(bed).toBeLessThan(all)
    expect(bed).toBeGreaterThan(0)
    expect(length(carriedIn(leg(), {}, [{ x: 0, y: 0, radius: 80 }]))).toBe(0)
  })
  test('the path reader sees them as supports, and the gap moves them', () => {
    const s: PartSettings = { ...carried, minLayerTime: 0, supports: 'bed' }
    const plan = planPart(k, leg(), machine, s)
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
        carriedIn(leg(), { supportGap: gap })
          .filter((l) => l.strokes.length)
          .at(-1)!.z,
    )
    expect(tops[0] - tops[1]).toBeCloseTo(0.4, 6)
  })
})
