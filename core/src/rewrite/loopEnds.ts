import { beadArea } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
import type { Inserted, Overlay } from '../gcode/rewrite/overlay'
import { Feature } from '../toolpath/features'
import type { Stretch } from '../toolpath/loops'
import { ChangeError } from './change'
import type { FileAsRead } from './file'

/** A piece of a loop: one move, with its own start. */
export interface Piece {
  move: number
  x0: number
  y0: number
  x: number
  y: number
  length: number
}

/** The end of a loop that faces the air. */
export interface LoopEnd {
  stretch: Stretch
  /** The loop's own moves, and those that glide to its start without feeding. */
  laid: Piece[]
  glide: Piece[]
  /** Moves that go on along the loop past its start. */
  wiped: Piece[]
  /** mm of filament a mm. */
  rate: number
}

/** Longest way without feed that still belongs to a loop's end, mm. */
const LONGEST = 12
/** A place on the loop is no farther from it than this, mm. */
const ON = 0.08

const between = (px: number, py: number, q: Piece) => {
  const dx = q.x - q.x0
  const dy = q.y - q.y0
  const t = Math.min(1, Math.max(0, ((px - q.x0) * dx + (py - q.y0) * dy) / (dx * dx + dy * dy || 1)))
  return Math.hypot(px - q.x0 - t * dx, py - q.y0 - t * dy)
}

export function loopEnds({ analysis }: FileAsRead): LoopEnd[] {
  const { program, starts } = analysis
  const { x, y, kind, count } = program
  const byFrom = new Map(analysis.stretches.map((s) => [s.from, s]))
  const piece = (i: number): Piece => {
    const [x0, y0] = i ? [x[i - 1], y[i - 1]] : [0, 0]
    return { move: i, x0, y0, x: x[i], y: y[i], length: Math.hypot(x[i] - x0, y[i] - y0) }
  }
  const out: LoopEnd[] = []
  for (const start of starts) {
    const stretch = byFrom.get(start.stretch)
    if (!stretch || start.layer < 1) continue
    const laid: Piece[] = []
    for (let i = stretch.from; i <= stretch.to; i++) laid.push(piece(i))
    const on = (px: number, py: number) => laid.some((q) => between(px, py, q) < ON)
    const glide: Piece[] = []
    const wiped: Piece[] = []
    let back = Math.hypot(x[stretch.to] - start.x, y[stretch.to] - start.y) < 0.03
    let way = 0
    for (let i = stretch.to + 1; i < count && kind[i] === MoveKind.Travel; i++) {
      const p = piece(i)
      way += p.length
      const home = Math.hypot(p.x - start.x, p.y - start.y) < 0.05
      if (way > LONGEST || !(home || on(p.x, p.y)) || !on((p.x + p.x0) / 2, (p.y + p.y0) / 2)) break
      ;(back ? wiped : glide).push(p)
      back ||= home
    }
    // what does not come back to the start is a travel
    if (!back) glide.length = 0
    out.push({ stretch, laid, glide, wiped, rate: stretch.fed / stretch.length })
  }
  return out
}

/** Several chords of one line are an arc: it is not cut. */
export const isArc = ({ analysis }: FileAsRead, move: number) => {
  const { line } = analysis.program
  return line[move] === line[move - 1] || line[move] === line[move + 1]
}

/**
 * Lets the feed of loops that face the air end so much earlier or later.
 * @param volume mm³ left out
 */
export function earlyStop(file: FileAsRead, volume: number): Overlay {
  const { program } = file.analysis
  const { width } = file.reading.features[Feature.Outer]
  const height = file.reading.layerHeight ?? 0
  if (!(height > 0) || !(width > height)) throw new ChangeError('change-not-told')
  const left = volume / beadArea(width, height)
  const fed = new Map<number, number>()
  const speeds = new Map<number, number>()
  const steps = new Map<number, Inserted[]>()
  for (const end of loopEnds(file)) {
    const way = [...end.laid, ...end.glide]
    const speed = program.speed[end.stretch.to]
    const whole = way.reduce((sum, p) => sum + p.length, 0)
    if (whole < 4 * left + 2) continue
    let toGo = whole
    const tail: { piece: Piece; share: number }[] = []
    for (const piece of way) {
      const after = toGo - piece.length
      // the share of the piece that is fed
      const share = toGo <= left + 1e-6 ? 0 : after >= left - 1e-6 ? 1 : (toGo - left) / piece.length
      const was = piece.move <= end.stretch.to ? 1 : 0
      if (Math.abs(share - was) > 1e-6) tail.push({ piece, share })
      toGo = after
    }
    if (!tail.length || tail.some(({ piece }) => isArc(file, piece.move))) continue
    for (const { piece, share } of tail) {
      const own = piece.move <= end.stretch.to ? program.e[piece.move] : end.rate * piece.length
      if (piece.move > end.stretch.to && share > 0) speeds.set(piece.move, speed)
      if (share > 0 && share < 1) {
        const [x, y] = [piece.x0 + share * (piece.x - piece.x0), piece.y0 + share * (piece.y - piece.y0)]
        steps.set(piece.move, [{ x, y, e: own * share, speed }])
        fed.set(piece.move, 0)
      } else fed.set(piece.move, own * share)
    }
  }
  if (!fed.size) throw new ChangeError('change-does-nothing')
  return {
    feed: (i, e) => fed.get(i) ?? e,
    speed: (i, v) => speeds.get(i) ?? v,
    before: (i) => steps.get(i),
  }
}

/** Lets the head go on along loops that face the air for so far, mm. */
export function wipe(file: FileAsRead, length: number): Overlay {
  const { program } = file.analysis
  const dropped = new Set<number>()
  const steps = new Map<number, Inserted[]>()
  for (const end of loopEnds(file)) {
    const was = end.wiped.reduce((sum, p) => sum + p.length, 0)
    if (Math.abs(was - length) < 0.02) continue
    if (end.wiped.some((p) => isArc(file, p.move))) continue
    const next = (end.wiped.at(-1) ?? end.glide.at(-1) ?? end.laid.at(-1)!).move + 1
    if (next >= program.count || program.kind[next] === MoveKind.Extrude) continue
    for (const p of end.wiped) dropped.add(p.move)
    const speed = program.speed[end.stretch.to]
    const points: Inserted[] = []
    let toGo = length
    for (const p of end.laid) {
      if (toGo <= 1e-3) break
      const t = Math.min(1, toGo / (p.length || 1))
      points.push({ x: p.x0 + t * (p.x - p.x0), y: p.y0 + t * (p.y - p.y0), speed })
      toGo -= p.length
    }
    if (points.length) steps.set(next, points)
  }
  if (!steps.size && !dropped.size) throw new ChangeError('change-does-nothing')
  return { drops: (i) => dropped.has(i), before: (i) => steps.get(i) }
}
