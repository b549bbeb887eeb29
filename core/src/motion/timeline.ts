import { reasonsOf, type Reason } from '../quantity/reason'
import { MoveKind, type Program } from '../gcode/program'
import { cornerSpeed, type CornerRule } from '../machine/cornerRule'
import { moveTime } from './trapezoid'

/** What the machine can do, as far as time is concerned. */
export interface MotionLimits {
  /** mm/s */
  speed: number
  zSpeed: number
  /** mm/s² where the file sets none, and the most it may set. */
  acceleration: number
  travelAcceleration: number
  corner: CornerRule
}

export interface MotionTimeline {
  /** Seconds each move takes. */
  seconds: Float32Array
  /** Sum, s. */
  total: number
  /** Top speed each move really reaches, mm/s. */
  reached: Float32Array
  /** The assumptions behind the times. */
  assumed: Reason[]
}

/** What the times rest on, with the values its sentence needs. */
export interface MotionAssumptions {
  'motion-limits': { speed: number; acceleration: number; zSpeed: number }
  'corner-deviation': { deviation: number }
  'corner-change': { limit: number }
  'feed-acceleration': { acceleration: number }
}
const assumption = reasonsOf<MotionAssumptions>()

/** Acceleration of the drive gear taken where nothing says otherwise, mm/s². */
const FEED_ACCELERATION = 1000
/** Speed of head-still feeds whose own speed is unknown (firmware retraction), mm/s. */
const FEED_SPEED = 35

/**
 * Plans a program's motion: a trapezoid per move with unlimited look-ahead. Corner speeds follow the
 * machine's rule; a backward and a forward pass make every speed reachable. Kinematics.
 */
export function planMotion(program: Program, limits: MotionLimits): MotionTimeline {
  const { count, x, y, z, e, speed, kind, state, states } = program
  const length = new Float32Array(count)
  const cruise = new Float32Array(count)
  const accel = new Float32Array(count)
  const entry = new Float32Array(count + 1)
  const seconds = new Float32Array(count)
  const reached = new Float32Array(count)

  let ux = 0
  let uy = 0
  let uz = 0
  let joined = false
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    const moving = k === MoveKind.Travel || k === MoveKind.Extrude || k === MoveKind.RetractMoving
    if (!moving) {
      joined = false
      entry[i] = 0
      continue
    }
    const px = i ? x[i - 1] : 0
    const py = i ? y[i - 1] : 0
    const pz = i ? z[i - 1] : 0
    const dx = x[i] - px
    const dy = y[i] - py
    const dz = z[i] - pz
    const d = Math.sqrt(dx * dx + dy * dy + dz * dz)
    length[i] = d
    const s = states[state[i]]
    const travel = k === MoveKind.Travel
    const most = travel ? limits.travelAcceleration : limits.acceleration
    const asked = travel ? s.travelAcceleration : s.printAcceleration
    const a = asked && asked > 0 ? Math.min(asked, most) : most
    accel[i] = a
    let v = Math.min(speed[i] > 0 ? speed[i] : limits.speed, limits.speed)
    if (d > 0 && dz !== 0) v = Math.min(v, (limits.zSpeed * d) / Math.abs(dz))
    cruise[i] = v
    const nx = d > 0 ? dx / d : 0
    const ny = d > 0 ? dy / d : 0
    const nz = d > 0 ? dz / d : 0
    entry[i] = joined ? Math.min(cornerSpeed(limits.corner, a, ux, uy, uz, nx, ny, nz), cruise[i - 1], v) : 0
    ux = nx
    uy = ny
    uz = nz
    joined = d > 0
  }
  // backward: brake in time for what comes
  for (let i = count - 1; i >= 0; i--) {
    if (!length[i]) continue
    const exit = i + 1 < count && length[i + 1] > 0 ? entry[i + 1] : 0
    const reachable = Math.sqrt(exit * exit + 2 * accel[i] * length[i])
    if (entry[i] > reachable) entry[i] = reachable
  }
  let total = 0
  let entering = 0
  for (let i = 0; i < count; i++) {
    const k = kind[i]
    let t = 0
    if (length[i] > 0) {
      const next = i + 1 < count && length[i + 1] > 0 ? entry[i + 1] : 0
      const exit = Math.min(next, Math.sqrt(entering * entering + 2 * accel[i] * length[i]))
      t = moveTime(length[i], cruise[i], accel[i], entering, exit)
      reached[i] = Math.min(
        cruise[i],
        Math.sqrt((2 * accel[i] * length[i] + entering * entering + exit * exit) / 2),
      )
      entering = exit
    } else {
      entering = 0
      if (k === MoveKind.Dwell) t = speed[i]
      else if (k === MoveKind.Retract || k === MoveKind.Feed)
        t = moveTime(Math.abs(e[i]), speed[i] || FEED_SPEED, FEED_ACCELERATION)
    }
    seconds[i] = t
    total += t
  }
  return {
    seconds,
    reached,
    total,
    assumed: [
      assumption('motion-limits', {
        speed: limits.speed,
        acceleration: limits.acceleration,
        zSpeed: limits.zSpeed,
      }),
      limits.corner.kind === 'junction-deviation'
        ? assumption('corner-deviation', { deviation: limits.corner.deviation })
        : assumption('corner-change', { limit: limits.corner.limit }),
      assumption('feed-acceleration', { acceleration: FEED_ACCELERATION }),
    ],
  }
}
