import { randomStream } from '../src/statistics'
import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import {
  Feature,
  analysePath,
  circular,
  compareReadings,
  correlate,
  layerPlan,
  readPath,
  type PathReading,
} from '../src/toolpath'
import { FINDING_KINDS, findingContext, findingsOf, markEvidence, type FindingKind } from '../src/diagnosis'
import { GcodeError, MoveKind, readGcode, type Program } from '../src/gcode'
import { beadArea, filamentArea } from '../src/extrusion'
import { deriveRecipe, printSettingsOf, type Changes } from '../src/recipe'
import { comparedLabel, say } from '../src/words'
import { diagnose, hand, type Told } from './lib/diagnose'
import { tries } from './lib/property'
import { planMotion } from '../src/motion'
import { writePart, type PartOptions } from '../src/planner'
import type { Filament } from '../src/material'
import type { Machine } from '../src/machine'

const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const { shed, greenhouse } = DEMO_MACHINES
const rolls = demoFilaments('2026-01-01')
const contextOf = (machine: Machine, diameter = 1.75) => ({
  filamentDiameter: diameter,
  density: 1.24,
  nozzleDiameter: machine.nozzle.diameter,
  limits: machine.limits,
})
const read = (text: string, machine = shed, diameter = 1.75) =>
  readPath(readGcode(bytes(text)), contextOf(machine, diameter))
const part = (o: PartOptions, pins: Changes = {}, filament: Filament = rolls.terracotta, machine = shed) => {
  const recipe = deriveRecipe({ machine, filament, pins: hand(pins) })
  return { recipe, text: writePart(machine, printSettingsOf(recipe), o) }
}
const found = (r: PathReading, filament: Filament = rolls.terracotta, machine = shed, pins = {}) =>
  findingsOf(
    r,
    findingContext({ machine, filament, recipe: deriveRecipe({ machine, filament, pins: hand(pins) }) }),
  ).map((f) => f.kind)

const BLOCK: PartOptions = { shape: 'box', width: 30, depth: 20, height: 3, bore: 8 }

describe('what our generator writes is read back', () => {
  const { recipe, text } = part(BLOCK)
  const r = read(text)
  test('layers, first layer, speeds, heats, fan', () => {
    expect(r.layerCount).toBe(15)
    expect(r.layerHeight).toBeCloseTo(Number(recipe.layerHeight.value), 3)
    expect(r.firstLayer).toMatchObject({
      height: recipe.firstHeight.value,
      speed: recipe.firstSpeed.value,
      nozzle: recipe.nozzleFirst.value,
      bed: recipe.bedFirst.value,
      fan: 0,
      islands: 1,
    })
    expect(r.firstLayer!.flow).toBeCloseTo(100, -0.5)
    expect(r.rest.outerSpeed).toBeGreaterThan(0.93 * Number(recipe.outerSpeed.value))
    expect(r.features[Feature.Inner].asked).toBeGreaterThan(r.features[Feature.Outer].asked)
    expect(r.fanFromLayer).toBe(Number(recipe.fanOffLayers.value) + 1)
    expect(r.retraction.length).toBeCloseTo(Number(recipe.retractLength.value), 2)
    expect(r.seam.wipe).toBeCloseTo(Number(recipe.wipe.value), 1)
  })
  test('lengths by feature agree with plain geometry of the drawn part', () => {
    const w = Number(recipe.outerWidth.value)
    const layers = r.layerCount - 1
    // outer wall: the rectangle half a bead inside, and the bore half a bead outside (96 sides)
    const outline = 2 * (30 - w + (20 - w))
    const bore = 96 * 2 * ((8 + w) / 2) * Math.sin(Math.PI / 96)
    const first = Number(recipe.firstWidth.value)
    const base = 2 * (30 - first + (20 - first)) + 96 * 2 * ((8 + first) / 2) * Math.sin(Math.PI / 96)
    expect(r.features[Feature.Outer].length).toBeCloseTo(layers * (outline + bore) + base, -1)
    expect(r.features[Feature.Outer].width).toBeCloseTo(w, 2)
    expect(r.features[Feature.Infill].length).toBeGreaterThan(100)
    expect(r.features[Feature.Skirt].length).toBeGreaterThan(100)
    expect(r.features[Feature.Bridge].length).toBe(0)
  })
  test('filament is the sum of beads, within what five decimals leave', () => {
    const program = readGcode(bytes(text))
    let fed = 0
    for (let i = 0; i < program.count; i++) if (program.kind[i] === MoveKind.Extrude) fed += program.e[i]
    expect(r.filament.length).toBeCloseTo(fed, 0)
    const volume = r.features.reduce((v, f) => v + f.fed, 0) * filamentArea(1.75)
    expect(volume).toBeCloseTo(fed * filamentArea(1.75), -1)
  })
  test.each([
    [
      'outside first, scattered seam, early stop',
      { wallOrder: 'outside-first', seamPlace: 'scattered', earlyStop: 0.05, wipe: 0 },
    ],
    ['brim', { brimLines: 6 }],
    ['no retraction', { retract: false }],
    ['z-lift', { zLift: 0.4 }],
  ])('%s', (name, pins) => {
    const made = part(BLOCK, pins as Changes)
    const q = read(made.text)
    if (name === 'brim') {
      expect(q.base).toMatchObject({ brim: true, skirt: false })
      expect(q.firstLayer!.contact).toBeCloseTo(r.firstLayer!.contact, -1.5)
    }
    if (name === 'no retraction') expect(q.retraction.kind).toBe('none')
    if (name === 'z-lift') expect(q.retraction.zLift).toBeCloseTo(0.4, 2)
    if (name.startsWith('outside')) {
      expect(q.seam.objects[0].resultantLength).toBeLessThan(0.5)
      // 0.05 mm³ less in a bead of this section
      const w = Number(made.recipe.outerWidth.value)
      expect(q.seam.early).toBeCloseTo(0.05 / beadArea(w, Number(made.recipe.layerHeight.value)), 1)
    }
  })
})

