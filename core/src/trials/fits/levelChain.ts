import { normalShare } from '../../statistics/distributions'
import { TOP_GRADE } from '../criteria'

// One criterion over the places of a tower: a level at each, which falls away from one peak. A hidden Markov chain outward
// from the peak: sums by forward filtering, draws by backward sampling (Rabiner 1989).

/** Levels a criterion may have, in grades; half a grade apart, and half a grade beyond what can be noted. */
const STEP = 0.5
const LEVELS = Array.from({ length: 2 * TOP_GRADE + 3 }, (_, i) => (i - 1) * STEP)
/** Grades that are a slip. From memory. */
export const SLIPS = 0.04
/** How many grades a criterion usually falls over the whole range, and the chance of a cliff at a step. From memory. */
const USUAL_FALL = 2.5
const CLIFFS = 0.12
/** How likely the best of one criterion is one of the ends; an end that a criterion leans to has this much. From memory. */
const AN_END = 0.2
const LEANS = 0.5
const COUNT = LEVELS.length

/** Of each grade: its chance at each level. */
export function chancesOf(sd: number): Float64Array[] {
  return Array.from({ length: TOP_GRADE + 1 }, (_, g) =>
    Float64Array.from(LEVELS, (level) => {
      const over = g === TOP_GRADE ? 1 : normalShare((g + 0.5 - level) / sd)
      const under = g === 0 ? 0 : normalShare((g - 0.5 - level) / sd)
      return (1 - SLIPS) * (over - under) + SLIPS / (TOP_GRADE + 1)
    }),
  )
}
const NOTHING_NOTED = new Float64Array(COUNT).fill(1)

/** Chance of falling from one level (row) to another over a share of the range, away from the best. */
export function fallsOver(share: number): Float64Array {
  const mean = (USUAL_FALL / STEP) * share
  const more = mean / (1 + mean)
  const out = new Float64Array(COUNT * COUNT)
  for (let from = 0; from < COUNT; from++) {
    let sum = 0
    for (let to = 0; to <= from; to++) sum += more ** (from - to)
    for (let to = 0; to <= from; to++)
      out[from * COUNT + to] = ((1 - CLIFFS) * more ** (from - to)) / sum + CLIFFS / (from + 1)
  }
  return out
}

/** Chance of each place to be the best of a criterion. */
export function peaksOf(n: number, leaning: 'rises' | 'falls' | undefined): number[] {
  const low = leaning === 'falls' ? LEANS : leaning === 'rises' ? AN_END / 2 : AN_END
  const high = leaning === 'rises' ? LEANS : leaning === 'falls' ? AN_END / 2 : AN_END
  const inside = n > 2 ? (1 - low - high) / (n - 2) : 0
  return Array.from({ length: n }, (_, i) => (i === 0 ? low : i === n - 1 ? high : inside))
}

/** Chance of what was noted at each stepped value, for each level. */
export type Emissions = readonly Float64Array[]

/** What lies on each side of a place, given the level there; the place itself left out. */
export interface Messages {
  left: Float64Array[]
  right: Float64Array[]
}
export const messagesFor = (n: number): Messages => ({
  left: Array.from({ length: n }, () => new Float64Array(COUNT).fill(1)),
  right: Array.from({ length: n }, () => new Float64Array(COUNT).fill(1)),
})

/** One step outwards: what lies beyond, given the level on this side of the fall. */
function outwards(fall: Float64Array, seen: Float64Array, beyond: Float64Array, into: Float64Array): void {
  for (let from = 0; from < COUNT; from++) {
    let sum = 0
    for (let to = 0, at = from * COUNT; to <= from; to++, at++) sum += fall[at] * seen[to] * beyond[to]
    into[from] = sum
  }
}

/** Chance of all that was noted of a criterion under a curve with one peak; fills the messages. */
export function onePeak(
  e: Emissions,
  falls: readonly Float64Array[],
  peaks: readonly number[],
  m: Messages,
): number {
  const n = e.length
  for (let i = 1; i < n; i++) outwards(falls[i - 1], e[i - 1], m.left[i - 1], m.left[i])
  for (let i = n - 2; i >= 0; i--) outwards(falls[i], e[i + 1], m.right[i + 1], m.right[i])
  let all = 0
  for (let i = 0; i < n; i++) {
    const [seen, left, right] = [e[i], m.left[i], m.right[i]]
    let sum = 0
    for (let j = 0; j < COUNT; j++) sum += seen[j] * left[j] * right[j]
    all += (peaks[i] * sum) / COUNT
  }
  return all
}

/** Chance of all that was noted of a criterion if it is the same everywhere. */
export function allAlike(e: Emissions): number {
  let all = 0
  for (let j = 0; j < COUNT; j++) all += e.reduce((p, row) => p * row[j], 1) / COUNT
  return all
}

/** A grade of a criterion at a place, and how much it counts. */
export interface WeighedGrade {
  grade: number
  weight: number
}
/** Chance of what was noted of a criterion at a place, for each level. */
export function emission(noted: readonly WeighedGrade[], chances: readonly Float64Array[]): Float64Array {
  if (!noted.length) return NOTHING_NOTED
  if (noted.length === 1 && noted[0].weight === 1) return chances[noted[0].grade]
  return Float64Array.from(LEVELS, (_, j) =>
    noted.reduce((p, { grade, weight }) => p * chances[grade][j] ** weight, 1),
  )
}

/** One draw from weights. */
export function pick(weights: ArrayLike<number>, random: () => number): number {
  let total = 0
  for (let i = 0; i < weights.length; i++) total += weights[i]
  let at = random() * total
  for (let i = 0; i < weights.length; i++) if ((at -= weights[i]) <= 0) return i
  return weights.length - 1
}

/** Draws levels of one criterion at every place, as likely as they are. */
export function levelDraws(
  e: Emissions,
  falls: readonly Float64Array[],
  peaks: readonly number[],
  { left, right }: Messages,
  random: () => number,
): () => number[] {
  const n = e.length
  const peakAt = new Float64Array(n * COUNT)
  for (let i = 0; i < n; i++)
    for (let j = 0; j < COUNT; j++) peakAt[i * COUNT + j] = peaks[i] * e[i][j] * left[i][j] * right[i][j]
  const weights = new Float64Array(COUNT)
  return () => {
    const at = pick(peakAt, random)
    const peak = Math.floor(at / COUNT)
    const levels = new Array<number>(n)
    levels[peak] = at % COUNT
    for (const way of [-1, 1])
      for (let i = peak + way; i >= 0 && i < n; i += way) {
        const fall = falls[Math.min(i, i - way)]
        const beyond = (way < 0 ? left : right)[i]
        const from = levels[i - way] * COUNT
        for (let j = 0; j < COUNT; j++) weights[j] = fall[from + j] * e[i][j] * beyond[j]
        levels[i] = pick(weights, random)
      }
    for (let i = 0; i < n; i++) levels[i] = LEVELS[levels[i]]
    return levels
  }
}

/** How levels may fall from place to place, and where each criterion may be best. */
export interface Shape {
  falls: readonly Float64Array[]
  peaks: readonly (readonly number[])[]
}
