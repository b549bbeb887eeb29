import fc from 'fast-check'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { MoveKind, readGcode, type Program } from '../src/gcode'
import {
  FIRST_LOOK,
  JOINT_SHAPES,
  PIECES,
  PIECE_IDS,
  PieceError,
  makePiece,
  pieceCosts,
  planFault,
  planOfExtent,
  proposeSteps,
  stepValues,
  type Cell,
  type Piece,
  type PieceId,
  type PiecePlan,
} from '../src/trials'
import { beadArea, filamentArea } from '../src/extrusion'
import { deriveRecipe, type RecipeValues } from '../src/recipe'
import { readPath } from '../src/toolpath'
import { say, variedLabel } from '../src/words'
import { hand } from './lib/diagnose'
import { tries } from './lib/property'
import { fullStep, type Machine } from '../src/machine'
import type { Filament } from '../src/material'

const rolls = demoFilaments('2026-01-01')
const planOf = (
  pair: Parameters<typeof proposeSteps>[0],
  piece: PieceId,
  key?: (typeof PIECES)[PieceId]['keys'][number],
): PiecePlan => {
  const { steps, across } = proposeSteps(pair, piece, key)
  // every kind of joint at once
  const joints = piece === 'joint-ladder' ? { joints: [...JOINT_SHAPES] } : {}
  return { piece, steps, ...(across && { across }), ...joints }
}

/** A pair of any kind: nozzles from 0.25 to 0.8, layers from a quarter to three quarters of them, round and long beds. */
const anyPair = fc.record({
  base: fc.constantFrom('shed', 'greenhouse') as fc.Arbitrary<'shed' | 'greenhouse'>,
  roll: fc.constantFrom(...(Object.keys(rolls) as (keyof typeof rolls)[])),
  nozzle: fc.constantFrom(0.25, 0.3, 0.4, 0.5, 0.6, 0.8),
  layer: fc.integer({ min: 25, max: 70 }),
  bed: fc.constantFrom('round', 'rectangle') as fc.Arbitrary<'round' | 'rectangle'>,
  width: fc.integer({ min: 160, max: 420 }),
  depth: fc.integer({ min: 160, max: 420 }),
  feed: fc.constantFrom('relative', 'absolute') as fc.Arbitrary<'relative' | 'absolute'>,
  zOffset: fc.integer({ min: -8, max: 8 }),
})
const pairOf = ({ base, roll, nozzle, layer, bed, width, depth, feed, zOffset }: Any) => {
  const frame = DEMO_MACHINES[base]
  const machine: Machine = {
    ...frame,
    nozzle: { ...frame.nozzle, diameter: nozzle },
    bed: { ...frame.bed, shape: bed, width, depth: bed === 'round' ? width : depth },
    commands: { feed, fan: 'bytes', acceleration: 'split', corner: 'change', pressure: 'k', level: 'none' },
  }
  const step = fullStep(machine)
  const height = Math.max(step, Math.round((nozzle * layer) / 100 / step) * step)
  const filament: Filament = rolls[roll]
  const pins = hand({ layerHeight: Number(height.toFixed(2)), zOffset: zOffset / 100 })
  return { machine, filament, recipe: deriveRecipe({ machine, filament, pins }) }
}
type Any = typeof anyPair extends fc.Arbitrary<infer T> ? T : never

const inside = (c: Cell, x: number, y: number, z: number, slack = 0.02) =>
  x >= c.box.x0 - slack &&
  x <= c.box.x1 + slack &&
  y >= c.box.y0 - slack &&
  y <= c.box.y1 + slack &&
  z > c.box.z0 + 1e-6 &&
  z <= c.box.z1 + slack
