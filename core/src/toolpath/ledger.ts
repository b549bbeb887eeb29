import { MoveKind, type Program } from '../gcode/program'
import { median } from '../statistics/summary'
import type { LayerIndex } from './layers'

export interface PullBacks {
  kind: 'none' | 'feed' | 'firmware'
  count: number
  /** mm, the usual one; null where the file does not say. */
  length: number | null
  /** mm/s */
  speed: number | null
  /** mm fed beyond the pull-back when a path starts again, the usual one. */
  restartExtra: number | null
  /** mm the head rises for a travel with a pull-back, the usual one. */
  zLift: number | null
  /** Most pull-backs of one and the same stretch of filament. */
  worstPasses: number
}

/** How often the same stretch of filament passes the drive gear. */
export interface FeedLedger {
  /** Millimetres of filament by passes back: entry k counts those pulled back k times; the last one k or more. */
  byPasses: number[]
  /** The worst stretch: where on the filament, and on which layer it was pulled most. */
  worst: { at: number; length: number; passes: number; layer: number } | null
}

interface Pull {
  from: number
  to: number
  layer: number
  speed: number
  extra: number
  lift: number
}

/** Every pull-back with the stretch of filament it moves, by where that lies on the spool. */
function pullsOf(program: Program, index: LayerIndex): Pull[] {
  const { count, e, kind, speed, z } = program
  const pulls: Pull[] = []
  let position = 0
  let pulled = 0
  let pullSpeed = 0
  let layer = -1
  let fromZ = 0
  let topZ = 0
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    if (k === MoveKind.Retract || k === MoveKind.RetractMoving) {
      if (pulled === 0) {
        fromZ = topZ = z[i]
        layer = index.layerOf[i]
      }
      pulled -= e[i]
      if (k === MoveKind.Retract) pullSpeed = speed[i]
    } else if (pulled > 0) {
      if (z[i] > topZ) topZ = z[i]
      if (e[i] > 0) {
        if (layer >= 0 && pulled > 0.02)
          pulls.push({
            from: position,
            to: position + pulled,
            layer,
            speed: pullSpeed,
            extra: k === MoveKind.Feed ? e[i] - pulled : 0,
            lift: Math.max(0, topZ - Math.max(fromZ, z[i])),
          })
        pulled = 0
      }
    }
    position += e[i]
  }
  return pulls
}

/** How the filament is pulled back, as a rule. */
export function pullBacks(program: Program, index: LayerIndex): PullBacks {
  const pulls = pullsOf(program, index)
  const firmware = program.style.firmwareRetraction
  if (!pulls.length && !firmware)
    return {
      kind: 'none',
      count: 0,
      length: null,
      speed: null,
      restartExtra: null,
      zLift: null,
      worstPasses: 0,
    }
  const known = pulls.length > 0
  const usual = (f: (p: Pull) => number, digits: number) =>
    known ? Number(median(pulls.map(f)).toFixed(digits)) : null
  const speed = usual((p) => p.speed, 1)
  return {
    kind: firmware ? 'firmware' : 'feed',
    count: known ? pulls.length : program.kind.reduce((n, k) => n + (k === MoveKind.Retract ? 1 : 0), 0),
    length: usual((p) => p.to - p.from, 2) ?? program.style.firmwareRetractLength,
    speed: speed !== null && speed > 0 ? speed : null,
    restartExtra: usual((p) => p.extra, 3),
    zLift: usual((p) => p.lift, 2),
    worstPasses: sweep(pulls).worst?.passes ?? 0,
  }
}

const MOST_PASSES = 20

/** Counts over the filament how often each millimetre was pulled back; a sweep over the ends of the pulls. */
function sweep(pulls: Pull[]): FeedLedger {
  const ends = pulls.flatMap((p, k) => [
    { at: p.from, step: 1, k },
    { at: p.to, step: -1, k },
  ])
  ends.sort((p, q) => p.at - q.at || p.step - q.step)
  const byPasses = new Array<number>(MOST_PASSES + 1).fill(0)
  let now = 0
  let last = 0
  let worst: FeedLedger['worst'] = null
  for (let i = 0; i < ends.length; i++) {
    const { at, step, k } = ends[i]
    if (now > 0) byPasses[Math.min(MOST_PASSES, now)] += at - last
    now += step
    last = at
    if (step > 0 && now > (worst?.passes ?? 0)) {
      const next = ends[i + 1]
      worst = { at, length: next ? next.at - at : 0, passes: now, layer: pulls[k].layer }
    }
  }
  return {
    byPasses: byPasses.map((v) => Number(v.toFixed(1))),
    worst: worst && {
      ...worst,
      at: Number(worst.at.toFixed(1)),
      length: Number(worst.length.toFixed(2)),
    },
  }
}

/** How often each stretch of the filament passes the drive gear backwards. */
export function feedLedger(program: Program, index: LayerIndex): FeedLedger {
  const pulls = pullsOf(program, index)
  const ledger = sweep(pulls)
  let sum = 0
  let most = 0
  for (let i = 0; i < program.count; i++) {
    sum += program.e[i]
    if (sum > most) most = sum
  }
  ledger.byPasses[0] = Number(Math.max(0, most - ledger.byPasses.reduce((a, b) => a + b, 0)).toFixed(1))
  return ledger
}
