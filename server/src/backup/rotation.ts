/** Backups of days and of weeks that are kept. */
export const DAYS = 7
export const WEEKS = 4

const DAY_MS = 24 * 3600 * 1000
/** Number of the week a day (YYYY-MM-DD) is in, counted on and on; weeks begin on Monday (ISO 8601). */
const weekOf = (day: string) => Math.floor((Date.parse(day) / DAY_MS + 3) / 7)

/**
 * Which daily backups go: those of the last seven days that have one stay, and of each of the last four weeks that have one its
 * newest.
 * @param days of the backups there are, YYYY-MM-DD
 */
export function outlived(days: readonly string[]): string[] {
  const newestFirst = [...new Set(days)].sort().reverse()
  const kept = new Set(newestFirst.slice(0, DAYS))
  const newestOfWeek = new Map<number, string>()
  for (const day of newestFirst) if (!newestOfWeek.has(weekOf(day))) newestOfWeek.set(weekOf(day), day)
  for (const day of [...newestOfWeek.values()].slice(0, WEEKS)) kept.add(day)
  return newestFirst.filter((d) => !kept.has(d))
}
