import { randomStream } from '../../statistics/random'
import { TOP_GRADE, type CriterionId } from '../criteria'
import { accidentOf, type NotedTower } from './accident'
import { desirability } from './desirability'
import {
  allAlike,
  chancesOf,
  emission,
  fallsOver,
  levelDraws,
  messagesFor,
  onePeak,
  peaksOf,
  pick,
  type Emissions,
  type Messages,
  type Shape,
} from './levelChain'
import { curveOf } from './points'

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

/** How far grades of one thing scatter, in grades, and how common each hand is. From memory. */
const SCATTERS: readonly { sd: number; share: number }[] = [
  { sd: 0.3, share: 0.25 },
  { sd: 0.5, share: 0.4 },
  { sd: 0.8, share: 0.22 },
  { sd: 1.2, share: 0.09 },
  { sd: 1.7, share: 0.04 },
]
/** Curves drawn. */
const CURVES = 500
/** Seeded, so that the same readings give the same answer. */
const SEED = 20261202

const CHANCES = SCATTERS.map(({ sd }) => chancesOf(sd))

/** What was noted, by stepped value: of each criterion its grades with their weights. */
interface Noted {
  xs: number[]
  criteria: CriterionId[]
  at: NotedTower
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

/** Curves of all criteria drawn together, as the desirability they come to at each place. */
function drawn(
  hands: readonly { emissions: Emissions[]; messages: Messages[]; peaked: number }[],
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
