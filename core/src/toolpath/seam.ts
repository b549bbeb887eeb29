import { medianHigh } from '../statistics/summary'
import type { Analysis, LoopStart } from './analysis'

export interface SeamReading {
  /** Loop starts on outlines, at most {@link MOST_STARTS}, evenly thinned; angles in degrees, places in mm. */
  starts: {
    layer: number
    object: number
    x: number
    y: number
    angle: number
    turn: number
    hole: boolean
  }[]
  /** How many there are in all. */
  count: number
  /** By object: how strongly its outside starts share one direction. */
  objects: SeamOfObject[]
  /** Share of starts within 2 mm of a start on the layer below; null with fewer than four. */
  stacked: number | null
  /** Share of starts on a corner of 30° or more: outward and inward. */
  outwardCorner: number
  inwardCorner: number
  /** mm, medians over the starts */
  early: number
  wipe: number
}

export interface SeamOfObject {
  object: number
  count: number
  /** Mean resultant length of the starts' angles, 0 scattered to 1 in one line (circular statistics). */
  resultantLength: number
  /** Their mean direction, degrees. */
  direction: number
  /** Rayleigh test: chance of so strong a direction by accident. */
  p: number
}

const MOST_STARTS = 6000

/**
 * Mean resultant length, mean direction and the Rayleigh test of angles in degrees.
 * Mardia & Jupp, Directional Statistics (2000): R̄ = |Σe^{iθ}|/n; p by the approximation
 * exp(√(1 + 4n + 4(n² − (nR̄)²)) − (1 + 2n)) (Zar, Biostatistical Analysis, 27.4; from memory).
 */
export function circular(angles: readonly number[]): {
  resultantLength: number
  direction: number
  p: number
} {
  const n = angles.length
  if (!n) return { resultantLength: 0, direction: 0, p: 1 }
  let c = 0
  let s = 0
  for (const a of angles) {
    c += Math.cos((a * Math.PI) / 180)
    s += Math.sin((a * Math.PI) / 180)
  }
  const r = Math.hypot(c, s)
  const p = Math.exp(Math.sqrt(1 + 4 * n + 4 * (n * n - r * r)) - (1 + 2 * n))
  return {
    resultantLength: r / n,
    direction: ((Math.atan2(s, c) * 180) / Math.PI + 360) % 360,
    p: Math.min(1, Math.max(0, p)),
  }
}

/** Where outlines start, how stacked they are, and how their ends are treated. */
export function readSeam(a: Analysis): SeamReading {
  const all = a.starts.filter((s) => s.layer > 0)
  const outside = all.filter((s) => !s.hole)
  const below = new Map<number, LoopStart[]>()
  for (const s of all) (below.get(s.layer) ?? below.set(s.layer, []).get(s.layer)!).push(s)
  let near = 0
  let judged = 0
  for (const s of all) {
    const under = below.get(s.layer - 1)?.filter((u) => u.hole === s.hole && u.object === s.object)
    if (!under?.length) continue
    judged++
    if (under.some((u) => Math.hypot(u.x - s.x, u.y - s.y) < 2)) near++
  }
  const byObject = new Map<number, number[]>()
  for (const s of outside)
    if (s.object >= 0) (byObject.get(s.object) ?? byObject.set(s.object, []).get(s.object)!).push(s.angle)
  const thin = Math.max(1, Math.ceil(all.length / MOST_STARTS))
  const middle = (pick: (s: LoopStart) => number) => {
    return all.length ? Number(medianHigh(all.map(pick)).toFixed(3)) : 0
  }
  return {
    starts: all
      .filter((_, i) => i % thin === 0)
      .map((s) => ({
        layer: s.layer,
        object: s.object,
        x: Number(s.x.toFixed(2)),
        y: Number(s.y.toFixed(2)),
        angle: Number(s.angle.toFixed(1)),
        turn: Number(s.turn.toFixed(0)),
        hole: s.hole,
      })),
    count: all.length,
    objects: [...byObject]
      .sort((p, q) => p[0] - q[0])
      .map(([object, angles]) => {
        const c = circular(angles)
        return {
          object,
          count: angles.length,
          resultantLength: Number(c.resultantLength.toFixed(4)),
          direction: Number(c.direction.toFixed(1)),
          p: c.p,
        }
      }),
    stacked: judged < 4 ? null : Number((near / judged).toFixed(3)),
    outwardCorner: share(all, (s) => s.turn >= 30),
    inwardCorner: share(all, (s) => s.turn <= -30),
    early: middle((s) => s.early),
    wipe: middle((s) => s.wipe),
  }
}

const share = (all: LoopStart[], test: (s: LoopStart) => boolean) =>
  all.length ? Number((all.filter(test).length / all.length).toFixed(3)) : 0