interface Laying {
  i: number
  x0: number
  y0: number
  x: number
  y: number
  z: number
  e: number
  way: number
}
/** Lines that are laid, with where they begin. z is without the recipe's z offset. */
function layings(p: Program, offset = 0): Laying[] {
  const out: Laying[] = []
  let [px, py] = [0, 0]
  for (let i = 0; i < p.count; i++) {
    const way = Math.hypot(p.x[i] - px, p.y[i] - py)
    if (p.e[i] > 0 && way > 1e-6)
      out.push({ i, x0: px, y0: py, x: p.x[i], y: p.y[i], z: p.z[i] - offset, e: p.e[i], way })
    px = p.x[i]
    py = p.y[i]
  }
  return out
}
const at = (p: Program, i: number) => p.states[p.state[i]]

/** The sentence of a piece that cannot be made; anything else is thrown on. */
function faultOf(error: unknown): string {
  if (error instanceof PieceError) return say(error.reason)
  throw error
}

/** What the file really does at a cell, for the key that is stepped there. */
function readBack(cell: Cell, key: string, p: Program, recipe: RecipeValues, machine: Machine): number[] {
  const n = (k: keyof RecipeValues) => Number(recipe[k].value)
  const lines = layings(p, key === 'zOffset' ? 0 : n('zOffset'))
  const z = (l: Laying) => (key === 'zOffset' ? 0.1 : l.z)
  const own = lines.filter((l) => inside(cell, l.x0, l.y0, z(l)) && inside(cell, l.x, l.y, z(l)))
  const area = filamentArea(n('diameter'))
  switch (key) {
    case 'nozzle':
      return own.map((l) => at(p, l.i).nozzle ?? NaN)
    case 'fan':
      return own
        .filter((l) => l.z > n('firstHeight') + n('fanOffLayers') * n('layerHeight'))
        .map((l) => Math.round(at(p, l.i).fan * 100))
    case 'pressureCompensation':
      return own.map((l) => at(p, l.i).pressure ?? 0)
    case 'zOffset':
      return own.map((l) => l.z - n('firstHeight'))
    case 'outerAcceleration':
      return own.map((l) => at(p, l.i).printAcceleration ?? NaN)
    case 'outerSpeed': {
      const fastest = own.filter((l) => l.way > 20).map((l) => p.speed[l.i])
      return fastest.filter(
        (v) =>
          Math.abs(v - cell.values.outerSpeed!) < Math.abs(v - n('innerSpeed')) ||
          v === cell.values.outerSpeed,
      )
    }
    case 'retractLength':
      // the pull-back before a travel that begins at the cell
      return Array.from({ length: p.count }, (_, i) => i)
        .filter(
          (i) =>
            i > 0 &&
            p.e[i] < 0 &&
            p.x[i] === p.x[i - 1] &&
            p.y[i] === p.y[i - 1] &&
            inside(cell, p.x[i], p.y[i], p.z[i] - n('zOffset')),
        )
        .map((i) => -p.e[i])
    case 'flowFirst':
    case 'flowSolid':
    case 'firstWidth':
      return own
        .filter((l) => l.way > 4)
        .map((l) => {
          const first = l.z < n('firstHeight') + 1e-6
          const h = first ? n('firstHeight') : n('layerHeight')
          const width = first ? n('firstWidth') : n('outerWidth')
          const bead = (l.e * area) / l.way
          const flow = n('flow') / 100
          if (key === 'firstWidth')
            return (bead / (flow * (n('flowFirst') / 100)) - (Math.PI * h * h) / 4) / h + h
          return (bead / (beadArea(width, h) * flow)) * 100
        })
    case 'meltRate':
      return Array.from({ length: p.count }, (_, i) => i)
        .filter((i) => i > 0 && p.e[i] > 20 && p.x[i] === p.x[i - 1] && inside(cell, p.x[i], p.y[i], 1))
        .map((i) => Math.min(machine.limits.speed, p.speed[i]) * area)
    default:
      return []
  }
}

