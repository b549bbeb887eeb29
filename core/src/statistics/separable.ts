import { linearFit, type LinearFit } from './regression'

/**
 * Where a function of one number is least: the best of an even grid, refined by golden section (Kiefer 1953).
 * @param steps refinements; each narrows the place to 0.62 of what it was
 * @returns null when the function is finite nowhere on the grid
 */
export function leastAt(
  cost: (x: number) => number,
  [low, high]: readonly [number, number],
  grid: number,
  steps: number,
): number | null {
  let best = low
  let least = Infinity
  const step = (high - low) / grid
  for (let i = 0; i <= grid; i++) {
    const c = cost(low + i * step)
    if (c < least - 1e-15) {
      least = c
      best = low + i * step
    }
  }
  if (!Number.isFinite(least)) return null
  let [a, b] = [Math.max(low, best - step), Math.min(high, best + step)]
  const g = (Math.sqrt(5) - 1) / 2
  let c = b - g * (b - a)
  let d = a + g * (b - a)
  let [fc, fd] = [cost(c), cost(d)]
  for (let i = 0; i < steps && b - a > 1e-13 * Math.max(1e-3, Math.abs(best)); i++) {
    if (fc <= fd) {
      ;[b, d, fd] = [d, c, fc]
      c = b - g * (b - a)
      fc = cost(c)
    } else {
      ;[a, c, fc] = [c, d, fd]
      d = a + g * (b - a)
      fd = cost(d)
    }
  }
  return cost((a + b) / 2) <= least ? (a + b) / 2 : best
}

/**
 * Least squares for a model that is linear but for one parameter, by variable projection (Golub & Pereyra 1973):
 * for each trial value of the parameter the linear ones are solved exactly, and the best value is found on a grid
 * and refined by golden section.
 * @param basis columns of the design at one x for a value of the parameter
 * @returns null when no value in the range gives a fit
 */
export function separableFit(
  x: readonly number[],
  y: readonly number[],
  basis: (x: number, parameter: number) => number[],
  range: readonly [number, number],
  options: { weights?: readonly number[]; grid?: number } = {},
): { parameter: number; fit: LinearFit } | null {
  const { weights, grid = 60 } = options
  const at = (p: number) =>
    linearFit(
      x.map((v) => basis(v, p)),
      y,
      weights,
    )
  const parameter = leastAt((p) => at(p)?.rss ?? Infinity, range, grid, 90)
  if (parameter === null) return null
  const fit = at(parameter)
  return fit && { parameter, fit }
}