test('any simple part on any machine: nothing outside, heights and outlines as drawn, feed in balance', () => {
  fc.assert(
    fc.property(
      fc.constantFrom<'box' | 'round'>('box', 'round'),
      fc.integer({ min: 14, max: 30 }),
      fc.integer({ min: 1, max: 3 }),
      fc.constantFrom(0, 5),
      fc.integer({ min: 1, max: 3 }),
      fc.boolean(),
      fc.constantFrom(0.3, 0.4, 0.6),
      fc.constantFrom<'rectangle' | 'round'>('rectangle', 'round'),
      fc.boolean(),
      (shape, width, height, bore, copies, oneByOne, nozzle, bed, tube) => {
        const base = tube ? shed : greenhouse
        const machine: Machine = {
          ...base,
          nozzle: { ...base.nozzle, diameter: nozzle },
          bed: { ...base.bed, shape: bed, width: 240, depth: 240 },
        }
        const { recipe, text } = part(
          { shape, width, height, bore, copies, oneByOne },
          {},
          rolls.terracotta,
          machine,
        )
        const program = readGcode(bytes(text))
        const r = readPath(program, contextOf(machine))
        expect(program.faultCount).toBe(0)
        expect(r.objects.length).toBe(copies)
        expect(r.height).toBeCloseTo(
          Number(recipe.firstHeight.value) + (r.layerCount - 1) * Number(recipe.layerHeight.value),
          2,
        )
        const outer = Number(recipe.outerWidth.value)
        for (const o of r.objects) expect(o.maxX - o.minX).toBeCloseTo(width - outer, 0)
        for (let i = 0; i < program.count; i++) {
          const inside =
            bed === 'round'
              ? Math.hypot(program.x[i], program.y[i]) <= 120.01
              : program.x[i] >= -0.01 &&
                program.x[i] <= 240.01 &&
                program.y[i] >= -0.01 &&
                program.y[i] <= 240.01
          if (!inside) throw new Error(`move ${i} leaves the bed`)
          if (program.speed[i] > machine.limits.speed + 0.1 && program.kind[i] !== MoveKind.Dwell)
            throw new Error(`move ${i} is too fast`)
        }
        // pull-backs and restarts cancel out but for the last one
        let pulled = 0
        for (let i = 0; i < program.count; i++)
          if (program.kind[i] === MoveKind.Retract || program.kind[i] === MoveKind.Feed)
            pulled += program.e[i]
        const last = recipe.retract.value === true ? Number(recipe.retractLength.value) : 0
        expect(pulled + last).toBeCloseTo(0, 2)
      },
    ),
    tries(10),
  )
})