const KEYS: [PieceId, NonNullable<Parameters<typeof planOf>[2]>][] = [
  ['first-layer-sheet', 'zOffset'],
  ['first-layer-sheet', 'flowFirst'],
  ['first-layer-sheet', 'firstWidth'],
  ['temperature-tower', 'nozzle'],
  ['fan-tower', 'fan'],
  ['retraction-tower', 'retractLength'],
  ['flow-box', 'flowSolid'],
  ['melt-rate-run', 'meltRate'],
  ['pressure-lines', 'pressureCompensation'],
  ['corner-columns', 'pressureCompensation'],
  ['speed-fins', 'outerSpeed'],
  ['speed-fins', 'outerAcceleration'],
]
describe('the reader finds in each piece exactly what was meant', () => {
  test.each(KEYS)('%s, %s', (id, key) => {
    fc.assert(
      fc.property(anyPair, (any) => {
        const pair = pairOf(any)
        let piece: Piece
        try {
          piece = makePiece(pair, planOf(pair, id, key))
        } catch (e) {
          expect(faultOf(e)).toMatch(/too large|too tall|the same, so nothing/)
          return
        }
        const p = readGcode(new TextEncoder().encode(piece.gcode), {
          filamentDiameter: Number(pair.recipe.diameter.value),
        })
        const wanted = stepValues(planOf(pair, id, key).steps)
        const cells = piece.cells.filter((c) => key in c.values)
        expect(cells.map((c) => c.values[key])).toEqual(wanted)
        for (const c of cells) {
          const found = readBack(c, key, p, pair.recipe, pair.machine)
          expect(found.length).toBeGreaterThan(0)
          const tolerance =
            {
              fan: 1,
              flowFirst: 0.4,
              flowSolid: 0.6,
              firstWidth: 0.004,
              meltRate: 0.03,
              zOffset: 0.0011,
              outerSpeed: 0.02,
            }[key as string] ?? 0.0011
          // solid fill: walls and ticks lie there too, so most of the lines decide
          const close = found.filter((v) => Math.abs(v - c.values[key]!) <= tolerance)
          const share = key === 'flowSolid' || key === 'outerSpeed' ? 0.5 : 0.9
          if (close.length / found.length < share)
            throw new Error(`${c.id}: ${c.values[key]} was meant, ${found.slice(0, 8).join(' ')} is there`)
        }
      }),
      tries(3),
    )
  })
})

/** Whether a line lies on something: the layer below, within a line's width. */
function unsupported(piece: Piece, p: Program, recipe: RecipeValues): string[] {
  const n = (k: keyof RecipeValues) => Number(recipe[k].value)
  const offset = n('zOffset')
  const cell = 0.5
  const wide = 1800
  const place = (x: number, y: number) =>
    (Math.round(x / cell) + wide / 2) * wide + Math.round(y / cell) + wide / 2
  const reach = Math.ceil((n('outerWidth') * 0.75) / cell)
  const lines = layings(p, offset)
  const faults: string[] = []
  let below: Uint8Array<ArrayBuffer> | null = null
  let now = new Uint8Array(new ArrayBuffer(wide * wide))
  let spare = new Uint8Array(new ArrayBuffer(wide * wide))
  let z = -1
  for (const l of lines) {
    if (Math.abs(l.z - z) > 1e-3 && !(piece.id === 'first-layer-sheet' && z > 0)) {
      if (z > 0) {
        ;[below, spare] = [now, below ?? spare]
        now = spare.fill(0)
      }
      z = l.z
    }
    for (let t = 0; t <= l.way + 0.2; t += 0.45) {
      const s = Math.min(t, l.way) / l.way
      const x = l.x0 + (l.x - l.x0) * s
      const y = l.y0 + (l.y - l.y0) * s
      const at = place(x, y)
      // widened by the reach, so that one look is enough a layer later
      for (let dx = -reach; dx <= reach; dx++) now.fill(1, at + dx * wide - reach, at + dx * wide + reach + 1)
      if (!below || below[at]) continue
      const open = piece.open.some(
        (o) =>
          x > o.x0 - 0.6 &&
          x < o.x1 + 0.6 &&
          y > o.y0 - 0.6 &&
          y < o.y1 + 0.6 &&
          l.z > o.z0 &&
          l.z <= o.z1 + 0.01,
      )
      if (!open) faults.push(`${x.toFixed(1)} ${y.toFixed(1)} ${l.z.toFixed(2)}`)
    }
  }
  return faults
}

