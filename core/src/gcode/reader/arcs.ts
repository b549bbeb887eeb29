import type { LineFaults } from '../program'

/** An arc in the XY plane, cut into chords. */
export interface ArcChords {
  cx: number
  cy: number
  radius: number
  /** Angle of the start, radians. */
  from: number
  /** Turn from start to end, radians; negative is clockwise. */
  sweep: number
  pieces: number
}

/** How far a chord may lie off its arc, mm. */
const SAGITTA = 0.005
const MOST_PIECES = 3600
/** Beyond this a centre is no machine's, mm. */
const FAR = 100_000

/**
 * The arc from one place to another, after NIST RS274/NGC (Kramer, Proctor, Messina 2000), as chords that stay
 * within 0.005 mm of it.
 * @param by the centre as an offset from the start (I, J), or the radius (R, negative for more than half a turn); mm
 * @returns a fault where there is no such arc; null where it is too small or too large to be one
 */
export function arcChords(
  px: number,
  py: number,
  x: number,
  y: number,
  clockwise: boolean,
  by: { radius: number } | { i: number; j: number },
): ArcChords | keyof LineFaults | null {
  let cx: number
  let cy: number
  if ('radius' in by) {
    const dx = x - px
    const dy = y - py
    const chord = Math.hypot(dx, dy)
    if (chord < 1e-9 || chord > 2 * Math.abs(by.radius) * 1.0001) return 'arc-radius-small'
    const side =
      Math.sqrt(Math.max(0, by.radius ** 2 - (chord / 2) ** 2)) * (clockwise === by.radius > 0 ? 1 : -1)
    cx = px + dx / 2 + (dy / chord) * side
    cy = py + dy / 2 - (dx / chord) * side
  } else {
    cx = px + by.i
    cy = py + by.j
  }
  const radius = Math.hypot(px - cx, py - cy)
  if (!(radius > 1e-6) || !(radius < FAR)) return null
  const from = Math.atan2(py - cy, px - cx)
  let sweep = Math.atan2(y - cy, x - cx) - from
  if (clockwise && sweep >= -1e-9) sweep -= 2 * Math.PI
  if (!clockwise && sweep <= 1e-9) sweep += 2 * Math.PI
  const step = 2 * Math.acos(1 - Math.min(SAGITTA, radius / 2) / radius)
  const pieces = Math.min(MOST_PIECES, Math.max(1, Math.ceil(Math.abs(sweep) / step)))
  return { cx, cy, radius, from, sweep, pieces }
}
