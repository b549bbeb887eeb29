/** What lies between two worlds, number by number. */
export function between<T>(a: T, b: T, t: number): T {
  if (typeof a === 'number' && typeof b === 'number')
    return (Number.isFinite(a) && Number.isFinite(b) ? a + (b - a) * t : t > 0 ? b : a) as T
  if (Array.isArray(a) && Array.isArray(b)) return a.map((v, i) => between(v, b[i], t)) as T
  if (a && b && typeof a === 'object')
    return Object.fromEntries(
      Object.entries(a).map(([k, v]) => [k, between(v, (b as Record<string, unknown>)[k], t)]),
    ) as T
  return a
}