test.each(PIECE_IDS.map((id) => [id]))(
  '%s stays on the bed and within the limits, lies on something, and pulls back what it gives',
  (id) => {
    fc.assert(
      fc.property(anyPair, (any) => {
        const pair = pairOf(any)
        let piece: Piece
        try {
          piece = makePiece(pair, planOf(pair, id))
        } catch (e) {
          expect(faultOf(e)).toMatch(/too large|too tall|the same, so nothing|no part fan/)
          return
        }
        const { machine, recipe } = pair
        const p = readGcode(new TextEncoder().encode(piece.gcode), {
          filamentDiameter: Number(recipe.diameter.value),
        })
        expect([p.faultCount, [...p.unknown]]).toEqual([0, []])
        const { bed, limits } = machine
        let started = false
        for (let i = 0; i < p.count; i++) {
          const [x, y, z] = [p.x[i], p.y[i], p.z[i]]
          if (p.kind[i] === MoveKind.Jump) continue
          started ||= x !== 0 || y !== 0
          if (!started) continue
          const out =
            bed.shape === 'round'
              ? Math.hypot(x, y) > bed.width / 2 + 0.01
              : x < -0.01 || y < -0.01 || x > bed.width + 0.01 || y > bed.depth + 0.01
          if (out || z > machine.height || z < 0) throw new Error(`${x} ${y} ${z} leaves the machine`)
          if (p.speed[i] > limits.speed + 0.02) throw new Error(`${p.speed[i]} mm/s`)
        }
        const beyond = p.states.filter(
          (s) =>
            s.nozzle! > limits.nozzle || s.bed! > limits.bed || s.printAcceleration! > limits.acceleration,
        )
        expect(beyond).toEqual([])
        // what is pulled back is given again, but for the soft end
        const ends = layings(p).at(-1)?.i ?? p.count
        let balance = 0
        for (let i = 0; i < ends; i++) {
          const still = i > 0 && p.x[i] === p.x[i - 1] && p.y[i] === p.y[i - 1]
          if (p.e[i] < 0 || (p.e[i] > 0 && still && p.e[i] < 20)) balance += p.e[i]
        }
        expect(Math.abs(balance)).toBeLessThan(0.02)
        expect(unsupported(piece, p, recipe).slice(0, 5)).toEqual([])
        expect(piece.cells.length).toBeGreaterThan(0)
        for (const c of piece.cells) expect(c.box.x1).toBeGreaterThan(c.box.x0)
      }),
      tries(/joint|seam|size/.test(id) ? 1 : 3),
    )
  },
)

test('size plate: each size knows how fast its faces are printed, as the path says; heights and bases have no speed', () => {
  const pair = {
    machine: DEMO_MACHINES.greenhouse,
    filament: rolls.fern,
    recipe: deriveRecipe({ machine: DEMO_MACHINES.greenhouse, filament: rolls.fern }),
  }
  const { cells } = makePiece(pair, planOf(pair, 'size-plate'))
  const asked = pair.recipe.outerSpeed.value
  for (const c of cells) {
    if (c.axis === 'z' || c.base) expect([c.id, c.speed]).toEqual([c.id, undefined])
    else expect([c.id, c.speed! > 2 && c.speed! <= asked + 0.1]).toEqual([c.id, true])
  }
  // the 30 mm faces of the square reach more than the 7 mm ends of a bar
  const of = (id: string) => cells.find((c) => c.id === id)!.speed!
  expect(of('square-d1')).toBeGreaterThan(of('x-2'))
})

