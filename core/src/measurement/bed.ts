import type { Reason } from '../quantity/reason'
import { tQuantile } from '../statistics/distributions'
import { linearFit } from '../statistics/regression'
import { thickestLayer, type BedScrew, type BedScrews, type Machine } from '../machine/machine'
import { bedSurface, middleOf, type BedSurface } from './bedSurface'
import { measuredReason } from './reasons'
import type { BedPoint, FeltGap, Measured, MeasuredOf } from './types'

/** Pitches of coarse metric threads, mm (ISO 261, 262). */
export const PITCHES: Readonly<Record<string, number>> = { M3: 0.5, M4: 0.7, M5: 0.8, M6: 1, M8: 1.25 }

/** A felt gap as a height: what a sheet tells, mm. Common practice, no source. */
const FELT = {
  loose: { beyond: 0.06, u: 0.04 },
  drags: { beyond: 0, u: 0.015 },
  tight: { beyond: -0.04, u: 0.025 },
}
/** A gap that was measured, mm. */
const MEASURED_GAP = 0.01

/** Heights of the surface from gaps under the nozzle: the wider the gap, the lower the bed. */
export function heightsOfGaps(gaps: readonly FeltGap[], sheet: number): BedPoint[] {
  return gaps.flatMap(({ x, y, feel, gap }) => {
    if (gap !== null) return [{ x, y, z: -gap, u: MEASURED_GAP }]
    if (!feel) return []
    const { beyond, u } = FELT[feel]
    return [{ x, y, z: -(sheet + beyond), u }]
  })
}

/** Three screws under the corners of a triangle or four under those of the bed, as most beds have them. */
export function usualScrews({ bed }: Pick<Machine, 'bed'>, count: 3 | 4): BedScrew[] {
  const inset = 0.08
  const left = (bed.shape === 'round' ? -bed.width / 2 : 0) + inset * bed.width
  const front = (bed.shape === 'round' ? -bed.depth / 2 : 0) + inset * bed.depth
  const right = left + (1 - 2 * inset) * bed.width
  const back = front + (1 - 2 * inset) * bed.depth
  const middle = (left + right) / 2
  return count === 4
    ? [
        { name: 'front left', x: left, y: front },
        { name: 'front right', x: right, y: front },
        { name: 'back right', x: right, y: back },
        { name: 'back left', x: left, y: back },
      ]
    : [
        { name: 'front left', x: left, y: front },
        { name: 'front right', x: right, y: front },
        { name: 'back', x: middle, y: back },
      ]
}

/** Plane through the heights: z = level + slopeX·x + slopeY·y. Plain data. */
export interface BedPlane {
  level: number
  slopeX: number
  slopeY: number
  /** Covariance of the three, mm² and mm² a mm. */
  covariance: number[][]
}
/** Height of a plane at a place, mm. */
export const planeAt = (
  { level, slopeX, slopeY }: Pick<BedPlane, 'level' | 'slopeX' | 'slopeY'>,
  x: number,
  y: number,
) => level + slopeX * x + slopeY * y
export interface ScrewTurn {
  screw: string
  /** Turns, always positive; 0 for the one that stays. */
  turns: number
  clockwise: boolean
  /** mm the bed moves at the screw, up counts positive. */
  move: number
  plusMinus: number
}

export interface BedOutcome {
  kind: 'found' | 'few'
  plane: BedPlane | null
  /** Heights less the plane, mm. */
  residuals: { x: number; y: number; z: number; residual: number }[]
  /** Highest less lowest of what the plane leaves, mm. */
  residual: number
  /** The same where it is more than the readings alone would scatter; else 0. */
  bow: number
  /** Highest less lowest of the bed as it lies, mm; 0 where the readings alone would scatter as far. */
  uneven: number
  /** mm the bed rises from its lowest to its highest corner, and half of the interval; 0 where it may as well be level. */
  tilt: number
  tiltPlusMinus: number
  /** Readings that stand off all others by so many mm, and were left out. */
  odd: { x: number; y: number; off: number }[]
  /** In the order they are turned. */
  turns: ScrewTurn[]
  /** Lowest first layer that buries what is left, mm; null when none does. */
  firstHeight: number | null
  /** For felt gaps: mm the z offset has to change. */
  gapChange: number | null
  reasons: Reason[]
}

/** Share of the first layer that unevenness may take: as the diagnosis reads it. Common practice, no source. */
const BURIED = 0.5

/**
 * What a bed is like from a probe grid or felt gaps: plane (weighted least squares), what the plane leaves, and by how
 * much each screw is to be turned. A rigid plate on its screws: each goes by the plane's height there, so that one
 * round levels it whatever the order; the one that moves least stays, those that go down come first.
 * @param screws null where the bed has none
 */
