/**
 * Columns that can be told apart, in order, and those that cannot with what they hang on. Gauss–Jordan elimination with
 * row pivoting.
 */
export function independent(
  rows: readonly number[][],
  count: number,
): { pivots: number[]; tied: number[][] } {
  const a = rows.map((r) => [...r])
  const scale = Array.from({ length: count }, (_, j) => Math.max(...a.map((r) => Math.abs(r[j])), 1e-300))
  for (const r of a) for (let j = 0; j < count; j++) r[j] /= scale[j]
  const pivots: number[] = []
  let row = 0
  for (let j = 0; j < count && row < a.length; j++) {
    let best = row
    for (let i = row; i < a.length; i++) if (Math.abs(a[i][j]) > Math.abs(a[best][j])) best = i
    if (Math.abs(a[best][j]) < 1e-9) continue
    ;[a[row], a[best]] = [a[best], a[row]]
    const lead = a[row][j]
    for (let k = 0; k < count; k++) a[row][k] /= lead
    for (let i = 0; i < a.length; i++) {
      if (i === row || !a[i][j]) continue
      const f = a[i][j]
      for (let k = 0; k < count; k++) a[i][k] -= f * a[row][k]
    }
    pivots.push(j)
    row++
  }
  const tied: number[][] = []
  for (let j = 0; j < count; j++) {
    if (pivots.includes(j)) continue
    tied.push([...pivots.filter((_, i) => Math.abs(a[i][j]) > 1e-7), j])
  }
  return { pivots, tied }
}

/** Groups that share a member become one. */
export function united(groups: readonly number[][]): number[][] {
  const out: number[][] = []
  for (const g of groups) {
    const hits = out.filter((o) => o.some((m) => g.includes(m)))
    for (const h of hits) out.splice(out.indexOf(h), 1)
    out.push([...new Set([...hits.flat(), ...g])].sort((a, b) => a - b))
  }
  return out
}

/** Inverse of a small symmetric matrix by Gauss–Jordan; null when it has none. */
export function invert(m: readonly number[][]): number[][] | null {
  const n = m.length
  const a = m.map((r, i) => [...r, ...Array.from({ length: n }, (_, j) => Number(i === j))])
  for (let j = 0; j < n; j++) {
    let best = j
    for (let i = j; i < n; i++) if (Math.abs(a[i][j]) > Math.abs(a[best][j])) best = i
    if (!(Math.abs(a[best][j]) > 1e-300)) return null
    ;[a[j], a[best]] = [a[best], a[j]]
    const lead = a[j][j]
    for (let k = 0; k < 2 * n; k++) a[j][k] /= lead
    for (let i = 0; i < n; i++) {
      if (i === j) continue
      const f = a[i][j]
      for (let k = 0; k < 2 * n; k++) a[i][k] -= f * a[j][k]
    }
  }
  return a.map((r) => r.slice(n))
}