describe('time', () => {
  /** Steps through the profile of every move: an implementation that shares nothing with the planner. */
  function bruteForce(program: Program, machine: Machine): number {
    const { limits } = machine
    const pieces: { d: number; v: number; a: number; u: number[] }[][] = [[]]
    let still = 0
    for (let i = 0; i < program.count; i++) {
      const k = program.kind[i]
      const from = i ? [program.x[i - 1], program.y[i - 1], program.z[i - 1]] : [0, 0, 0]
      const to = [program.x[i], program.y[i], program.z[i]]
      const delta = to.map((t, j) => t - from[j])
      const d = Math.hypot(...delta)
      if (d === 0 || k === MoveKind.Jump) {
        if (pieces.at(-1)!.length) pieces.push([])
        if (k === MoveKind.Dwell) still += program.speed[i]
        else if (program.e[i] !== 0) {
          const v = program.speed[i] || 35
          const way = Math.abs(program.e[i])
          still += way > (v * v) / 1000 ? way / v + v / 1000 : 2 * Math.sqrt(way / 1000)
        }
        continue
      }
      const travel = k === MoveKind.Travel
      const s = program.states[program.state[i]]
      const most = travel ? limits.travelAcceleration : limits.acceleration
      const a = Math.min(most, (travel ? s.travelAcceleration : s.printAcceleration) ?? most)
      let v = Math.min(limits.speed, program.speed[i])
      if (delta[2]) v = Math.min(v, (limits.zSpeed * d) / Math.abs(delta[2]))
      pieces.at(-1)!.push({ d, v, a, u: delta.map((q) => q / d) })
    }
    let time = still
    for (const chain of pieces) {
      const n = chain.length
      if (!n) continue
      const joint = new Array<number>(n + 1).fill(0)
      for (let i = 1; i < n; i++) {
        const step = Math.max(...chain[i].u.map((q, j) => Math.abs(q - chain[i - 1].u[j])))
        const corner =
          limits.corner.kind === 'instant-change' ? limits.corner.limit / Math.max(1e-12, step) : 0
        joint[i] = Math.min(corner, chain[i].v, chain[i - 1].v)
      }
      for (let round = 0; round < 2 * n; round++) {
        let moved = false
        for (let i = 0; i < n; i++) {
          const c = chain[i]
          const up = Math.sqrt(joint[i] ** 2 + 2 * c.a * c.d)
          if (joint[i + 1] > up + 1e-9) {
            joint[i + 1] = up
            moved = true
          }
          const down = Math.sqrt(joint[i + 1] ** 2 + 2 * c.a * c.d)
          if (joint[i] > down + 1e-9) {
            joint[i] = down
            moved = true
          }
        }
        if (!moved) break
      }
      chain.forEach((c, i) => {
        const steps = 400
        for (let q = 0; q < steps; q++) {
          const s = ((q + 0.5) / steps) * c.d
          const v = Math.min(
            c.v,
            Math.sqrt(joint[i] ** 2 + 2 * c.a * s),
            Math.sqrt(joint[i + 1] ** 2 + 2 * c.a * (c.d - s)),
          )
          time += c.d / steps / v
        }
      })
    }
    return time
  }
  test('agrees with brute-force integration of every move within 0.5 %', () => {
    const { text } = part({ shape: 'round', width: 16, height: 1.2, sides: 48 })
    const program = readGcode(bytes(text))
    const planned = planMotion(program, shed.limits).total
    expect(Math.abs(planned / bruteForce(program, shed) - 1)).toBeLessThan(0.005)
  })
})

