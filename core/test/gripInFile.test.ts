import fc from 'fast-check'
import { parseStringSync } from 'gcode-parser'
import { DEMO_MACHINES, demoFilaments } from '../src/demo'
import { beadArea, filamentArea, solidSpacing } from '../src/extrusion'
import { readGcode } from '../src/gcode'
import { USUAL_COMMANDS, type Machine } from '../src/machine'
import { writePart, type PartOptions } from '../src/planner'
import { changesOfFile, deriveRecipe, printSettingsOf, type Changes } from '../src/recipe'
import { ChangeError, checkRewritten, rewriteFile, type FileChange } from '../src/rewrite'
import { Feature, analysePath, summarise } from '../src/toolpath'
import { hand } from './lib/diagnose'
import { spelt, type Dialect, PLAIN } from './lib/dialects'
import { kernelReady } from './lib/kernel'
import { tries } from './lib/property'

// Brim, skirt, tabs and draught wall laid round what a finished file draws: planned parts in random dialects, and files by hand
// in the manners of other hands, with an independent parser (gcode-parser) for what they do.
const machine: Machine = { ...DEMO_MACHINES.shed, commands: { ...USUAL_COMMANDS } }
const filament = demoFilaments('2026-01-01').terracotta
const context = { filamentDiameter: 1.75, density: 1.24, nozzleDiameter: 0.4, limits: machine.limits }
const bytesOf = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
const textOf = (b: Uint8Array) => new TextDecoder('latin1').decode(b)
const fileOf = (text: string) => {
  const analysis = analysePath(readGcode(bytesOf(text)), context)
  return { analysis, reading: summarise(analysis) }
}
async function change(text: string, ...changes: FileChange[]) {
  const file = fileOf(text)
  const { bytes, summary } = rewriteFile(bytesOf(text), file, changes, machine, 1.75, await kernelReady)
  const now = textOf(bytes)
  const { analysis, reading } = fileOf(now)
  checkRewritten(file.reading, reading, changes)
  return { text: now, summary, analysis, reading, old: file.reading }
}
const fault = (text: string, ...changes: FileChange[]): Promise<string> =>
  change(text, ...changes).then(
    () => 'none',
    (e: unknown) => {
      if (e instanceof ChangeError) return e.reason.code
      throw e
    },
  )
const partText = (o: PartOptions, pins: Changes = {}) =>
  writePart(machine, printSettingsOf(deriveRecipe({ machine, filament, pins: hand(pins) })), o)

/** Lines of the old file that are not in the new one, in order. */
function lost(old: string, now: string): string[] {
  const left = now.split(/\r\n|\n|\r/)
  let at = 0
  return old.split(/\r\n|\n|\r/).filter((line) => {
    const found = left.indexOf(line, at)
    if (found < 0) return true
    at = found + 1
    return false
  })
}

interface Piece {
  x0: number
  y0: number
  x1: number
  y1: number
  z: number
  e: number
}
/** Straight pieces that are fed, by the words alone: millimetres, absolute places, either feed. */
function pieces(text: string): Piece[] {
  const at: Record<string, number> = { X: 0, Y: 0, Z: 0, E: 0 }
  let relative = false
  const out: Piece[] = []
  for (const { words } of parseStringSync(text)) {
    if (!words[0]) continue
    const code = `${words[0][0]}${words[0][1]}`
    const word = (l: string) => words.find((w) => w[0] === l)?.[1]
    if (code === 'M83' || code === 'M82') relative = code === 'M83'
    else if (code === 'G92') at.E = word('E') ?? at.E
    else if (/^G[01]$/.test(code)) {
      const { X, Y } = at
      const e = word('E')
      const fed = e === undefined ? 0 : relative ? e : e - at.E
      if (e !== undefined) at.E = relative ? at.E + e : e
      for (const l of ['X', 'Y', 'Z']) at[l] = word(l) ?? at[l]
      if (fed > 0 && Math.hypot(at.X - X, at.Y - Y) > 0.01)
        out.push({ x0: X, y0: Y, x1: at.X, y1: at.Y, z: at.Z, e: fed })
    }
  }
  return out
}
const wayOf = (p: Piece) => Math.hypot(p.x1 - p.x0, p.y1 - p.y0)
const fedIn = (list: Piece[]) => list.reduce((sum, p) => sum + p.e, 0)
/** mm from a place to a box of corners (x0, y0, x1, y1), zero inside. */
const fromBox = (x: number, y: number, [x0, y0, x1, y1]: number[]) =>
  Math.hypot(Math.max(x0 - x, 0, x - x1), Math.max(y0 - y, 0, y - y1))