test('joints: the gap that is drawn is the gap that is laid, upright between faces and lying between layers', () => {
  const pair = {
    machine: DEMO_MACHINES.greenhouse,
    filament: rolls.fern,
    recipe: deriveRecipe({ machine: DEMO_MACHINES.greenhouse, filament: rolls.fern }),
  }
  const piece = makePiece(pair, {
    piece: 'joint-ladder',
    steps: { key: 'gap', from: 0.1, to: 0.6, count: 6 },
    joints: [...JOINT_SHAPES],
  })
  const h = pair.recipe.layerHeight.value
  const w = pair.recipe.outerWidth.value
  const lines = layings(readGcode(new TextEncoder().encode(piece.gcode)))
  // heights at which something lies over a place
  const over = (x: number, y: number) => [
    ...new Set(
      lines
        .filter((l) => nearest(l, x, y) < w)
        .map((l) => Number(l.z.toFixed(3)))
        .sort((a, b) => a - b),
    ),
  ]
  const of = (shape: string) => piece.cells.filter((c) => c.joint === shape)
  for (const c of of('flat-lying')) {
    const z = over((c.box.x0 + c.box.x1) / 2, (c.box.y0 + c.box.y1) / 2)
    const widest = Math.max(...z.slice(1).map((v, i) => v - z[i]))
    // the roof's own layer comes on top of the gap
    expect(widest - h).toBeCloseTo(c.values.gap!, 3)
  }
  expect(of('flat-lying').map((c) => c.values.gap)).toEqual([
    ...new Set(of('flat-lying').map((c) => c.values.gap)),
  ])
  for (const shape of ['flat-upright', 'round-upright'])
    for (const c of of(shape)) {
      const y = (c.box.y0 + c.box.y1) / 2
      const x = (c.box.x0 + c.box.x1) / 2
      // outermost line of the pin and innermost of its socket along X, half way up
      const away = lines
        .filter(
          (l) =>
            Math.abs(l.z - 4) < h &&
            l.x0 > x &&
            l.x > x &&
            Math.min(l.y0, l.y) <= y + 0.3 &&
            Math.max(l.y0, l.y) >= y - 0.3 &&
            Math.abs(l.x - l.x0) < 0.5,
        )
        .map((l) => (l.x + l.x0) / 2 - x)
      const pin = Math.max(...away.filter((d) => d < 4 + 0.01))
      const socket = Math.min(...away.filter((d) => d > 4 + 0.01))
      expect(Math.abs(socket - pin - w - c.values.gap!)).toBeLessThan(0.04)
    }
  expect(of('round-lying')).toHaveLength(6)
})

/** mm from a place to a line. */
function nearest(l: { x0: number; y0: number; x: number; y: number }, x: number, y: number): number {
  const [dx, dy] = [l.x - l.x0, l.y - l.y0]
  const t = Math.max(0, Math.min(1, ((x - l.x0) * dx + (y - l.y0) * dy) / (dx * dx + dy * dy || 1)))
  return Math.hypot(l.x0 + t * dx - x, l.y0 + t * dy - y)
}

test('bad plans get a sentence, never a file', () => {
  const machine = DEMO_MACHINES.shed
  const pair = { machine, filament: rolls.fern, recipe: deriveRecipe({ machine, filament: rolls.fern }) }
  const plan = (steps: Partial<PiecePlan['steps']>, piece: PieceId = 'temperature-tower'): PiecePlan => ({
    piece,
    steps: { key: 'nozzle', from: 220, to: 190, count: 5, ...steps },
  })
  expect(planFault(pair, plan({}))).toBeNull()
  expect(say(planFault(pair, plan({ from: 400 }))!)).toMatch(/out of bounds; \d+ °C is the nearest/)
  expect(say(planFault(pair, plan({ from: NaN }))!)).toMatch(/enter a number/)
  expect(say(planFault(pair, plan({ count: 40 }))!)).toMatch(/3 to 9 steps/)
  expect(say(planFault(pair, plan({ from: 200, to: 200 }))!)).toMatch(/nothing would change/)
  expect(say(planFault(pair, plan({ key: 'fan' }))!)).toMatch(/cannot step/)
  expect(() => makePiece(pair, plan({ count: 2.5 }))).toThrow(PieceError)
  const bare = {
    ...pair,
    machine: {
      ...machine,
      commands: {
        feed: 'relative',
        fan: 'bytes',
        acceleration: 'split',
        corner: 'none',
        pressure: 'none',
        level: 'none',
      } as const,
    },
  }
  expect(
    say(planFault(bare, plan({ key: 'pressureCompensation', from: 0, to: 1, count: 6 }, 'corner-columns'))!),
  ).toMatch(/no command/)
})

