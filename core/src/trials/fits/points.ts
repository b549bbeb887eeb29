/** One graded or measured place: where it was, and how good it was. */
export interface FitPoint {
  x: number
  y: number
  /** 1 for a sure reading; less for an unsure or an old one. */
  weight: number
  /** The trial it comes from, to see drift. */
  trial: number
}

/** A curve as points, to be drawn. */
export function curveOf(
  at: (x: number) => number,
  low: number,
  high: number,
  count = 60,
): { x: number; y: number }[] {
  return Array.from({ length: count + 1 }, (_, i) => {
    const x = low + ((high - low) * i) / count
    return { x, y: at(x) }
  })
}
