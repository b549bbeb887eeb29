import fc from 'fast-check'
import { parseStringSync } from 'gcode-parser'
import { MoveKind, readGcode } from '../src/gcode'
import { planMotion } from '../src/motion'
import { DEMO_MACHINES } from '../src/demo'
import { tries } from './lib/property'

/*
 * What the reader makes of a program, held against another's reading of it: words from the general-purpose parser
 * `gcode-parser` of the npm registry, and over them a plain interpreter of the few codes that are generated here,
 * after NIST RS274/NGC (Kramer, Proctor, Messina 2000) for G0, G1, G20, G21, G90, G91 and G92, and common practice
 * for M82 and M83.
 */
interface Place {
  x: number
  y: number
  z: number
  fed: number
  speed: number
}

/** Where the head is after each move, by the other reading. */
function reference(text: string): Place[] {
  const out: Place[] = []
  const at = { X: 0, Y: 0, Z: 0 }
  const offset = { X: 0, Y: 0, Z: 0 }
  let e = 0
  let speed = 0
  let unit = 1
  let relative = false
  let relativeFeed = false
  for (const { words } of parseStringSync(text)) {
    const value = (letter: string) => words.find(([l]) => l === letter)?.[1]
    for (const [letter, code] of words) {
      if (letter === 'G' && code === 20) unit = 25.4
      if (letter === 'G' && code === 21) unit = 1
      if (letter === 'G' && (code === 90 || code === 91)) relative = relativeFeed = code === 91
      if (letter === 'M' && (code === 82 || code === 83)) relativeFeed = code === 83
    }
    const g = words.find(([l]) => l === 'G')?.[1]
    if (g === 92) {
      for (const axis of ['X', 'Y', 'Z'] as const) {
        const set = value(axis)
        if (set !== undefined) offset[axis] = at[axis] - set * unit
      }
      const set = value('E')
      if (set !== undefined) e = set * unit
    }
    if (g !== 0 && g !== 1) continue
    const f = value('F')
    if (f !== undefined) speed = (f * unit) / 60
    let moved = false
    for (const axis of ['X', 'Y', 'Z'] as const) {
      const to = value(axis)
      if (to === undefined) continue
      const now = relative ? at[axis] + to * unit : to * unit + offset[axis]
      if (Math.abs(now - at[axis]) > 1e-9) moved = true
      at[axis] = now
    }
    const fed = value('E')
    let by = 0
    if (fed !== undefined) {
      by = relativeFeed ? fed * unit : fed * unit - e
      e = relativeFeed ? e + by : fed * unit
    }
    if (moved || Math.abs(by) > 1e-9) out.push({ x: at.X, y: at.Y, z: at.Z, fed: by, speed })
  }
  return out
}

const round = (digits: number) => (v: number) => Number(v.toFixed(digits))
const coordinate = fc.double({ min: 0, max: 200, noNaN: true }).map(round(2))
const step = fc.double({ min: -8, max: 8, noNaN: true }).map(round(2))
const fed = fc.double({ min: -3, max: 6, noNaN: true }).map(round(2))
const word = (letter: string, of: fc.Arbitrary<number>) => of.map((v) => `${letter}${v}`)
/** Words of a move in any order, some of them left out, with any spaces and any case. */
const moveWith = (place: fc.Arbitrary<number>, e: fc.Arbitrary<number>) =>
  fc
    .tuple(
      fc.constantFrom('G0', 'G1', 'g1', 'G01', 'G1.0'),
      fc.subarray(['X', 'Y', 'Z', 'E', 'F'], { minLength: 1 }),
      place,
      place,
      place.map((v) => Math.abs(v) / 10),
      e,
      fc.integer({ min: 60, max: 12_000 }),
      fc.constantFrom(' ', '  ', '\t'),
      fc.constantFrom('', ' ; words G1 X1', ' (in brackets X9)'),
    )
    .map(([g, letters, x, y, z, feed, f, gap, comment]) => {
      const values: Record<string, number> = { X: x, Y: y, Z: Number(z.toFixed(2)), E: feed, F: f }
      return [g, ...letters.map((l) => `${l}${values[l]}`)].join(gap) + comment
    })