const f = (v: number, digits = 5) => String(Number(v.toFixed(digits)))
/** Boxes of 12 mm walls at some places, all on each layer or one after another; a purge at x = 5; a skirt `skirtAt` mm away. */
function byHand({
  places = [
    [60, 60],
    [100, 60],
  ],
  inTurn = false,
  absolute = true,
  skirtAt = 0,
  retract = 'G1' as 'G1' | 'G10' | 'none',
  layers = 10,
  lift = 0,
}) {
  let e = 0
  const word = (step: number) => {
    e += step
    return `E${f(absolute ? e : step)}`
  }
  const back = () => (retract === 'G10' ? ['G10'] : retract === 'G1' ? [`G1 ${word(-2)} F2700`] : [])
  const forth = () => (retract === 'G10' ? ['G11'] : retract === 'G1' ? [`G1 ${word(2)} F2700`] : [])
  const out = ['M190 S60', 'M109 S205', 'G28', 'G90', absolute ? 'M82' : 'M83', 'G92 E0']
  out.push('G1 Z0.28 F3000', 'G1 X5 Y20 F5000', `G1 X5 Y120 ${word(6)} F1500 ; prime`)
  const ring = (x: number, y: number, w: number, h: number, z: number) => {
    out.push(...back())
    if (lift) out.push(`G1 Z${f(z + lift, 3)} F600`)
    out.push(`G0 X${f(x)} Y${f(y)} F7200`)
    if (lift) out.push(`G1 Z${f(z, 3)} F600`)
    out.push(...forth(), 'G1 F1500')
    for (const [dx, dy] of [
      [w, 0],
      [w, h],
      [0, h],
      [0, 0],
    ])
      out.push(
        `G1 X${f(x + dx)} Y${f(y + dy)} ${word((dx === 0 && dy === 0) || (dx === w && dy === h) ? (h === dy && dx === w ? h * 0.05 : h * 0.05) : w * 0.05)}`,
      )
  }
  const layer = (l: number, at: number[][]) => {
    const z = 0.28 + l * 0.2
    out.push(`;LAYER:${l}`, `G1 Z${f(z, 3)} F600`, l === 1 ? 'M106 S255' : 'M105')
    if (l === 0 && skirtAt) {
      const x = Math.min(...places.map((p) => p[0])) - skirtAt
      const y = Math.min(...places.map((p) => p[1])) - skirtAt
      const right = Math.max(...places.map((p) => p[0])) + 12 + skirtAt
      const top = Math.max(...places.map((p) => p[1])) + 12 + skirtAt
      ring(x, y, right - x, top - y, z)
    }
    for (const [x, y] of at) ring(x, y, 12, 12, z)
  }
  if (inTurn)
    for (const p of places) {
      out.push('G1 Z20 F600')
      for (let l = 0; l < layers; l++) layer(l, [p])
    }
  else for (let l = 0; l < layers; l++) layer(l, places)
  out.push('M104 S0', 'M140 S0', 'M84', '')
  return out.join('\n')
}
/** Pieces of the first layer that the new file has and the old one has not. */
function added(old: string, now: string, z = 0.28): Piece[] {
  const key = (p: Piece) => [p.x0, p.y0, p.x1, p.y1, p.z].map((v) => v.toFixed(2)).join()
  const had = new Set(pieces(old).map(key))
  return pieces(now).filter((p) => Math.abs(p.z - z) < 1e-3 && !had.has(key(p)))
}