export function bedOutcome(
  measured: MeasuredOf<'bed'>,
  machine: Machine,
  screws: BedScrews | null,
): BedOutcome {
  const points = measured.from === 'grid' ? measured.points : heightsOfGaps(measured.gaps, measured.sheet)
  const empty: BedOutcome = {
    kind: 'few',
    plane: null,
    residuals: [],
    residual: 0,
    uneven: 0,
    bow: 0,
    tilt: 0,
    tiltPlusMinus: 0,
    odd: [],
    turns: [],
    firstHeight: null,
    gapChange: null,
    reasons: [],
  }
  if (points.length < 3)
    return { ...empty, reasons: [measuredReason('bed-too-few', { count: points.length })] }
  // numbers near one another's size keep the digits of the fit
  const half = Math.max(machine.bed.width, machine.bed.depth) / 2
  const surface = inLine(points, half) ? null : bedSurface(points, half, measured.from === 'felt')
  if (!surface) return { ...empty, reasons: [measuredReason('bed-in-line')] }
  const { kept, bow, uneven, leans } = surface
  const plane = planeOf(surface, half)
  const residuals = points.map((p) => ({ x: p.x, y: p.y, z: p.z, residual: p.z - planeAt(plane, p.x, p.y) }))
  const left = kept.map((p) => p.z - planeAt(plane, p.x, p.y))
  const spread = Math.max(...left) - Math.min(...left)
  const wide = tQuantile(0.975, surface.dof)
  const corners = cornersOf(machine).sort((a, b) => planeAt(plane, a.x, a.y) - planeAt(plane, b.x, b.y))
  const [lowest, highest] = [corners[0], corners[3]]
  const across = planeAt(plane, highest.x, highest.y) - planeAt(plane, lowest.x, lowest.y)
  const uTilt = wide * slopeUncertainty(plane, highest.x - lowest.x, highest.y - lowest.y)
  const tilt = leans ? across : 0
  const turns = screws ? turnsFor(plane, screws, leans, wide) : []
  const thickest = thickestLayer(machine)
  const needed = bow / BURIED
  const firstHeight = needed <= thickest ? Number(Math.max(0.12, needed).toFixed(2)) : null
  const mean =
    measured.from === 'felt'
      ? -planeAt(
          plane,
          machine.bed.shape === 'round' ? 0 : machine.bed.width / 2,
          machine.bed.shape === 'round' ? 0 : machine.bed.depth / 2,
        )
      : null
  const gapChange =
    mean !== null && measured.from === 'felt' ? Number((measured.sheet - mean).toFixed(3)) : null
  return {
    kind: 'found',
    plane,
    residuals,
    residual: spread,
    bow,
    uneven,
    tilt,
    tiltPlusMinus: uTilt,
    odd: surface.odd.map(({ point, off }) => ({ x: point.x, y: point.y, off })),
    turns,
    firstHeight,
    gapChange,
    reasons: [
      leans
        ? measuredReason('bed-tilt', { across: tilt, plusMinus: uTilt })
        : measuredReason('bed-flat', { plusMinus: uTilt }),
      ...turns.map((t) =>
        t.turns
          ? measuredReason('screw-turn', {
              screw: t.screw,
              turns: t.turns,
              clockwise: t.clockwise,
              up: t.move > 0,
              move: Math.abs(t.move),
            })
          : measuredReason('screw-stays', { screw: t.screw }),
      ),
      ...surface.odd.map(({ point, off }) => measuredReason('bed-odd', { x: point.x, y: point.y, off })),
      ...(bow > 0 ? [measuredReason('bed-bow', { bow, u: surface.sd })] : []),
      ...(bow > 0.12 ? [measuredReason('bow-not-cured', { bow })] : []),
      ...(firstHeight === null
        ? [measuredReason('nothing-buries', { residual: bow, most: thickest })]
        : bow > 0
          ? [measuredReason('first-height-buries', { height: firstHeight, residual: bow })]
          : []),
      ...(mean !== null && gapChange !== null && Math.abs(gapChange) >= 0.005
        ? [measuredReason('gap-mean', { gap: mean, change: gapChange })]
        : []),
    ],
  }
}

/** The fitted plane in the bed's own coordinates: the fit's are shifted and scaled. */
function planeOf({ plane: fit, kept, sd }: BedSurface, half: number): BedPlane {
  const [cx, cy] = middleOf(kept)
  const [a, b, c] = fit.coefficients
  // level = a − b·cx/half − c·cy/half, slopes b/half and c/half
  const by = [
    [1, -cx / half, -cy / half],
    [0, 1 / half, 0],
    [0, 0, 1 / half],
  ]
  const covariance = by.map((r) =>
    by.map(
      (q) => sd * sd * r.reduce((s, u, i) => s + u * q.reduce((t, v, k) => t + v * fit.inverse[i][k], 0), 0),
    ),
  )
  return { level: a - (b * cx + c * cy) / half, slopeX: b / half, slopeY: c / half, covariance }
}

/** Standard uncertainty of what a plane rises over a way, mm. */
function slopeUncertainty({ covariance }: BedPlane, dx: number, dy: number): number {
  const d = [0, dx, dy]
  const v = d.reduce((s, a, i) => s + a * d.reduce((q, b, j) => q + b * covariance[i][j], 0), 0)
  return Math.sqrt(Math.max(0, v))
}

