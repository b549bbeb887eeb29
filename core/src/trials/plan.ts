import type { Program } from '../gcode/program'
import { readGcode } from '../gcode/reader/reader'
import type { Machine } from '../machine/machine'
import { cardOf } from '../material/cards'
import { Builder } from '../planner/builder'
import { PlanError, type PlanFault } from '../planner/planError'
import { filamentMass } from '../extrusion/bead'
import type { Reason } from '../quantity/reason'
import { planMotion } from '../motion/timeline'
import { printSettingsOf } from '../recipe/derive'
import { isNumberKey, settingOf } from '../recipe/settings'
import { median } from '../statistics/summary'
import { readPath } from '../toolpath/reading'
import { PIECES } from './pieces'
import { withFaceSpeeds } from './shared/faceSpeeds'
import { stepsOnRoll, stepsWithin, type PairOnBench, type StepProposal } from './pieces/piece'
import { pieceFault, stepReason } from './reasons'
import {
  stepValues,
  type Cell,
  type Piece,
  PIECE_IDS,
  type Extent,
  type PieceId,
  type PiecePlan,
  type Steps,
  type VariedKey,
} from './types'
import { variedOf } from './varied'

/** What an earlier trial of the pair found, with its interval. */
export interface KnownBest {
  best: number
  low: number
  high: number
  trial: number
}

/** A piece that cannot be printed as it was planned. */
export class PieceError extends Error {
  constructor(readonly reason: Reason) {
    super(reason.code)
    this.name = 'PieceError'
  }
}

/** Steps a piece is made with when nobody says otherwise: the whole of what is plausible at first, close round the best once a trial has shown it. */
export function proposeSteps(
  pair: PairOnBench,
  piece: PieceId,
  key?: VariedKey,
  known?: KnownBest | null,
): StepProposal {
  const d = PIECES[piece]
  const whole = d.propose(pair, key ?? d.keys[0])
  const wide: StepProposal = {
    ...whole,
    steps: stepsOnRoll(pair, whole.steps),
    ...(whole.across && { across: stepsOnRoll(pair, whole.across) }),
  }
  if (!known || wide.steps.count < 3) return wide
  const { from, to } = wide.steps
  const each = Math.abs(to - from) / (wide.steps.count - 1)
  const half = Math.max(known.high - known.best, known.best - known.low, each)
  const sign = Math.sign(to - from) || 1
  return {
    steps: stepsOnRoll(pair, {
      ...wide.steps,
      from: known.best - sign * half,
      to: known.best + sign * half,
      count: Math.max(d.counts.min, Math.min(wide.steps.count, 5)),
    }),
    reason: stepReason('close-round-best', { trial: known.trial }),
  }
}

/** Bounds of what is drawn into a piece, and of settings that mean something of their own there. */
const BOUNDS: Partial<Record<VariedKey, [number, number]>> = {
  meltRate: [0.3, 60],
  gap: [0.02, 1.5],
  span: [3, 80],
  length: [5, 200],
  posts: [1, 2],
  wallCount: [1, 4],
}
/** Deepest the nozzle is let down, against the height of the first layer. */
const DEEPEST = 0.7
const MOST_ACROSS = 3

/** A fault in a plan; null when it can be printed. */
export function planFault(pair: PairOnBench, plan: PiecePlan): Reason | null {
  const d = PIECES[plan.piece]
  return (
    d.lacks?.(pair) ??
    stepsFault(pair, plan.piece, plan.steps, d.keys, d.counts.min, d.counts.max) ??
    (plan.across ? stepsFault(pair, plan.piece, plan.across, d.across, 1, MOST_ACROSS) : null)
  )
}

function stepsFault(
  pair: PairOnBench,
  piece: PieceId,
  s: Steps,
  keys: readonly VariedKey[],
  least: number,
  most: number,
): Reason | null {
  const { key } = s
  if (!keys.includes(key)) return pieceFault('cannot-step', { piece, key })
  if (![s.from, s.to].every(Number.isFinite)) return pieceFault('ends-not-numbers', { key })
  if (!Number.isInteger(s.count) || s.count < least || s.count > most)
    return pieceFault('step-count', { piece, least, most })
  if (s.count > 1 && s.from === s.to) return pieceFault('ends-alike', { key })
  const kept = stepsWithin(pair.machine, s)
  const [low, high] = BOUNDS[key] ?? [-Infinity, Infinity]
  for (const end of ['from', 'to'] as const) {
    const value = s[end]
    if (isNumberKey(key) && Math.abs(kept[end] - value) > settingOf(key).step / 2 + 1e-9)
      return pieceFault('end-out-of-bounds', { key, value, nearest: kept[end] })
    if (key === 'zOffset' && value < -DEEPEST * pair.recipe.firstHeight.value)
      return pieceFault('into-the-bed', { key, value })
    if (value < low || value > high) return pieceFault('end-outside', { key, low, high })
  }
  return null
}

/**
 * Writes a test piece for a pair, from its recipe and within the machine's limits.
 * @param header what stands at the head of the file besides: pair, recipe version, trial
 * @throws PieceError when the plan is at fault or the piece does not fit
 */