const setting = fc.oneof(
  word('G92 E', fc.constantFrom(0, 1.5, -2)),
  fc.constantFrom('G92 X10', 'G92 Z0', 'M82', 'M83', '; a comment alone', '(another)', '', 'M105'),
)
/** A program whose mode does not change; no step is so small that a reader may take it for rounding. */
const program = fc
  .tuple(
    fc.constantFrom('G21', 'G20'),
    fc.boolean(),
    fc.array(fc.oneof({ weight: 4, arbitrary: fc.constant('move') }, fc.constant('set')), {
      minLength: 3,
      maxLength: 40,
    }),
    fc.infiniteStream(moveWith(coordinate, fed)),
    fc.infiniteStream(moveWith(step, fed)),
    fc.infiniteStream(setting),
    fc.constantFrom('\n', '\r\n'),
  )
  .map(([unit, relative, kinds, absolutes, steps, settings, end]) => {
    const lines = [unit, relative ? 'G91' : 'G90', 'G1 X1 Y1 Z0.2 E1 F1200']
    for (const kind of kinds)
      lines.push(kind === 'move' ? (relative ? steps : absolutes).next().value : settings.next().value)
    return lines.join(end) + end
  })

const bytes = (text: string) => Uint8Array.from(text, (c) => c.charCodeAt(0))
/** Moves of the reader that go somewhere or feed. */
function ours(text: string): Place[] {
  const p = readGcode(bytes(text))
  const out: Place[] = []
  for (let i = 0; i < p.count; i++)
    if (p.kind[i] !== MoveKind.Dwell && p.kind[i] !== MoveKind.Jump)
      out.push({ x: p.x[i], y: p.y[i], z: p.z[i], fed: p.e[i], speed: p.speed[i] })
  return out
}

test('any program of straight moves: every place, every feed and every speed as the other reading has it', () => {
  fc.assert(
    fc.property(program, (text) => {
      const theirs = reference(text)
      // beyond this the reader rightly doubts that it is a machine's coordinate
      fc.pre(theirs.every((m) => Math.abs(m.x) < 900 && Math.abs(m.y) < 900 && Math.abs(m.z) < 900))
      const mine = ours(text)
      expect(mine).toHaveLength(theirs.length)
      mine.forEach((m, i) => {
        const scale = Math.max(1, Math.abs(theirs[i].x), Math.abs(theirs[i].y))
        expect(Math.abs(m.x - theirs[i].x)).toBeLessThan(2e-6 * scale)
        expect(Math.abs(m.y - theirs[i].y)).toBeLessThan(2e-6 * scale)
        expect(Math.abs(m.z - theirs[i].z)).toBeLessThan(2e-5)
        expect(Math.abs(m.fed - theirs[i].fed)).toBeLessThan(2e-4)
      })
    }),
    tries(250, [
      // fed in steps, then absolute: what was fed counts
      ['G21\nG91\nG1 X1 Y1 Z0.2 E1 F1200\nM82\nG1 E0\nG1 X4 E3\n'],
    ]),
  )
})

test('the way a program is cut into pieces, and comments and empty lines in it, change nothing', () => {
  fc.assert(
    fc.property(program, (text) => {
      const plain = text
        .split(/\r?\n/)
        .map((line) => line.replace(/;.*|\([^)]*\)/g, '').trim())
        .filter(Boolean)
        .join('\n')
      expect(ours(`${plain}\n`)).toEqual(ours(text))
      // without an end of the last line
      expect(ours(plain)).toEqual(ours(text))
    }),
    tries(120),
  )
})

test('no move is planned faster than it was asked, nor than the machine can', () => {
  const { limits } = DEMO_MACHINES.shed
  fc.assert(
    fc.property(program, (text) => {
      const p = readGcode(bytes(text))
      const timeline = planMotion(p, limits)
      let x = 0
      let y = 0
      let z = 0
      for (let i = 0; i < p.count; i++) {
        const long = Math.hypot(p.x[i] - x, p.y[i] - y, p.z[i] - z)
        ;[x, y, z] = [p.x[i], p.y[i], p.z[i]]
        if (p.kind[i] === MoveKind.Jump || p.kind[i] === MoveKind.Dwell || long < 1e-6) continue
        const took = timeline.seconds[i]
        const most = p.speed[i] > 0 ? Math.min(p.speed[i], limits.speed) * (1 + 1e-4) + 1e-6 : Infinity
        if (!(took > 0 && long / took <= most)) throw new Error(`move ${i}: ${long} mm in ${took} s`)
      }
    }),
    tries(120),
  )
})

test('a longer program never takes less time than its beginning', () => {
  const { limits } = DEMO_MACHINES.shed
  const seconds = (lines: string[]) => planMotion(readGcode(bytes(`${lines.join('\n')}\n`)), limits).total
  fc.assert(
    fc.property(program, fc.double({ min: 0.2, max: 0.9, noNaN: true }), (text, share) => {
      const lines = text.split(/\r?\n/).filter(Boolean)
      const begun = lines.slice(0, Math.max(3, Math.floor(lines.length * share)))
      // the end of a program is a stop: the beginning alone may lose what slowing down takes
      expect(seconds(lines)).toBeGreaterThanOrEqual(seconds(begun) * 0.98 - 1)
    }),
    tries(80),
  )
})