/** Whether the places lie so nearly in a line that the bed across it is not known. */
function inLine(points: readonly BedPoint[], half: number): boolean {
  let widest = 0
  for (const a of points)
    for (const b of points) {
      const d = Math.hypot(b.x - a.x, b.y - a.y)
      if (!(d > 0)) continue
      for (const c of points)
        widest = Math.max(widest, Math.abs((b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x)) / d)
      if (widest > half / 10) return false
    }
  return widest <= half / 10
}

function cornersOf({ bed }: Machine): { x: number; y: number }[] {
  const [x0, y0] = bed.shape === 'round' ? [-bed.width / 2, -bed.depth / 2] : [0, 0]
  return [
    { x: x0, y: y0 },
    { x: x0 + bed.width, y: y0 },
    { x: x0 + bed.width, y: y0 + bed.depth },
    { x: x0, y: y0 + bed.depth },
  ]
}

/** Turns under this are left alone: a hand turns no finer. Common practice, no source. */
const LEAST_TURN = 1 / 32

/** @param wide standard uncertainties that a move has to be beyond */
function turnsFor(
  plane: BedPlane,
  { screws, pitch, clockwise }: BedScrews,
  leans: boolean,
  wide: number,
): ScrewTurn[] {
  const heights = screws.map((s) => planeAt(plane, s.x, s.y))
  const byHeight = screws.map((_, i) => i).sort((a, b) => heights[a] - heights[b])
  // the screw nearest the middle of the heights stays: the others then turn least in all
  const stays = byHeight[Math.floor((byHeight.length - 1) / 2)]
  return screws
    .map((s, i): ScrewTurn => {
      const move = heights[stays] - heights[i]
      const turns = Math.abs(move) / pitch
      const plusMinus =
        i === stays ? 0 : wide * slopeUncertainty(plane, s.x - screws[stays].x, s.y - screws[stays].y)
      const left = !leans || turns < LEAST_TURN || Math.abs(move) < plusMinus
      return {
        screw: s.name,
        turns: left ? 0 : Number(turns.toFixed(3)),
        clockwise: move > 0 === (clockwise === 'up'),
        move: left ? 0 : move,
        plusMinus,
      }
    })
    .sort((a, b) => a.move - b.move)
}

/** A levelling as the machine's record keeps it. */
export interface LevellingRecord {
  /** ISO date. */
  on: string
  plane: { level: number; slopeX: number; slopeY: number }
  residual: number
  /** Height at each screw less their mean, mm, before it was turned; and whether it was turned. */
  screws: { name: string; height: number }[]
  turned: boolean
}

/** A screw that gives way by itself: what it does in a week, from what each levelling finds since the last turn. */
export function screwDrift(records: readonly LevellingRecord[]): Reason[] {
  const names = [...new Set(records.flatMap((r) => r.screws.map((s) => s.name)))]
  return names.flatMap((screw) => {
    const points: { week: number; height: number }[] = []
    for (let i = 1; i < records.length; i++) {
      const before = records[i - 1]
      const now = records[i]
      const height = now.screws.find((s) => s.name === screw)?.height
      const then = before.screws.find((s) => s.name === screw)?.height
      const weeks = (Date.parse(now.on) - Date.parse(before.on)) / (7 * 86_400_000)
      if (height === undefined || then === undefined || !(weeks > 0)) continue
      // after turning it stood level
      points.push({ week: weeks, height: height - (before.turned ? 0 : then) })
    }
    if (points.length < 3) return []
    const fit = linearFit(
      points.map((p) => [p.week]),
      points.map((p) => p.height),
    )
    if (!fit || !(fit.dof > 0)) return []
    const t = Math.abs(fit.coefficients[0]) / Math.max(1e-9, fit.errors[0])
    const half = tQuantile(0.975, fit.dof)
    const perWeek = fit.coefficients[0]
    return t > half && Math.abs(perWeek) > 0.01
      ? [measuredReason('screw-drifts', { screw, perWeek, p: 0.05 })]
      : []
  })
}

/**
 * Screws that give way by themselves, from all that was measured of a machine's bed.
 * @param all newest first; what is not of a bed is passed over
 */
export function driftOf(
  all: readonly { measured: Measured; on: string; turned: boolean }[],
  machine: Machine,
): Reason[] {
  const { screws } = machine.bed
  if (!screws) return []
  const levellings = all
    .flatMap(({ measured, on, turned }): LevellingRecord[] => {
      if (measured.kind !== 'bed') return []
      const { plane, bow } = bedOutcome(measured, machine, screws)
      if (!plane) return []
      const heights = screws.screws.map((s) => planeAt(plane, s.x, s.y))
      const mean = heights.reduce((a, b) => a + b, 0) / heights.length
      return [
        {
          on,
          plane: { level: plane.level, slopeX: plane.slopeX, slopeY: plane.slopeY },
          residual: bow,
          turned,
          screws: screws.screws.map((s, i) => ({ name: s.name, height: heights[i] - mean })),
        },
      ]
    })
    .reverse()
  return screwDrift(levellings)
}