test('the machine’s commands are spelt as it wants them', () => {
  const machine: Machine = {
    ...DEMO_MACHINES.greenhouse,
    commands: {
      feed: 'absolute',
      fan: 'fraction',
      acceleration: 'single',
      corner: 'deviation',
      pressure: 's',
      level: 'kept',
    },
  }
  const pair = {
    machine,
    filament: rolls.pond,
    recipe: deriveRecipe({ machine, filament: rolls.pond, pins: hand({ pressureCompensation: 0.04 }) }),
  }
  const { gcode } = makePiece(pair, planOf(pair, 'string-posts'), [
    'Pond blue on Greenhouse, version 3, trial 7',
  ])
  for (const line of [
    /^M82$/m,
    /^M420 S1$/m,
    /^M204 S\d+$/m,
    /^M205 J0\.\d+$/m,
    /^M572 S0\.04$/m,
    /^M106 S0\.\d+$/m,
    /^; Pond blue on Greenhouse, version 3, trial 7$/m,
    /^; Held within the machine/m,
  ])
    expect(gcode).toMatch(line)
  expect(gcode).not.toMatch(/^(M83|G29|M900|M204 P)/m)
  const p = readGcode(new TextEncoder().encode(gcode))
  expect(p.style).toMatchObject({ absoluteFeed: true, relativeFeed: false })
})

const LAYS = /^G1 X.*E/
test('bed first, home and level on it hot, clear of it, then the nozzle; no sideways move at layer height before the first line', () => {
  fc.assert(
    fc.property(anyPair, fc.constantFrom(...KEYS), (any, [id, key]) => {
      const pair = pairOf(any)
      let piece: Piece
      try {
        piece = makePiece(pair, planOf(pair, id, key))
      } catch (e) {
        expect(faultOf(e)).not.toBe('')
        return
      }
      const lines = piece.gcode.split('\n')
      const at = (pattern: RegExp) => lines.findIndex((l) => pattern.test(l))
      const order = [at(/^M140 /), at(/^M190 /), at(/^G28/), at(/^G0 Z[1-9]/), at(/^M109 /), at(LAYS)]
      expect(order.every((v, i) => v >= 0 && (i === 0 || v > order[i - 1]))).toBe(true)
      // the first line of the head says what is varied
      const [varied] = Object.keys(piece.cells.find((c) => key in c.values)?.values ?? {})
      if (varied) expect(lines[0].includes(variedLabel(key))).toBe(true)
      // the head comes down over where it begins, it does not slide in
      const first = at(LAYS)
      const sideways = lines.slice(at(/^G28/), first).filter((l) => /^G[01] .*[XY]/.test(l))
      const down = lines.slice(at(/^G28/), first).findIndex((l) => /^G0 Z0/.test(l))
      const across = lines.slice(at(/^G28/), first).findIndex((l) => /^G0 X/.test(l))
      // a run of weighed heaps may begin where the head came home to
      if (id !== 'melt-rate-run') expect(sideways.length).toBeGreaterThan(0)
      if (sideways.length && down >= 0) expect(down).toBeGreaterThan(across)
    }),
    tries(25),
  )
})

test('what a piece stepped is the recipe’s again at its end; a step of heat is waited for beside the body', () => {
  const pair = pairOf({
    base: 'shed',
    roll: 'terracotta',
    nozzle: 0.4,
    layer: 50,
    bed: 'rectangle',
    width: 220,
    depth: 220,
    feed: 'relative',
    zOffset: 0,
  })
  for (const [id, key] of [
    ['speed-fins', 'outerAcceleration'],
    ['pressure-lines', 'pressureCompensation'],
  ] as const) {
    const p = readGcode(
      new TextEncoder().encode(makePiece(pair, planOf(pair, id, key)).gcode + 'G1 X50 Y50 F6000\n'),
    )
    const last = p.states[p.state[p.count - 1]]
    expect(last.printAcceleration).toBe(pair.recipe.outerAcceleration.value)
    expect(last.pressure ?? 0).toBe(pair.recipe.pressureCompensation.value)
  }
  const tower = makePiece(pair, planOf(pair, 'temperature-tower', 'nozzle'))
  const lines = tower.gcode.split('\n')
  let x = 0
  let waits = 0
  for (const [i, l] of lines.entries()) {
    const moved = /^G[01] .*X([\d.]+)/.exec(l)
    if (moved) x = Number(moved[1])
    if (/^M109 /.test(l) && i > 40) {
      waits++
      expect(x).toBeLessThan(tower.box.x0)
    }
  }
  expect(waits).toBeGreaterThan(2)
})

