import { normalShare } from '../../statistics/distributions'
import { normalStream, randomStream } from '../../statistics/random'
import { TOP_GRADE, type CriterionId } from '../criteria'
import { curveOf } from './points'
import { desirability } from './desirability'

/** One place as it was graded. */
export interface GradedPlace {
  x: number
  /** 1 for a sure reading; less for an unsure or an old one. */
  weight: number
  grades: Partial<Record<CriterionId, number>>
}

/** Which way a criterion usually gets better as the stepped value rises; left out where its best lies anywhere. */
export type Leanings = Partial<Record<CriterionId, 'rises' | 'falls'>>

/** What graded places say of the value that was stepped. */
export interface GradedCurve {
  /** Stepped values, ascending. */
  xs: number[]
  /** Chance that grades fall into such an order by accident. */
  accident: number
  /** How often nothing varies is the better explanation: odds of *all alike* against *one peak*. */
  alike: number
  /** Where most is to be expected; in the middle of what is as good. */
  best: number
  /** Where the desirability is best, by how likely: one place for each curve that was drawn. */
  bests: number[]
  /** Chance that the best lies at or beyond the first or last value. */
  atLow: number
  atHigh: number
  /** Desirability at the stepped values of each curve that was drawn. */
  draws: number[][]
  /** Mean desirability at a value between. */
  at: (x: number) => number
  /** How far grades of one thing scatter, in grades. */
  scatter: number
  /** The criterion that changes most. */
  decider: CriterionId | null
}

/** Levels a criterion may have, in grades; half a grade apart, and half a grade beyond what can be noted. */
const STEP = 0.5
const LEVELS = Array.from({ length: 2 * TOP_GRADE + 3 }, (_, i) => (i - 1) * STEP)
/** How far grades of one thing scatter, in grades, and how common each hand is. From memory. */
const SCATTERS: readonly { sd: number; share: number }[] = [
  { sd: 0.3, share: 0.25 },
  { sd: 0.5, share: 0.4 },
  { sd: 0.8, share: 0.22 },
  { sd: 1.2, share: 0.09 },
  { sd: 1.7, share: 0.04 },
]
/** The scatter that the test by order judges with: one that does not hang on the readings. */
const USUAL = 0.6
/** Grades that are a slip. From memory. */
const SLIPS = 0.04
/** How many grades a criterion usually falls over the whole range, and the chance of a cliff at a step. From memory. */
const USUAL_FALL = 2.5
const CLIFFS = 0.12
/** How likely the best of one criterion is one of the ends; an end that a criterion leans to has this much. From memory. */
const AN_END = 0.2
const LEANS = 0.5
/** As many places as all orders of are tried; beyond that so many are drawn. */
const ALL_ORDERS = 6
const ORDERS = 599
/** Level towers drawn, and how far the hand scatters that grades them: a little more than the usual one. */
const LEVEL_TOWERS = 299
const HAND = 0.65
/** So many that look as much like a difference are enough to call it an accident. */
const PLAIN = 60
/** Curves drawn. */
const CURVES = 500
/** Seeded, so that the same readings give the same answer. */
const SEED = 20261202

const COUNT = LEVELS.length

/** Of each grade: its chance at each level. */
function chancesOf(sd: number): Float64Array[] {
  return Array.from({ length: TOP_GRADE + 1 }, (_, g) =>
    Float64Array.from(LEVELS, (level) => {
      const over = g === TOP_GRADE ? 1 : normalShare((g + 0.5 - level) / sd)
      const under = g === 0 ? 0 : normalShare((g - 0.5 - level) / sd)
      return (1 - SLIPS) * (over - under) + SLIPS / (TOP_GRADE + 1)
    }),
  )
}
const USUAL_CHANCES = chancesOf(USUAL)
const CHANCES = SCATTERS.map(({ sd }) => chancesOf(sd))
const NOTHING_NOTED = new Float64Array(COUNT).fill(1)

