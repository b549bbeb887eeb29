import { MoveKind } from '../gcode/program'
import type { Inserted, Overlay } from '../gcode/rewrite/overlay'
import { randomStream } from '../statistics/random'
import { ChangeError, type FileChange } from './change'
import type { FileAsRead } from './file'
import { isArc, loopEnds, type LoopEnd, type Piece } from './loopEnds'

/** A place on a loop: on which piece, and how far along it, 0 to 1. */
interface Place {
  piece: number
  share: number
}

/** Turn at the beginning of each piece, degrees; positive to the left. */
function turns(laid: readonly Piece[]): number[] {
  return laid.map((q, k) => {
    const p = laid[(k + laid.length - 1) % laid.length]
    const [ax, ay, bx, by] = [p.x - p.x0, p.y - p.y0, q.x - q.x0, q.y - q.y0]
    return (Math.atan2(ax * by - ay * bx, ax * bx + ay * by) * 180) / Math.PI
  })
}

/** Where a loop is to start. */
function placeOf(
  { laid, stretch }: LoopEnd,
  { place, direction }: Extract<FileChange, { kind: 'seam' }>,
  random: () => number,
): Place {
  const best = (worth: (k: number) => number): Place => {
    let piece = 0
    for (let k = 1; k < laid.length; k++) if (worth(k) > worth(piece) + 1e-6) piece = k
    return { piece, share: 0 }
  }
  if (place === 'scattered') {
    let way = random() * laid.reduce((sum, p) => sum + p.length, 0)
    let piece = 0
    while (piece < laid.length - 1 && way > laid[piece].length) way -= laid[piece++].length
    const share = Math.min(1, way / (laid[piece].length || 1))
    // a piece of a hair's length is none
    return share < 0.05 || share > 0.95 ? { piece, share: 0 } : { piece, share }
  }
  if (place === 'tucked') {
    // corners that turn inwards hide it, others still better than a face
    let twice = 0
    for (const p of laid) twice += p.x0 * p.y - p.x * p.y0
    const side = (twice > 0 ? 1 : -1) * (stretch.outermost ? 1 : -1)
    const corner = turns(laid).map((t) =>
      Math.abs(t) < 30 ? 0 : t * side < 0 ? 1000 - t * side : Math.abs(t),
    )
    return best((k) => corner[k] + 1e-4 * (laid[k].x0 + laid[k].y0))
  }
  const angle = (direction * Math.PI) / 180
  // as the planner stacks them
  const [ux, uy] = place === 'stacked' ? [0.35, 1] : [Math.cos(angle), Math.sin(angle)]
  return best((k) => laid[k].x0 * ux + laid[k].y0 * uy)
}

/** The moves of a loop from a place on it round to that place again. */
function roundFrom(file: FileAsRead, { laid }: LoopEnd, { piece, share }: Place): Inserted[] {
  const { e, speed } = file.analysis.program
  const whole = (p: Piece): Inserted => ({ x: p.x, y: p.y, e: e[p.move], speed: speed[p.move] })
  const cut = laid[piece]
  const [x, y] = [cut.x0 + share * (cut.x - cut.x0), cut.y0 + share * (cut.y - cut.y0)]
  const after = laid.slice(piece + 1).map(whole)
  const before = laid.slice(0, piece).map(whole)
  if (share === 0) return [whole(cut), ...after, ...before]
  const own = { speed: speed[cut.move] }
  return [
    { x: cut.x, y: cut.y, e: e[cut.move] * (1 - share), ...own },
    ...after,
    ...before,
    { x, y, e: e[cut.move] * share, ...own },
  ]
}

/** The beginning of a way, so far, without feeding. */
function along(way: readonly Inserted[], from: { x: number; y: number }, length: number): Inserted[] {
  const out: Inserted[] = []
  let [x, y, toGo] = [from.x, from.y, length]
  for (const step of way) {
    if (toGo <= 1e-3) break
    const d = Math.hypot(step.x! - x, step.y! - y)
    const t = Math.min(1, toGo / (d || 1))
    out.push({ x: x + t * (step.x! - x), y: y + t * (step.y! - y), speed: step.speed })
    ;[x, y, toGo] = [step.x!, step.y!, toGo - d]
  }
  return out
}

/**
 * Lets closed loops that face the air start elsewhere: the travel to them ends there, and they are laid round from there with
 * the same lines, feeds and speeds. Loops of arcs, such as stop early, and such as go on from another line stay.
 */
export function seam(file: FileAsRead, change: Extract<FileChange, { kind: 'seam' }>): Overlay {
  const { program } = file.analysis
  const { kind, x, y } = program
  const random = randomStream(20_261_202)
  const steps = new Map<number, Inserted[]>()
  const dropped = new Set<number>()
  const shiftX = new Map<number, number>()
  const shiftY = new Map<number, number>()
  for (const end of loopEnds(file)) {
    const { laid, stretch, wiped } = end
    const first = laid[0]
    if (
      laid.length < 3 ||
      end.glide.length ||
      Math.hypot(x[stretch.to] - first.x0, y[stretch.to] - first.y0) > 0.03
    )
      continue
    if (laid.some((p) => isArc(file, p.move)) || wiped.some((p) => isArc(file, p.move))) continue
    const place = placeOf(end, change, random)
    if (place.piece === 0 && place.share === 0) continue
    // the travel that ends where the loop began
    let travel = stretch.from - 1
    while (
      travel > 0 &&
      kind[travel] !== MoveKind.Extrude &&
      x[travel] === x[travel - 1] &&
      y[travel] === y[travel - 1]
    )
      travel--
    if (kind[travel] !== MoveKind.Travel) continue
    const next = (wiped.at(-1) ?? laid.at(-1)!).move + 1
    if (next >= program.count || kind[next] === MoveKind.Extrude) continue
    const cut = laid[place.piece]
    const start = {
      x: cut.x0 + place.share * (cut.x - cut.x0),
      y: cut.y0 + place.share * (cut.y - cut.y0),
    }
    for (let i = travel; i < stretch.from; i++) {
      shiftX.set(i, start.x - first.x0)
      shiftY.set(i, start.y - first.y0)
    }
    const way = roundFrom(file, end, place)
    steps.set(stretch.from, way)
    for (const p of [...laid, ...wiped]) dropped.add(p.move)
    const wipe = wiped.reduce((sum, p) => sum + p.length, 0)
    if (wipe > 0.02) steps.set(next, along(way, start, wipe))
  }
  if (!steps.size) throw new ChangeError('change-does-nothing')
  return {
    shift: { x: (i) => shiftX.get(i) ?? 0, y: (i) => shiftY.get(i) ?? 0 },
    drops: (i) => dropped.has(i),
    before: (i) => steps.get(i),
  }
}