test('a tower gets the brim and the wall against draughts that the recipe asks for, as far as the bed has room', () => {
  const machine = DEMO_MACHINES.shed
  const filament = rolls.slate
  const recipe = deriveRecipe({ machine, filament, pins: hand({ brimLines: 8, draughtWall: 1 }) })
  const pair = { machine, filament, recipe }
  const read = (p: typeof pair) =>
    readPath(readGcode(new TextEncoder().encode(makePiece(p, planOf(p, 'temperature-tower')).gcode)), {
      filamentDiameter: 1.75,
      density: 1.04,
      nozzleDiameter: 0.4,
      limits: machine.limits,
    })
  const { base, build, box } = read(pair)
  expect([base.brim, build.brimLines]).toEqual([true, 8])
  const bare = read({
    ...pair,
    recipe: deriveRecipe({ machine, filament, pins: hand({ brimLines: 0, draughtWall: 0 }) }),
  })
  expect(bare.base.brim).toBe(false)
  // the wall stands beyond brim and air, on every layer
  expect(box!.maxX - box!.minX).toBeGreaterThan(bare.box!.maxX - bare.box!.minX + 2 * 3)
  const narrow = { ...machine, bed: { ...machine.bed, width: 110, depth: 110 } }
  const fits = { ...pair, machine: narrow }
  const { box: tight } = makePiece(fits, planOf(fits, 'temperature-tower'))
  expect([tight.x0, tight.y0].every((v) => v >= 0) && tight.x1 <= 110 && tight.y1 <= 110).toBe(true)
})

test('a first look prints within half an hour wherever a piece can, a thorough one has all its steps; the ends stay', () => {
  const pair = {
    machine: DEMO_MACHINES.greenhouse,
    filament: rolls.fern,
    recipe: deriveRecipe({ machine: DEMO_MACHINES.greenhouse, filament: rolls.fern }),
  }
  const costs = pieceCosts(pair)
  for (const piece of ['temperature-tower', 'speed-fins', 'bridge-comb'] as const) {
    const plan = planOf(pair, piece)
    const { counts } = PIECES[piece]
    const quick = planOfExtent(pair, plan, 'quick')
    const usual = planOfExtent(pair, plan, 'usual')
    const thorough = planOfExtent(pair, plan, 'thorough')
    for (const p of [quick, usual, thorough])
      expect([piece, p.steps.from, p.steps.to]).toEqual([piece, plan.steps.from, plan.steps.to])
    expect(quick.steps.count).toBeLessThanOrEqual(usual.steps.count)
    if (counts.min !== counts.max) expect(thorough.steps.count).toBe(counts.max)
    const minutes = makePiece(pair, quick).seconds / 60
    expect([piece, minutes <= FIRST_LOOK || quick.steps.count === counts.min]).toEqual([piece, true])
    // what is shown of a piece before it is planned is what it takes as proposed
    const { gcode, seconds } = makePiece(pair, plan)
    expect(costs[piece]!.minutes).toBe(Math.round(seconds / 60))
    const p = readGcode(new TextEncoder().encode(gcode))
    const fed = p.e.subarray(0, p.count).reduce((sum, e) => sum + e, 0)
    const grams = (fed * filamentArea(pair.recipe.diameter.value) * pair.recipe.density.value) / 1000
    expect(Math.abs(costs[piece]!.grams - grams)).toBeLessThan(0.06)
  }
})
