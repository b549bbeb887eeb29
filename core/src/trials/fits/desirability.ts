/** Share of the best grade that a useless one still counts: a single slip, or one criterion, does not wipe out all others. */
const LEAST = 0.1

/**
 * Overall desirability of several grades (Derringer & Suich 1980): the weighted geometric mean of each grade's share of the
 * best one. A useless grade counts as a tenth, so that places that are useless in one thing can still be told apart.
 * @param grades 0 to `top`, each with its weight
 */
export function desirability(grades: readonly { grade: number; weight: number }[], top: number): number {
  const total = grades.reduce((s, g) => s + g.weight, 0)
  if (!(total > 0)) return NaN
  return Math.exp(
    grades.reduce((s, g) => s + g.weight * Math.log(Math.max(LEAST, Math.min(1, g.grade / top))), 0) / total,
  )
}
