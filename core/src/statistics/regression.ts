import { fPValue, tQuantile } from './distributions'

export interface LinearFit {
  /** One for each column of the design. */
  coefficients: number[]
  /** Standard errors. */
  errors: number[]
  /** Weighted residual sum of squares. */
  rss: number
  /** Degrees of freedom left. */
  dof: number
  /** Residual standard deviation; NaN with no degree of freedom left. */
  sd: number
  /** (XᵀWX)⁻¹, to be multiplied by sd² for the covariance. */
  inverse: number[][]
  fitted: number[]
  /** Share of the (weighted) variance explained. */
  r2: number
}

/**
 * Weighted linear least squares by Householder QR (Golub 1965), which keeps the digits that normal equations lose.
 * @param rows the design: one array of columns for each observation
 * @param weights one for each observation; 1 when left out
 * @returns null when the columns cannot be told apart or there are fewer observations than columns
 */
export function linearFit(
  rows: readonly (readonly number[])[],
  y: readonly number[],
  weights?: readonly number[],
): LinearFit | null {
  const n = rows.length
  const p = rows[0]?.length ?? 0
  if (!p || n < p || y.length !== n) return null
  const w = rows.map((_, i) => Math.sqrt(weights ? Math.max(0, weights[i]) : 1))
  const a = rows.map((r, i) => r.map((v) => v * w[i]))
  const b = y.map((v, i) => v * w[i])
  const scale = Array.from({ length: p }, (_, j) => Math.hypot(...a.map((r) => r[j])))
  if (scale.some((s) => !(s > 0))) return null
  for (let j = 0; j < p; j++) {
    let norm = 0
    for (let i = j; i < n; i++) norm += a[i][j] * a[i][j]
    norm = Math.sqrt(norm)
    if (norm <= 1e-12 * scale[j]) return null
    const alpha = a[j][j] > 0 ? -norm : norm
    const v = Array.from({ length: n - j }, (_, k) => a[j + k][j])
    v[0] -= alpha
    const vv = v.reduce((s, x) => s + x * x, 0)
    if (vv > 0) {
      for (let c = j; c < p; c++) {
        const dot = (2 * v.reduce((s, x, k) => s + x * a[j + k][c], 0)) / vv
        v.forEach((x, k) => (a[j + k][c] -= dot * x))
      }
      const dot = (2 * v.reduce((s, x, k) => s + x * b[j + k], 0)) / vv
      v.forEach((x, k) => (b[j + k] -= dot * x))
    }
  }
  const solve = (rhs: number[]) => {
    const x = new Array<number>(p).fill(0)
    for (let j = p - 1; j >= 0; j--) {
      let s = rhs[j]
      for (let c = j + 1; c < p; c++) s -= a[j][c] * x[c]
      x[j] = s / a[j][j]
    }
    return x
  }
  const coefficients = solve(b)
  // R⁻¹, then (XᵀWX)⁻¹ = R⁻¹·R⁻ᵀ
  const rInverse = Array.from({ length: p }, (_, k) =>
    solve(Array.from({ length: p }, (_, j) => Number(j === k))),
  )
  const inverse = Array.from({ length: p }, (_, i) =>
    Array.from({ length: p }, (_, j) => rInverse.reduce((s, col) => s + col[i] * col[j], 0)),
  )
  const fitted = rows.map((r) => r.reduce((s, v, j) => s + v * coefficients[j], 0))
  const rss = y.reduce((s, v, i) => s + (w[i] * (v - fitted[i])) ** 2, 0)
  const dof = n - p
  const sd = dof > 0 ? Math.sqrt(rss / dof) : NaN
  const total = w.reduce((s, v) => s + v * v, 0)
  const mean = y.reduce((s, v, i) => s + w[i] * w[i] * v, 0) / total
  const tss = y.reduce((s, v, i) => s + (w[i] * (v - mean)) ** 2, 0)
  return {
    coefficients,
    errors: inverse.map((row, j) => sd * Math.sqrt(Math.max(0, row[j]))),
    rss,
    dof,
    sd,
    inverse,
    fitted,
    r2: tss > 0 ? 1 - rss / tss : 1,
  }
}

/** Two-sided interval of a coefficient. */
export function coefficientInterval(fit: LinearFit, index: number, level = 0.95): [number, number] {
  const half = tQuantile((1 + level) / 2, fit.dof) * fit.errors[index]
  return [fit.coefficients[index] - half, fit.coefficients[index] + half]
}

/** p-value of the F test of a fit against one with fewer columns. */
export function nestedPValue(full: LinearFit, less: LinearFit): number {
  const extra = less.dof - full.dof
  if (extra <= 0 || full.dof <= 0) return 1
  return fPValue((less.rss - full.rss) / extra / (full.rss / full.dof), extra, full.dof)
}