describe('files of every kind, by hand', () => {
  const square = (x: number, y: number, a: number, e = 1) =>
    [
      [x + a, y],
      [x + a, y + a],
      [x, y + a],
      [x, y],
    ].map(([px, py]) => `G1 X${px} Y${py} E${e} F1800`)
  const head = ['M83', 'G90']
  test('two objects one after another share their layers', () => {
    const body = (x: number) =>
      [0.2, 0.4, 0.6].flatMap((z) => [`G0 X${x} Y10 Z${z} F6000`, ...square(x, 10, 20)])
    const r = read([...head, ...body(10), 'G0 Z10', ...body(60)].join('\n'))
    expect(r.layerCount).toBe(3)
    expect(r.objects).toHaveLength(2)
    expect(r.layers.spans[1]).toEqual([
      [10, 30],
      [60, 80],
    ])
  })
  test('a continuous spiral is one climbing wall', () => {
    const turns = Array.from({ length: 20 * 24 }, (_, k) => {
      const a = (2 * Math.PI * (k + 1)) / 24
      return `G1 X${(50 + 10 * Math.cos(a)).toFixed(4)} Y${(50 + 10 * Math.sin(a)).toFixed(4)} Z${(0.2 + ((k + 1) / 24) * 0.2).toFixed(4)} E0.09 F1800`
    })
    const base = Array.from({ length: 24 }, (_, k) => {
      const a = (2 * Math.PI * (k + 1)) / 24
      return `G1 X${(50 + 10 * Math.cos(a)).toFixed(4)} Y${(50 + 10 * Math.sin(a)).toFixed(4)} E0.09 F1800`
    })
    const r = read([...head, 'G0 X60 Y50 Z0.2', ...base, ...turns].join('\n'))
    expect(r.spiral).toBe(true)
    expect(r.layerCount).toBe(21)
    expect(r.height).toBeCloseTo(4.2, 2)
  })
  test('variable layer height, negative coordinates, a round bed, 2.85 mm filament', () => {
    const zs = [0.3, 0.5, 0.6, 0.7, 1.0]
    const text = [...head, ...zs.flatMap((z) => [`G0 X-10 Y-10 Z${z} F6000`, ...square(-10, -10, 20)])].join(
      '\n',
    )
    const r = read(text, shed, 2.85)
    expect(r.layers.height).toEqual([0.3, 0.2, 0.1, 0.1, 0.3])
    expect(r.box).toMatchObject({ minX: -10, maxX: 10, minY: -10 })
    expect(r.filament.mass).toBeCloseTo((20 * filamentArea(2.85) * 1.24) / 1000, 2)
  })
  test('a purge line high above the bed, tool words, pauses and dwells', () => {
    const text = [
      ...head,
      'T0',
      'G0 X0 Y0 Z2',
      'G1 X60 E6 F900',
      'G0 X10 Y10 Z0.2 F6000',
      ...square(10, 10, 20),
      'G0 Z0.4',
      ...square(10, 10, 20),
      'G4 P2500',
      'M0',
      'G0 Z0.6',
      ...square(10, 10, 20),
      'T1',
    ].join('\n')
    const r = read(text)
    expect(r.primed).toBe(true)
    expect(r.layerCount).toBe(3)
    expect(r.style.pauses).toBe(1)
    expect(r.stops[0]).toMatchObject({ layer: 1, seconds: 2.5 })
    expect(r.style.tools).toBe(2)
  })
  test('a raft: thick wide lines, then finer ones across, then the part', () => {
    const lines = (z: number, step: number, e: number, along: 'x' | 'y') =>
      Array.from({ length: Math.floor(40 / step) + 1 }, (_, k) => {
        const v = 5 + k * step
        const [a, b] = k % 2 ? [45, 5] : [5, 45]
        const at = (t: number) => (along === 'x' ? `X${t} Y${v}` : `X${v} Y${t}`)
        return [`${k ? 'G1' : 'G0'} ${at(a)}${k ? ' E0.1' : ''} Z${z} F1800`, `G1 ${at(b)} E${e} F900`]
      }).flat()
    const text = [
      ...head,
      ...lines(0.3, 2, 6, 'x'),
      ...lines(0.5, 0.45, 1.3, 'y'),
      ...[0.75, 0.95, 1.15].flatMap((z) => [`G0 X15 Y15 Z${z} F6000`, ...square(15, 15, 20)]),
    ].join('\n')
    const r = read(text)
    expect(r.base.raftLayers).toBe(2)
    expect(r.firstLayer!.layer).toBe(2)
    expect(r.features[Feature.Raft].length).toBeGreaterThan(1000)
    expect(found(r)).toContain('raft-there')
  })
  test('a bridge over a gap is told from fill that rests on something', () => {
    const wall = (x: number, z: number) => [
      `G0 X${x} Y10 Z${z} F6000`,
      ...[
        [x + 3, 10],
        [x + 3, 30],
        [x, 30],
        [x, 10],
      ].map(([p, q]) => `G1 X${p} Y${q} E0.3 F1800`),
    ]
    const roof = (z: number) => [
      `G0 X10 Y10 Z${z} F6000`,
      ...[
        [40, 10],
        [40, 30],
        [10, 30],
        [10, 10],
      ].map(([p, q]) => `G1 X${p} Y${q} E0.8 F1800`),
      ...Array.from({ length: 44 }, (_, k) => [
        `${k ? 'G1' : 'G0'} X${k % 2 ? 39.6 : 10.4} Y${(10.4 + k * 0.44).toFixed(2)}${k ? ' E0.02' : ''}`,
        `G1 X${k % 2 ? 10.4 : 39.6} Y${(10.4 + k * 0.44).toFixed(2)} E1`,
      ]).flat(),
    ]
    const text = [
      ...head,
      ...[0.2, 0.4, 0.6, 0.8].flatMap((z) => [...wall(10, z), ...wall(37, z)]),
      ...roof(1.0),
      ...roof(1.2),
    ].join('\n')
    const r = read(text)
    expect(r.features[Feature.Bridge].length).toBeGreaterThan(1000)
    expect(r.features[Feature.Solid].length).toBeGreaterThan(1000)
    expect(r.layers.supported[4]).toBeLessThan(40)
    expect(r.layers.supported[5]).toBeGreaterThan(95)
  })
  test('walls of a tube: outer face, inner walls, bore; a part inside a draught wall is a part, not a hole', () => {
    const r = read(part({ shape: 'round', width: 30, height: 3, bore: 12 }, { wallCount: 3 }).text)
    const a = analysePath(
      readGcode(bytes(part({ shape: 'round', width: 30, height: 3, bore: 12 }, { wallCount: 3 }).text)),
      contextOf(shed),
    )
    const on = a.stretches.filter((s) => s.layer === 5 && s.closed)
    expect(on.filter((s) => s.feature === Feature.Outer)).toHaveLength(2)
    expect(on.filter((s) => s.feature === Feature.Inner)).toHaveLength(4)
    expect(r.seam.starts.some((s) => s.hole)).toBe(true)
    const shell = [0.2, 0.4, 0.6].flatMap((z) => [
      `G0 X5 Y5 Z${z} F6000`,
      ...square(5, 5, 50),
      `G0 X20 Y20`,
      ...square(20, 20, 15),
    ])
    const inside = read([...head, ...shell].join('\n'))
    expect(inside.objects.length).toBe(1)
    expect(inside.seam.starts.every((s) => !s.hole)).toBe(true)
  })
  test('the same filament pulled back again and again is counted', () => {
    const hops = Array.from({ length: 12 }, (_, k) => [
      'G1 E-4 F2400',
      `G0 X${40 + k} Y60`,
      'G1 E4 F2400',
      `G1 X${40.2 + k} Y60 E0.01`,
    ]).flat()
    const text = [
      ...head,
      'G0 X10 Y10 Z0.2 F6000',
      ...square(10, 10, 20),
      'G0 Z0.4',
      ...square(10, 10, 20),
      ...hops,
    ].join('\n')
    const r = read(text)
    expect(r.ledger.worst!.passes).toBe(12)
    expect(r.ledger.byPasses.reduce((a, b) => a + b, 0)).toBeCloseTo(r.filament.length, 0)
    expect(found(r)).toContain('over-pulled')
  })
})

