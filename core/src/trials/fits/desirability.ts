/**
 * Overall desirability of several grades (Derringer & Suich 1980): the weighted geometric mean of each grade's share
 * of the best one. One useless grade makes the whole useless.
 * @param grades 0 to `top`, each with its weight
 */
export function desirability(grades: readonly { grade: number; weight: number }[], top: number): number {
  const total = grades.reduce((s, g) => s + g.weight, 0)
  if (!(total > 0)) return NaN
  if (grades.some((g) => g.grade <= 0 && g.weight > 0)) return 0
  return Math.exp(grades.reduce((s, g) => s + g.weight * Math.log(Math.min(1, g.grade / top)), 0) / total)
}