const MANNERS: [string, Parameters<typeof byHand>[0]][] = [
  ['feed in places', {}],
  ['feed in steps', { absolute: false }],
  ['with lifts', { lift: 0.4 }],
  ['pull-backs by the machine', { retract: 'G10' }],
  ['no pull-backs', { retract: 'none' }],
  ['one object after another', { inTurn: true }],
]
describe.each(MANNERS)('a file of another hand, %s', (_, manner) => {
  const old = byHand(manner)
  const boxes = [
    [60, 60, 72, 72],
    [100, 60, 112, 72],
  ]

  test('a brim: lines beside each other round each part and nowhere in it, fed as the file feeds; all else stays', async () => {
    const { text: now, reading, summary } = await change(old, { kind: 'brim', lines: 5, gap: 0.1 })
    expect(reading.build.brimLines).toBe(5)
    expect(summary.removed).toBe(0)
    // a count that is brought back, or a feed rate told again, is all that may differ
    expect(lost(old, now).length).toBeLessThanOrEqual(summary.changed)
    const brim = added(old, now)
    const width = beadWidthOf(0.05, 0.28)
    const spacing = solidSpacing(width, 0.28)
    for (const p of brim) {
      const away = Math.min(...boxes.map((b) => fromBox(p.x1, p.y1, b)))
      expect(away).toBeGreaterThan(width / 2 + 0.1 + 0.4 * spacing)
      expect(away).toBeLessThan(width / 2 + 0.1 + 5.1 * spacing)
      if (wayOf(p) > 1) expect(p.e / wayOf(p)).toBeCloseTo(0.05, 3)
    }
    // a ring with round corners of radius r about a square of 12: 48 + 2πr, five lines, two squares
    const length = brim.reduce((sum, p) => sum + wayOf(p), 0)
    const radii = [0, 1, 2, 3, 4].map((k) => width / 2 + 0.1 + (k + 0.5) * spacing)
    const want = 2 * radii.reduce((sum, r) => sum + 48 + 2 * Math.PI * r, 0)
    expect(Math.abs(length / want - 1)).toBeLessThan(0.02)
    expect(fedIn(pieces(now)) - fedIn(pieces(old))).toBeCloseTo(fedIn(brim), 2)
  })
  test('a brim of each object is laid right before it', async () => {
    const { text: now } = await change(old, { kind: 'brim', lines: 2, gap: 0 })
    const all = pieces(now)
    boxes.forEach((b) => {
      const first = all.findIndex(
        (p) => Math.abs(p.z - 0.28) < 1e-3 && fromBox(p.x1, p.y1, b) < 0.01 && fromBox(p.x0, p.y0, b) < 0.01,
      )
      const last = all.findLastIndex(
        (p) => Math.abs(p.z - 0.28) < 1e-3 && fromBox(p.x1, p.y1, b) > 0.1 && fromBox(p.x1, p.y1, b) < 3,
      )
      expect(last).toBeLessThan(first)
      // nothing higher is laid between the two
      expect(all.slice(last, first).every((p) => p.z < 0.3)).toBe(true)
    })
  })
  test('more pull-backs only as the file pulls back; none of its crossings stays bare', async () => {
    const { reading, old: before } = await change(old, { kind: 'brim', lines: 3, gap: 0 })
    expect(reading.retraction.kind).toBe(before.retraction.kind)
    expect(reading.retraction.length).toBe(before.retraction.length)
    if (before.retraction.kind !== 'none')
      expect(reading.travel.openUnretracted).toBe(before.travel.openUnretracted)
  })
  test('tabs lie under the corners and end where the part begins', async () => {
    const { text: now, reading } = await change(old, { kind: 'tabs', diameter: 8 })
    const tabs = added(old, now)
    const corners = boxes.flatMap(([x0, y0, x1, y1]) => [x0, x1].flatMap((x) => [y0, y1].map((y) => [x, y])))
    for (const p of tabs) {
      expect(Math.min(...corners.map(([x, y]) => Math.hypot(x - p.x1, y - p.y1)))).toBeLessThan(4.6)
      expect(Math.min(...boxes.map((b) => fromBox(p.x1, p.y1, b)))).toBeGreaterThan(0.2)
    }
    for (const [x, y] of corners) expect(tabs.some((p) => Math.hypot(p.x1 - x, p.y1 - y) < 4)).toBe(true)
    expect([reading.build.brimLines, reading.build.skirtLoops]).toEqual([0, 0])
  })
  test('a draught wall goes round all of it on every layer; where parts are printed in turn it is refused', async () => {
    const wall: FileChange = { kind: 'draught-wall', lines: 2 }
    if (manner?.inTurn) return expect(await fault(old, wall)).toBe('change-one-by-one')
    const { text: now, reading, old: before } = await change(old, wall)
    expect(reading.build.draughtWall).toBe(2)
    expect(reading.features[Feature.Outer].length).toBeCloseTo(before.features[Feature.Outer].length, 0)
    for (let l = 0; l < 10; l++) {
      const own = added(old, now, 0.28 + 0.2 * l)
      expect(
        Math.min(...own.map((p) => Math.min(...boxes.map((b) => fromBox(p.x1, p.y1, b))))),
      ).toBeGreaterThan(4)
      // round: it closes, and it is seen to all sides
      const [x, y] = [own.map((p) => p.x1), own.map((p) => p.y1)]
      expect([Math.min(...x) < 56, Math.max(...x) > 116, Math.min(...y) < 56, Math.max(...y) > 76]).toEqual([
        true,
        true,
        true,
        true,
      ])
    }
  })
})

