/** How a machine limits speed where two moves meet. */
export type CornerRule =
  | { kind: 'instant-change'; /** mm/s per axis that may change at once. */ limit: number }
  | { kind: 'junction-deviation'; /** mm the corner may be cut by. */ deviation: number }

/**
 * Fastest speed through the corner between two moves with unit directions `a` and `b`.
 * Junction deviation: v² = a·δ·sin(θ/2)/(1 − sin(θ/2)), θ the angle between the moves.
 * Instant change: no axis may change by more than the limit.
 */
export function cornerSpeed(
  rule: CornerRule,
  acceleration: number,
  ax: number,
  ay: number,
  az: number,
  bx: number,
  by: number,
  bz: number,
): number {
  if (rule.kind === 'instant-change') {
    const step = Math.max(Math.abs(ax - bx), Math.abs(ay - by), Math.abs(az - bz))
    return step < 1e-9 ? Infinity : rule.limit / step
  }
  const cos = -(ax * bx + ay * by + az * bz)
  if (cos >= 0.999999) return 0 // turns straight back
  const sinHalf = Math.sqrt(Math.max(0, 0.5 * (1 - cos)))
  if (sinHalf > 0.999999) return Infinity
  return Math.sqrt((acceleration * rule.deviation * sinHalf) / (1 - sinHalf))
}

const HALF_SQUARE = Math.SQRT1_2 / (1 - Math.SQRT1_2)
/** Speed through a square corner under junction deviation, mm/s: v² = a·δ·sin 45°/(1 − sin 45°). */
export function squareCornerSpeed(deviation: number, acceleration: number): number {
  return Math.sqrt(acceleration * deviation * HALF_SQUARE)
}
/** Junction deviation, mm, that takes a square corner at `speed` mm/s; the inverse of {@link squareCornerSpeed}. */
export function squareCornerDeviation(speed: number, acceleration: number): number {
  return (speed * speed) / (acceleration * HALF_SQUARE)
}