describe('first layer', () => {
  test('coverage: an exact fill has hardly a gap; half the lines leave half of it open; double feed overlaps', () => {
    const gaps = (pins: Record<string, number>) =>
      read(part({ shape: 'box', width: 30, height: 2 }, pins).text).firstLayer!
    const exact = gaps({})
    expect(exact.gaps).toBeLessThan(1)
    expect(exact.overlaps).toBeLessThan(3)
    expect(exact.contact).toBeCloseTo(900, -1.5)
    expect(gaps({ flowFirst: 130 }).overlaps).toBeGreaterThan(10)
    expect(gaps({ flowFirst: 75 }).gaps).toBeGreaterThan(8)
  })
  test('islands are counted', () => {
    expect(
      read(part({ shape: 'round', width: 8, height: 2, copies: 6, apart: 4 }).text).firstLayer!.islands,
    ).toBe(6)
  })
})

describe('findings', () => {
  const cases: [FindingKind, PartOptions, Record<string, number | boolean | string>][] = [
    ['first-fast', BLOCK, { firstSpeed: 70 }],
    ['first-overfed', BLOCK, { flowFirst: 125 }],
    ['first-underfed', BLOCK, { flowFirst: 85 }],
    ['first-wide', BLOCK, { firstWidth: 0.78 }],
    ['first-narrow', BLOCK, { firstWidth: 0.36 }],
    ['first-thin', BLOCK, { firstHeight: 0.1 }],
    ['fan-early', BLOCK, { fanOffLayers: 0 }],
    ['no-priming', BLOCK, { skirtLoops: 0 }],
    ['contact-tiny', { shape: 'round', width: 7, height: 30 }, {}],
    ['islands-quick', { shape: 'round', width: 8, height: 3, copies: 6, apart: 4 }, {}],
    [
      'slow-down-swings',
      { shape: 'box', width: 30, height: 20, steps: [{ from: 12, inset: 9 }], slowDown: true },
      { minLayerTime: 30, speedFloor: 8 },
    ],
    ['layers-too-quick', { shape: 'round', width: 6, height: 6 }, { outerSpeed: 60 }],
    ['over-melt-cap', BLOCK, { innerSpeed: 180 }],
    ['open-air-drag', { ...BLOCK, copies: 2 }, { retract: false }],
    ['travel-slow', { ...BLOCK, copies: 2 }, { travelSpeed: 60 }],
    ['seam-stacked', { shape: 'round', width: 20, height: 5 }, { seamPlace: 'stacked' }],
    ['seam-scattered', { shape: 'round', width: 20, height: 5 }, { seamPlace: 'scattered' }],
    ['ends-untreated', BLOCK, { wipe: 0 }],
    ['early-stop-long', { ...BLOCK, bore: 0 }, { earlyStop: 0.2, wipe: 0 }],
    ['restart-off', { ...BLOCK, copies: 2 }, { restartExtra: 0.2 }],
    ['stops-over-part', { ...BLOCK, stops: [{ layer: 10, seconds: 4 }] }, {}],
    ['off-full-step', BLOCK, { layerHeight: 0.17 }],
    ['outer-fastest', BLOCK, { outerSpeed: 70, innerSpeed: 40 }],
    ['outer-over-card', { shape: 'box', width: 60, height: 2 }, { outerSpeed: 120 }],
    ['speeds-apart', BLOCK, { sparseSpeed: 120, outerSpeed: 25 }],
    ['unreachable', { shape: 'round', width: 6, height: 3 }, { outerSpeed: 170 }],
    ['walls-thin', BLOCK, { outerWidth: 0.32 }],
    ['outer-fed-off', BLOCK, { flowOuter: 118 }],
  ]
  const plain = found(read(part(BLOCK).text))
  test.each(cases)('%s is found where it is, and not in the plain part', (kind, o, pins) => {
    if (kind !== 'seam-stacked') expect(plain).not.toContain(kind)
    expect(
      found(read(part(o, pins).text), rolls.terracotta, shed, kind === 'over-melt-cap' ? {} : pins),
    ).toContain(kind)
  })
  test('there are at least thirty kinds, and each raises or clears only suspects that exist (types see to it)', () => {
    expect(Object.keys(FINDING_KINDS).length).toBeGreaterThanOrEqual(30)
  })
  test('more filament than is on the roll: says at which height it runs out', () => {
    const r = read(part({ ...BLOCK, height: 6 }).text)
    const filament = { ...rolls.terracotta, weightLeft: r.filament.mass / 2 }
    const f = findingsOf(
      r,
      findingContext({ machine: shed, filament, recipe: deriveRecipe({ machine: shed, filament }) }),
    )
    const out = f.find((x) => x.kind === 'more-than-roll')!
    expect(out.from).toBeGreaterThan(1.5)
    expect(out.from).toBeLessThan(4.5)
  })
})