/** Width of the bead that a feed of so many mm of filament a mm makes, from the definition. */
function beadWidthOf(e: number, h: number): number {
  let [low, high] = [0.1, 3]
  for (let k = 0; k < 60; k++) {
    const mid = (low + high) / 2
    if (beadArea(mid, h) < e * filamentArea(1.75)) low = mid
    else high = mid
  }
  return low
}

describe('what lies in the way', () => {
  test('a skirt that leaves no room for the brim goes; one that leaves room stays', async () => {
    const near = byHand({ skirtAt: 3 })
    const { reading, summary } = await change(near, { kind: 'brim', lines: 8, gap: 0 })
    expect([reading.build.skirtLoops, reading.build.brimLines]).toEqual([0, 8])
    expect(summary.removed).toBe(4)
    const far = await change(byHand({ skirtAt: 12 }), { kind: 'brim', lines: 8, gap: 0 })
    expect([far.reading.build.skirtLoops, far.reading.build.brimLines, far.summary.removed]).toEqual([
      1, 8, 0,
    ])
  })
  test('more loops of a skirt lie outside of it, and fewer are refused', async () => {
    const { reading } = await change(byHand({ skirtAt: 6 }), { kind: 'skirt', lines: 3 })
    expect(reading.build.skirtLoops).toBe(3)
    expect(await fault(byHand({ skirtAt: 6 }), { kind: 'skirt', lines: 0 })).toBe('change-only-more')
    expect(await fault(byHand({ skirtAt: 6 }), { kind: 'skirt', lines: 1 })).toBe('change-does-nothing')
  })
  test('a purge, the edge of the bed and a neighbour are not laid over', async () => {
    const beside = byHand({ places: [[8, 60]] })
    expect(await fault(beside, { kind: 'brim', lines: 8, gap: 0 })).toBe('change-lies-there')
    expect(await fault(beside, { kind: 'brim', lines: 3, gap: 0 })).toBe('none')
    const edge = byHand({ places: [[machine.bed.width - 14, 60]] })
    expect(await fault(edge, { kind: 'brim', lines: 8, gap: 0 })).toBe('change-no-room')
    const close = byHand({
      inTurn: true,
      places: [
        [60, 60],
        [77, 60],
      ],
    })
    expect(await fault(close, { kind: 'brim', lines: 12, gap: 0 })).toBe('change-lies-there')
    const shared = byHand({
      places: [
        [60, 60],
        [77, 60],
      ],
    })
    expect(await fault(shared, { kind: 'brim', lines: 12, gap: 0 })).toBe('none')
  })
  test('moved along when the whole print is', async () => {
    const old = byHand({})
    const { text: now, reading } = await change(
      old,
      { kind: 'brim', lines: 4, gap: 0 },
      { kind: 'move', x: 10, y: 0, z: 0.04 },
    )
    expect(reading.build.brimLines).toBe(4)
    const plain = await change(old, { kind: 'brim', lines: 4, gap: 0 })
    const left = (t: string) =>
      Math.min(
        ...pieces(t)
          .filter((p) => p.x1 > 20)
          .map((p) => p.x1),
      )
    expect(left(now) - left(plain.text)).toBeCloseTo(10, 2)
    expect(reading.firstLayer!.height).toBeCloseTo(0.32, 3)
  })
  test('a round foot has no corners for tabs', async () => {
    const round = partText(
      { shape: 'round', width: 20, height: 2 },
      {
        skirtLoops: 0,
        brimLines: 0,
      },
    )
    expect(await fault(round, { kind: 'tabs', diameter: 10 })).toBe('change-does-nothing')
  })
})

