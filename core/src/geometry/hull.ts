/** A place on the bed, mm. */
export interface Place {
  x: number
  y: number
}

/**
 * Convex hull, counter-clockwise, without points on its edges. Andrew's monotone chain (1979).
 * @param points at least one; two or fewer different ones give themselves
 */
export function convexHull(points: readonly Place[]): Place[] {
  const sorted = [...points].sort((a, b) => a.x - b.x || a.y - b.y)
  const turnsLeft = (a: Place, b: Place, c: Place) =>
    (b.x - a.x) * (c.y - a.y) - (b.y - a.y) * (c.x - a.x) > 0
  const half = (list: readonly Place[]) => {
    const chain: Place[] = []
    for (const p of list) {
      while (chain.length > 1 && !turnsLeft(chain[chain.length - 2], chain[chain.length - 1], p)) chain.pop()
      chain.push(p)
    }
    return chain.slice(0, -1)
  }
  const hull = [...half(sorted), ...half(sorted.reverse())]
  return hull.length ? hull : sorted.slice(0, 1)
}

/**
 * Least distance from a point inside a convex polygon to its edges, mm; below zero outside.
 * @param hull counter-clockwise
 */
export function distanceInside(hull: readonly Place[], { x, y }: Place): number {
  if (hull.length < 3) return 0
  let least = Infinity
  hull.forEach((a, i) => {
    const b = hull[(i + 1) % hull.length]
    const length = Math.hypot(b.x - a.x, b.y - a.y)
    if (length > 0) least = Math.min(least, ((b.x - a.x) * (y - a.y) - (b.y - a.y) * (x - a.x)) / length)
  })
  return least
}