describe('marked heights', () => {
  const { text } = part(
    { shape: 'box', width: 30, height: 20, steps: [{ from: 12, inset: 9 }], slowDown: true },
    { minLayerTime: 30, speedFloor: 8 },
  )
  const r = read(text)
  test('lead to the quantity that changes there, in words', () => {
    const [first] = correlate(r.layers, [{ from: 12.2, to: 19 }])
    expect(first.id).toBe('outerAsked')
    expect(say(first.reason)).toMatch(
      /^Outer walls drop from \d+ to \d+\u2009mm\/s between 11\.8 and 19\.2\u2009mm: the layer time limit slows them\.$/,
    )
    expect(first.p).toBeLessThan(0.1)
    const evidence = markEvidence(first)
    expect(evidence[0]).toMatchObject({ suspect: 'speed-swings' })
    const chance = (marks: Told['marks']) =>
      diagnose({
        machine: shed,
        filament: rolls.terracotta,
        recipe: deriveRecipe({ machine: shed, filament: rolls.terracotta }),
        signs: { 'bands-irregular': 'present' },
        reading: r,
        marks,
        today: '2026-01-01',
      }).balance.suspects.find((x) => x.id === 'speed-swings')!.decibans
    const mark = { ...first, fileId: 'file', quantity: first.id, heightRanges: [{ from: 12.2, to: 19 }] }
    expect(chance([mark])).toBeCloseTo(chance([])! + evidence[0].decibans, 6)
    // a mark made on another print says nothing of this one
    expect(chance([{ ...mark, fileId: 'earlier' }])).toBe(chance([]))
  })
  test('nothing or everything marked says nothing; chance marks do not stand out', () => {
    expect(correlate(r.layers, [])).toEqual([])
    expect(correlate(r.layers, [{ from: 0, to: 99 }])).toEqual([])
    // a quantity of pure noise: p is spread evenly (permutation test), so few are small
    const noise = fc.sample(
      fc.array(fc.double({ min: 0, max: 1, noNaN: true }), { minLength: 80, maxLength: 80 }),
      tries(60),
    )
    const small = noise.filter((v) => {
      const layers = { ...r.layers }
      for (const k of Object.keys(layers) as (keyof typeof layers)[])
        (layers as Record<string, unknown>)[k] = new Array(80).fill(1)
      layers.z = v.map((_, i) => (i + 1) * 0.2)
      layers.height = v.map(() => 0.2)
      layers.fan = v
      return correlate(layers, [{ from: 4, to: 8 }])[0]?.p <= 0.1
    }).length
    expect(small).toBeLessThan(15)
  })
  test.each([
    ['unrelated to each other', false],
    ['that drift over the height', true],
  ])('ten quantities %s: one of them matches by accident in one of twenty', (_, drifts) => {
    const keys = [
      'seconds',
      'outerAsked',
      'meltPeak',
      'fan',
      'nozzle',
      'bed',
      'width',
      'retractions',
      'stop',
      'supported',
    ] as const
    const random = randomStream(drifts ? 5 : 4)
    const runs = 120
    let small = 0
    for (let k = 0; k < runs; k++) {
      const layers = { ...r.layers }
      for (const key of Object.keys(layers) as (keyof typeof layers)[])
        (layers as Record<string, unknown>)[key] = new Array(100).fill(1)
      layers.z = Array.from({ length: 100 }, (__, i) => (i + 1) * 0.2)
      layers.height = layers.z.map(() => 0.2)
      // smooth, as quantities are: each is a walk that is drawn back
      for (const key of keys) {
        let at = 0
        ;(layers as Record<string, unknown>)[key] = layers.z.map((z) => {
          at = 0.6 * at + random() - 0.5
          return 50 + at + (drifts ? 0.3 * z : 0)
        })
      }
      const from = 1 + 12 * random()
      small += Number(Math.min(1, ...correlate(layers, [{ from, to: from + 3 }]).map((c) => c.p)) <= 0.05)
    }
    expect(small / runs).toBeLessThanOrEqual(0.09)
  })
})