export function makePiece(pair: PairOnBench, plan: PiecePlan, header: readonly string[] = []): Piece {
  const fault = planFault(pair, plan)
  if (fault) throw new PieceError(fault)
  const d = PIECES[plan.piece]
  const lists = [plan.steps, ...(plan.across ? [plan.across] : [])].map((s) => {
    const { label, unit } = variedOf(s.key)
    return `${label}: ${stepValues(s).join(', ')} ${unit}`.trim()
  })
  // the first line says what is varied
  const title = `${d.name.toLowerCase()}, ${lists.join('; ')}`
  const { flexible } = cardOf(pair.filament.family)
  const b = new Builder(pair.machine, printSettingsOf(pair.recipe), title, header, flexible)
  try {
    const { cells, view } = d.build(b, plan)
    const { gcode, box } = b.finish()
    const program = programOf(gcode)
    const motion = planMotion(program, pair.machine.limits)
    return {
      id: plan.piece,
      gcode,
      cells: d.timed
        ? timed(cells, program, pair.machine)
        : d.speeds
          ? withFaceSpeeds(cells, program, motion, pair.recipe.outerWidth.value)
          : cells,
      view,
      box,
      open: b.open,
      seconds: motion.total + AROUND,
    }
  } catch (error) {
    const fault = error instanceof PlanError ? PIECE_FAULTS[error.code] : undefined
    if (fault) throw new PieceError(pieceFault(fault))
    throw error
  }
}

const PIECE_FAULTS: Partial<Record<PlanFault, 'too-wide' | 'too-tall' | 'too-many-layers'>> = {
  'part-too-wide': 'too-wide',
  'part-too-tall': 'too-tall',
  'part-too-many-layers': 'too-many-layers',
}

/** A program as it is read back; past ASCII are only names in comments. */
function programOf(gcode: string): Program {
  const bytes = new Uint8Array(gcode.length)
  for (let i = 0; i < bytes.length; i++) bytes[i] = Math.min(126, gcode.charCodeAt(i))
  return readGcode(bytes)
}

/** Getting ready and putting away: homing and the end; heating depends on the machine. s */
const AROUND = 90

/** Cells with the time a layer of theirs takes on this machine, s, as the path reader plans it. */
function timed(cells: readonly Cell[], program: Program, machine: Machine): Cell[] {
  const { layers } = readPath(program, {
    filamentDiameter: 1.75, // times do not hang on it
    density: 1.24,
    nozzleDiameter: machine.nozzle.diameter,
    limits: machine.limits,
  })
  return cells.map((c) => {
    const inside = layers.seconds.filter(
      (_, i) => layers.z[i] > c.box.z0 + 0.4 && layers.z[i] < c.box.z1 - 0.4,
    )
    return { ...c, values: { ...c.values, minLayerTime: Number(median(inside).toFixed(1)) } }
  })
}

/** The longest a first look prints, minutes. */
export const FIRST_LOOK = 30

/** A plan as a first look, as usual, or with as many steps as there can be; the ends of its steps stay. */
export function planOfExtent(pair: PairOnBench, plan: PiecePlan, extent: Extent): PiecePlan {
  const { min, max, usual } = PIECES[plan.piece].counts
  const sized = (count: number): PiecePlan => ({ ...plan, extent, steps: { ...plan.steps, count } })
  if (min === max) return sized(plan.steps.count)
  if (extent === 'quick') return sized(countWithin(pair, sized(usual), FIRST_LOOK))
  return sized(extent === 'thorough' ? max : usual)
}

/** What a piece takes as it is proposed for a pair. */
export interface PieceCost {
  minutes: number
  grams: number
}

/** Minutes and grams of each piece as it would be proposed for the pair; none where it cannot be printed. */
export function pieceCosts(pair: PairOnBench): Partial<Record<PieceId, PieceCost>> {
  const out: Partial<Record<PieceId, PieceCost>> = {}
  for (const piece of PIECE_IDS) {
    const { steps, across } = proposeSteps(pair, piece)
    try {
      const { gcode, seconds } = makePiece(pair, { piece, steps, ...(across && { across }) })
      const program = programOf(gcode)
      const fed = program.e.subarray(0, program.count).reduce((sum, e) => sum + e, 0)
      out[piece] = {
        minutes: Math.round(seconds / 60),
        grams: Number(filamentMass(fed, pair.recipe.diameter.value, pair.recipe.density.value).toFixed(1)),
      }
    } catch (error) {
      if (!(error instanceof PieceError)) throw error
    }
  }
  return out
}

/** The largest number of steps whose piece prints within so many minutes, by rough time; the smallest there is if none. */
export function countWithin(pair: PairOnBench, plan: PiecePlan, minutes: number): number {
  const { min, max } = PIECES[plan.piece].counts
  for (let count = Math.min(max, Math.max(min, plan.steps.count)); count > min; count--) {
    try {
      if (makePiece(pair, { ...plan, steps: { ...plan.steps, count } }).seconds / 60 <= minutes) return count
    } catch (error) {
      if (!(error instanceof PieceError)) throw error // too large: fewer
    }
  }
  return min
}
