/** A place on the bed, mm. */
export type Point = readonly [x: number, y: number]

/** An upright rectangle on the bed, mm. */
export interface Rect {
  x0: number
  y0: number
  x1: number
  y1: number
}

/** An upright block in the machine's space, mm. */
export interface Block extends Rect {
  z0: number
  z1: number
}

/** A rectangle with every edge moved outwards by `by` mm; inwards where that is negative. */
export const grow = (r: Rect, by: number): Rect => ({
  x0: r.x0 - by,
  y0: r.y0 - by,
  x1: r.x1 + by,
  y1: r.y1 + by,
})

/** Corners of a rectangle, beginning in front on the left, counter-clockwise. */
export const rectanglePoints = (r: Rect): Point[] => [
  [r.x0, r.y0],
  [r.x1, r.y0],
  [r.x1, r.y1],
  [r.x0, r.y1],
]

/** The rectangle of the given size around a middle. */
export const rectangleAround = (x: number, y: number, width: number, depth: number): Rect => ({
  x0: x - width / 2,
  x1: x + width / 2,
  y0: y - depth / 2,
  y1: y + depth / 2,
})

/** The same loop, begun at another of its points. */
export function startedAt<T>(points: readonly T[], index: number): T[] {
  const k = ((index % points.length) + points.length) % points.length
  return [...points.slice(k), ...points.slice(0, k)]
}

/**
 * A circle as a polygon, counter-clockwise from +X.
 * @param sides about three for each millimetre of diameter, 24 to 72, where it is left out
 * @param from how many sides further it begins
 */
export function circlePoints(
  cx: number,
  cy: number,
  diameter: number,
  sides = Math.max(24, Math.min(72, Math.round(diameter * 3))),
  from = 0,
): Point[] {
  return Array.from({ length: sides }, (_, i): Point => {
    const a = (2 * Math.PI * (i + from)) / sides
    return [cx + (diameter / 2) * Math.cos(a), cy + (diameter / 2) * Math.sin(a)]
  })
}

/**
 * Sides of a circle whose chords lie so far inside it at most: the sagitta of a chord is r · (1 − cos(π/n)).
 * @param tolerance mm
 */
export const sidesWithin = (diameter: number, tolerance: number): number =>
  Math.max(24, Math.ceil(Math.PI / Math.acos(1 - Math.min(1, (2 * tolerance) / diameter))))

/** Length of a closed loop, mm. */
export function perimeterOf(points: readonly Point[]): number {
  let length = 0
  for (let i = 0; i < points.length; i++) {
    const [ax, ay] = points[(i || points.length) - 1]
    length += Math.hypot(points[i][0] - ax, points[i][1] - ay)
  }
  return length
}