test('circular statistics: one direction, even spread, and a worked example', () => {
  expect(circular([90, 90, 90]).resultantLength).toBeCloseTo(1, 12)
  expect(circular([0, 90, 180, 270]).resultantLength).toBeCloseTo(0, 12)
  // by hand: angles 0 and 90 → C = S = 1, R̄ = √2/2, direction 45°
  expect(circular([0, 90])).toMatchObject({
    resultantLength: expect.closeTo(Math.SQRT1_2, 12),
    direction: expect.closeTo(45, 9),
  })
  expect(circular(Array.from({ length: 50 }, (_, i) => i * 7.2)).p).toBeGreaterThan(0.5)
  expect(circular(new Array(20).fill(12)).p).toBeLessThan(1e-6)
})

test('two files: the change that was meant, nothing else, and what it cost', () => {
  const a = read(part(BLOCK).text)
  const b = read(part(BLOCK, { outerSpeed: 25 }).text)
  const c = compareReadings(a, b)
  const labels = c.differences.map((d) => comparedLabel(d.id, d.feature))
  expect(labels).toContain('Speed, outer wall')
  expect(labels).not.toContain('Nozzle')
  expect(labels).not.toContain('Retraction length')
  expect(c.secondsB).toBeGreaterThan(c.secondsA)
  expect(c.massB).toBeCloseTo(c.massA, 1)
  for (const [sum, of] of [
    [c.heights.secondsA, a.layers.seconds],
    [c.heights.fedB, b.layers.fed],
  ] as const)
    expect(sum.reduce((x, y) => x + y, 0)).toBeCloseTo(
      of.reduce((x, y) => x + y, 0),
      0,
    )
  expect(compareReadings(a, a).differences).toEqual([])
})