test('settings of the recipe become lines round the part; a gap alone has to be laid anew', () => {
  const { reading } = fileOf(byHand({}))
  const recipe = deriveRecipe({ machine, filament }) as never
  const set = (key: 'brimLines' | 'brimGap' | 'cornerTabs' | 'skirtLoops' | 'draughtWall', to: number) => ({
    key,
    to,
  })
  expect(changesOfFile([set('brimLines', 6), set('brimGap', 0.2)], reading, recipe)).toEqual({
    changes: [{ kind: 'brim', lines: 6, gap: 0.2 }],
    laidAnew: [],
    unknown: [],
  })
  expect(changesOfFile([set('brimGap', 0.2)], reading, recipe).laidAnew).toEqual(['brimGap'])
  expect(changesOfFile([set('cornerTabs', 12), set('draughtWall', 1)], reading, recipe).changes).toEqual([
    { kind: 'tabs', diameter: 12 },
    { kind: 'draught-wall', lines: 1 },
  ])
})

const anyDialect: fc.Arbitrary<Dialect> = fc
  .record({
    feed: fc.constantFrom('relative' as const, 'absolute' as const),
    steps: fc.boolean(),
    inches: fc.boolean(),
    volumetric: fc.boolean(),
    lowerCase: fc.boolean(),
    tight: fc.boolean(),
    numbered: fc.boolean(),
    lineEnd: fc.constantFrom('\n' as const, '\r\n' as const, '\r' as const),
    rate: fc.constantFrom('first' as const, 'each' as const, 'changed' as const, 'own-line' as const),
    reset: fc.constantFrom(0, 40, 500),
  })
  .map((d) => ({ ...PLAIN, ...d }) as Dialect)

test('in any dialect: as many lines as asked for, all other quantities as before', async () => {
  const kernel = await kernelReady
  const parts = [
    partText({ shape: 'box', width: 18, depth: 14, height: 2, bore: 5 }, { skirtLoops: 0, brimLines: 0 }),
    partText({ shape: 'box', width: 12, depth: 12, height: 3, copies: 2, apart: 34 } as PartOptions, {
      skirtLoops: 2,
      brimLines: 0,
    }),
    partText({ shape: 'box', width: 16, depth: 10, height: 2 }, { skirtLoops: 0, brimLines: 3 }),
  ].map((t) => readGcode(bytesOf(t)))
  fc.assert(
    fc.property(
      anyDialect,
      fc.nat(2),
      fc.integer({ min: 4, max: 7 }),
      fc.constantFrom('brim', 'skirt', 'draught-wall'),
      (dialect, k, lines, kind) => {
        const old = bytesOf(spelt(parts[k], dialect))
        const take = (b: Uint8Array) => {
          const analysis = analysePath(readGcode(b), context)
          return { analysis, reading: summarise(analysis) }
        }
        const file = take(old)
        const asked = (
          kind === 'brim' ? { kind, lines, gap: 0 } : { kind, lines: kind === 'skirt' ? lines : 1 }
        ) as FileChange
        const { bytes } = rewriteFile(old, file, [asked], machine, 1.75, kernel)
        const { reading } = take(bytes)
        checkRewritten(file.reading, reading, [asked])
        const { build } = reading
        const was = file.reading.build
        expect([build.brimLines, build.skirtLoops, build.draughtWall]).toEqual([
          kind === 'brim' ? lines : was.brimLines,
          kind === 'skirt' ? lines : was.skirtLoops,
          kind === 'draught-wall' ? 1 : was.draughtWall,
        ])
        for (const feature of [Feature.Outer, Feature.Inner, Feature.Solid, Feature.Infill])
          expect(
            Math.abs(reading.features[feature].length - file.reading.features[feature].length),
          ).toBeLessThan(0.5)
        expect(reading.travel.openUnretracted).toBe(file.reading.travel.openUnretracted)
        expect(reading.retraction.length).toBeCloseTo(file.reading.retraction.length!, 2)
        expect(reading.firstLayer!.speed).toBeCloseTo(file.reading.firstLayer!.speed, 1)
      },
    ),
    { ...tries(12), endOnFailure: true },
  )
})