/** Chance of falling from one level (row) to another over a share of the range, away from the best. */
function fallsOver(share: number): Float64Array {
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
function peaksOf(n: number, leaning: 'rises' | 'falls' | undefined): number[] {
  const low = leaning === 'falls' ? LEANS : leaning === 'rises' ? AN_END / 2 : AN_END
  const high = leaning === 'rises' ? LEANS : leaning === 'falls' ? AN_END / 2 : AN_END
  const inside = n > 2 ? (1 - low - high) / (n - 2) : 0
  return Array.from({ length: n }, (_, i) => (i === 0 ? low : i === n - 1 ? high : inside))
}

/** Chance of what was noted at each stepped value, for each level. */
type Emissions = readonly Float64Array[]

/** What lies on each side of a place, given the level there; the place itself left out. */
interface Messages {
  left: Float64Array[]
  right: Float64Array[]
}
const messagesFor = (n: number): Messages => ({
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
function onePeak(
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
function allAlike(e: Emissions): number {
  let all = 0
  for (let j = 0; j < COUNT; j++) all += e.reduce((p, row) => p * row[j], 1) / COUNT
  return all
}

/** What was noted, by stepped value: of each criterion its grades with their weights. */
interface Noted {
  xs: number[]
  criteria: CriterionId[]
  /** Place, criterion, grades. */
  at: { grade: number; weight: number }[][][]
}

function notedOf(places: readonly GradedPlace[], wanted: readonly CriterionId[]): Noted {
  const xs = [...new Set(places.map((p) => p.x))].sort((a, b) => a - b)
  const criteria = wanted.filter((c) => places.some((p) => p.grades[c] !== undefined))
  return {
    xs,
    criteria,
    at: xs.map((x) =>
      criteria.map((c) =>
        places.flatMap((p) => {
          const grade = p.x === x ? p.grades[c] : undefined
          return grade === undefined ? [] : [{ grade, weight: p.weight }]
        }),
      ),
    ),
  }
}

/** Chance of what was noted of a criterion at a place, for each level. */
function emission(
  noted: readonly { grade: number; weight: number }[],
  chances: readonly Float64Array[],
): Float64Array {
  if (!noted.length) return NOTHING_NOTED
  if (noted.length === 1 && noted[0].weight === 1) return chances[noted[0].grade]
  return Float64Array.from(LEVELS, (_, j) =>
    noted.reduce((p, { grade, weight }) => p * chances[grade][j] ** weight, 1),
  )
}

/** One draw from weights. */
function pick(weights: ArrayLike<number>, random: () => number): number {
  let total = 0
  for (let i = 0; i < weights.length; i++) total += weights[i]
  let at = random() * total
  for (let i = 0; i < weights.length; i++) if ((at -= weights[i]) <= 0) return i
  return weights.length - 1
}

/** Draws levels of one criterion at every place, as likely as they are. */
function levelDraws(
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

/** All orders of so many things, or so many drawn ones. */
function ordersOf(n: number, random: () => number): Iterable<number[]> {
  return n <= ALL_ORDERS ? allOrders(n) : drawnOrders(n, random)
}
function* allOrders(n: number): Iterable<number[]> {
  const order = Array.from({ length: n }, (_, i) => i)
  const counts = new Array<number>(n).fill(0)
  yield order
  // Heap 1963
  for (let i = 0; i < n;) {
    if (counts[i] < i) {
      const j = i % 2 ? counts[i] : 0
      ;[order[j], order[i]] = [order[i], order[j]]
      yield order
      counts[i]++
      i = 0
    } else counts[i++] = 0
  }
}
function* drawnOrders(n: number, random: () => number): Iterable<number[]> {
  const order = Array.from({ length: n }, (_, i) => i)
  yield order
  for (let k = 0; k < ORDERS; k++) {
    for (let i = n - 1; i > 0; i--) {
      const j = Math.floor(random() * (i + 1))
      ;[order[i], order[j]] = [order[j], order[i]]
    }
    yield order
  }
}

/**
 * Grades of several criteria over one stepped value, as what they are: whole numbers in order, noted by a hand that scatters
 * and sometimes slips. Each criterion is a level at every place that falls away from one peak, evenly or at once, in steps of
 * half a grade (a hidden Markov chain outward from the peak; sums and draws are exact: forward filtering, backward sampling,
 * Rabiner 1989); the hand is common to all of them. What the criteria come to together is the desirability of their levels.
 * Whether anything varies at all is asked of the whole tower at once: {@link accidentOf}.
 * @param places at least three different values
 */
export function gradedCurve(
  places: readonly GradedPlace[],
  wanted: readonly CriterionId[],
  leanings: Leanings = {},
): GradedCurve {
  const asked = JSON.stringify([places.map(({ x, weight, grades }) => [x, weight, grades]), wanted, leanings])
  const known = CURVES_KNOWN.get(asked) ?? curveOfGrades(places, wanted, leanings)
  CURVES_KNOWN.delete(asked)
  CURVES_KNOWN.set(asked, known)
  if (CURVES_KNOWN.size > MOST_KNOWN) CURVES_KNOWN.delete(CURVES_KNOWN.keys().next().value!)
  return known
}

/** A case asks again and again for the same trials. */
const CURVES_KNOWN = new Map<string, GradedCurve>()
const MOST_KNOWN = 60

function curveOfGrades(
  places: readonly GradedPlace[],
  wanted: readonly CriterionId[],
  leanings: Leanings,
): GradedCurve {
  const { xs, criteria, at: noted } = notedOf(places, wanted)
  const n = xs.length
  const span = xs[n - 1] - xs[0]
  const shape: Shape = {
    falls: xs.slice(1).map((x, i) => fallsOver((x - xs[i]) / span)),
    peaks: criteria.map((c) => peaksOf(n, leanings[c])),
  }
  const random = randomStream(SEED)
  // of each hand: how well curves with one peak explain the whole tower, and how well a level does
  const hands = SCATTERS.map(({ share }, h) => {
    const emissions = criteria.map((_, c) => noted.map((row) => emission(row[c], CHANCES[h])))
    const messages = criteria.map(() => messagesFor(n))
    const peaked = emissions.reduce(
      (p, e, c) => p * onePeak(e, shape.falls, shape.peaks[c], messages[c]),
      share,
    )
    return { emissions, messages, peaked, alike: emissions.reduce((p, e) => p * allAlike(e), share) }
  })
  const { draws, scatter, decider } = drawn(hands, criteria, shape, random)
  const bests = draws.map((d) => bestPlace(xs, d, random))
  const means = xs.map((_, i) => draws.reduce((s, d) => s + d[i], 0) / draws.length)
  const near = (place: number, beside: number) =>
    bests.filter((b) => Math.abs(b - xs[place]) <= Math.abs(xs[beside] - xs[place]) / 2 + 1e-9).length /
    bests.length
  return {
    xs,
    accident: accidentOf(noted, criteria.length, shape, random),
    alike: hands.reduce((s, h) => s + h.alike, 0) / hands.reduce((s, h) => s + h.peaked, 0),
    best: bestIn(xs, means),
    bests,
    atLow: near(0, 1),
    atHigh: near(n - 1, n - 2),
    draws,
    at: (x) => between(xs, means, x),
    scatter,
    decider,
  }
}

/** How levels may fall from place to place, and where each criterion may be best. */
interface Shape {
  falls: readonly Float64Array[]
  peaks: readonly (readonly number[])[]
}

/**
 * Chance that grades of a tower on which nothing varies look as much like a difference: three tests of the whole tower, put
 * together as Liu & Xie (2020) do where tests hang together (Cauchy combination).
 * - *order*: the share of all orders of its places that curves with one peak explain at least as well (permutation test,
 *   Fisher 1935; every order of up to six places). Smooth rises, falls and hills.
 * - *together*: the share of orders, shuffled within each criterion, in which the places differ at least as much in the mean
 *   of the criteria (Friedman 1937). Single places that stand out in all of them.
 * - *size*: the share of level towers, graded by a usual hand, that curves with one peak explain as much better than a level
 *   (parametric bootstrap, Efron & Tibshirani 1993). Few places, which have few orders.
 */
function accidentOf(noted: Noted['at'], criteria: number, shape: Shape, random: () => number): number {
  const tests = criteria > 1 ? [byOrder, together, bySize] : [byOrder, bySize]
  // one that is as sure of an accident as can be must not outweigh the others
  const chances = tests.map((t) => Math.min(MOST_CHANCE, t(noted, criteria, shape, random)))
  const mean = chances.reduce((s, p) => s + Math.tan(Math.PI * (0.5 - p)), 0) / chances.length
  return 0.5 - Math.atan(mean) / Math.PI
}
const MOST_CHANCE = 0.9

/** How well curves with one peak explain a tower, graded by a usual hand: log likelihood. */
function explanation(n: number, { falls, peaks }: Shape) {
  const m = messagesFor(n)
  return (emissions: readonly Emissions[]) =>
    emissions.reduce((sum, e, c) => sum + Math.log(onePeak(e, falls, peaks[c], m)), 0)
}

function byOrder(noted: Noted['at'], criteria: number, shape: Shape, random: () => number): number {
  const emissions = Array.from({ length: criteria }, (_, c) =>
    noted.map((row) => emission(row[c], USUAL_CHANCES)),
  )
  const explained = explanation(noted.length, shape)
  const own = explained(emissions)
  let [as, count] = [0, 0]
  for (const order of ordersOf(noted.length, random)) {
    if (explained(emissions.map((e) => order.map((i) => e[i]))) >= own - 1e-9) as++
    count++
    if (as >= PLAIN) break
  }
  return as / count
}

function together(noted: Noted['at'], criteria: number, _: Shape, random: () => number): number {
  const n = noted.length
  // of each criterion: how far its mean grade at a place lies off its own mean; not a number where nothing was noted
  const off = Array.from({ length: criteria }, (__, c) => {
    const means = noted.map((row) => row[c].reduce((s, g) => s + g.grade, 0) / row[c].length)
    const known = means.filter((v) => !Number.isNaN(v))
    const mean = known.reduce((s, v) => s + v, 0) / known.length
    return means.map((v) => v - mean)
  })
  const places = off.map((row) => row.flatMap((v, i) => (Number.isNaN(v) ? [] : [i])))
  const differences = () => {
    let all = 0
    for (let i = 0; i < n; i++) {
      let [sum, count] = [0, 0]
      for (const row of off)
        if (!Number.isNaN(row[i])) {
          sum += row[i]
          count++
        }
      if (count) all += (sum * sum) / count
    }
    return all
  }
  const own = differences()
  return shareAs(ORDERS, () => {
    off.forEach((row, c) => shuffle(row, places[c], random))
    return differences() >= own - 1e-9
  })
}

/** Share of draws that come out so, what was found among them; a plain share needs few (Besag & Clifford 1991). */
function shareAs(draws: number, drawn: () => boolean): number {
  let [as, count] = [1, 1]
  while (count <= draws && as < PLAIN) {
    if (drawn()) as++
    count++
  }
  return as / count
}

/** Shuffles what stands at some places of a row. */
function shuffle(row: number[], places: readonly number[], random: () => number): void {
  for (let i = places.length - 1; i > 0; i--) {
    const [a, b] = [places[i], places[Math.floor(random() * (i + 1))]]
    ;[row[a], row[b]] = [row[b], row[a]]
  }
}

function bySize(noted: Noted['at'], criteria: number, shape: Shape, random: () => number): number {
  const explained = explanation(noted.length, shape)
  const gain = (tower: Noted['at']) => {
    const emissions = Array.from({ length: criteria }, (_, c) =>
      tower.map((row) => emission(row[c], USUAL_CHANCES)),
    )
    return explained(emissions) - emissions.reduce((s, e) => s + Math.log(allAlike(e)), 0)
  }
  const levels = Array.from({ length: criteria }, (_, c) => {
    const grades = noted.flatMap((row) => row[c])
    return grades.reduce((s, g) => s + g.grade, 0) / grades.length
  })
  const normal = normalStream(random)
  const own = gain(noted)
  return shareAs(LEVEL_TOWERS, () => {
    const level = noted.map((row) =>
      row.map((list, c) =>
        list.map(({ weight }) => {
          const seen = random() < SLIPS ? random() * TOP_GRADE : levels[c] + HAND * normal()
          return { weight, grade: Math.min(TOP_GRADE, Math.max(0, Math.round(seen))) }
        }),
      ),
    )
    return gain(level) >= own - 1e-9
  })
}

/** Curves of all criteria drawn together, as the desirability they come to at each place. */
function drawn(
  hands: readonly { emissions: Float64Array[][]; messages: Messages[]; peaked: number }[],
  criteria: readonly CriterionId[],
  { falls, peaks }: Shape,
  random: () => number,
) {
  const spread = criteria.map(() => 0)
  let scatter = 0
  const weights = hands.map((h) => h.peaked)
  const levelsBy = hands.map(({ emissions, messages }) =>
    criteria.map((_, c) => levelDraws(emissions[c], falls, peaks[c], messages[c], random)),
  )
  const draws = Array.from({ length: CURVES }, () => {
    const h = pick(weights, random)
    scatter += SCATTERS[h].sd / CURVES
    const levels = levelsBy[h].map((draw) => draw())
    levels.forEach((l, c) => (spread[c] += Math.max(...l) - Math.min(...l)))
    return levels[0].map((_, i) =>
      desirability(
        levels.map((l) => ({ grade: Math.min(TOP_GRADE, Math.max(0, l[i])), weight: 1 })),
        TOP_GRADE,
      ),
    )
  })
  const most = spread.indexOf(Math.max(...spread))
  return { draws, scatter, decider: criteria.length > 1 ? (criteria[most] ?? null) : null }
}

/** Desirability by which a place counts a third, against the best one. */
const SOFT = 0.02
const FINE = 240

/** Where a curve is best: the mean of all places, each by how near it comes to the best. */
function bestIn(xs: readonly number[], means: readonly number[]): number {
  const most = Math.max(...means)
  let [sum, all] = [0, 0]
  for (const { x, y } of curveOf((v) => between(xs, means, v), xs[0], xs[xs.length - 1], FINE)) {
    const counts = Math.exp((y - most) / SOFT)
    sum += counts * x
    all += counts
  }
  return sum / all
}

/** How far desirabilities that count as the same may lie apart. */
const SAME = 0.01

/** Where one drawn curve is best: anywhere in what is as good, up to half way to the next place. */
function bestPlace(xs: readonly number[], d: readonly number[], random: () => number): number {
  const most = Math.max(...d)
  const alike = xs.map((_, i) => i).filter((i) => d[i] >= most - SAME)
  // one of them, and half way to its neighbours; what lies beyond an end is taken for that end
  const i = alike[Math.floor(random() * alike.length)]
  const last = xs.length - 1
  const before = i === 0 ? xs[1] - xs[0] : xs[i] - xs[i - 1]
  const after = i === last ? xs[last] - xs[last - 1] : xs[i + 1] - xs[i]
  const place = xs[i] - before / 2 + (random() * (before + after)) / 2
  return Math.min(xs[last], Math.max(xs[0], place))
}

function between(xs: readonly number[], ys: readonly number[], x: number): number {
  if (x <= xs[0]) return ys[0]
  for (let i = 1; i < xs.length; i++)
    if (x <= xs[i]) {
      const share = (x - xs[i - 1]) / (xs[i] - xs[i - 1])
      return ys[i - 1] + share * (ys[i] - ys[i - 1])
    }
  return ys[ys.length - 1]
}

/** The curve of mean desirability, to be drawn. */
export const drawnCurve = (g: GradedCurve) => curveOf(g.at, g.xs[0], g.xs[g.xs.length - 1])