test('a layer plan holds the lines of its layer at their true width', () => {
  const { recipe, text } = part(BLOCK)
  const a = analysePath(readGcode(bytes(text)), contextOf(shed))
  const plan = layerPlan(a, 10)
  expect(plan.z).toBeCloseTo(Number(recipe.firstHeight.value) + 10 * Number(recipe.layerHeight.value), 2)
  const widths = Array.from({ length: plan.lines.length / 7 }, (_, i) => plan.lines[i * 7 + 4])
  expect(Math.max(...widths)).toBeLessThan(0.47)
  expect(plan.starts.length / 5).toBe(2)
})

test('mutated files: read or refused in a sentence, in bounded time, with finite figures', () => {
  const source = part({ shape: 'box', width: 16, height: 1.4, bore: 5, copies: 2 }).text
  const some = source.slice(0, 9000)
  const pieces = [
    'G1 X',
    'E-999',
    'Z',
    '\n',
    ';',
    'G2 I5',
    'G92 E0',
    'G91',
    'M83',
    'G20',
    '1e9',
    'NaN',
    '(',
    'G10',
    'G11',
    'G28 Z',
    'F0',
    'M106 S',
    '\u00e9',
    ' G1 X0 Y0 Z0 E5 ',
  ]
  fc.assert(
    fc.property(
      fc.array(fc.tuple(fc.nat(some.length - 1), fc.nat(40), fc.constantFrom(...pieces), fc.nat(2000)), {
        maxLength: 12,
      }),
      (edits) => {
        let text = some
        for (const [at, cut, put, n] of edits)
          text = text.slice(0, at) + put + (n % 3 ? '' : n) + text.slice(at + cut)
        try {
          const r = read(text)
          expect(JSON.stringify(r)).not.toMatch(/null,"seconds"|NaN|Infinity/)
          expect(Number.isFinite(r.seconds) && Number.isFinite(r.filament.mass)).toBe(true)
          expect(r.moves).toBeLessThan(text.length * 3600)
          found(r)
        } catch (e) {
          if (!(e instanceof GcodeError)) throw e
        }
      },
    ),
    tries(Number(process.env.FUZZ ?? 100)),
  )
}, 3_600_000)
