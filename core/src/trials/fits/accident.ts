import { normalStream } from '../../statistics/random'
import { HAND_SCATTER, TOP_GRADE } from '../criteria'
import {
  SLIPS,
  allAlike,
  chancesOf,
  emission,
  messagesFor,
  onePeak,
  type Emissions,
  type Shape,
  type WeighedGrade,
} from './levelChain'

/** What was noted: place, criterion, grades. */
export type NotedTower = WeighedGrade[][][]

/** The scatter that the test by order judges with: one that does not hang on the readings. */
const USUAL = 0.6
/** As many places as all orders of are tried; beyond that so many are drawn. */
const ALL_ORDERS = 6
const ORDERS = 599
/** Level towers drawn. */
const LEVEL_TOWERS = 299
/** So many that look as much like a difference are enough to call it an accident. */
const PLAIN = 60
const USUAL_CHANCES = chancesOf(USUAL)

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
export function accidentOf(noted: NotedTower, criteria: number, shape: Shape, random: () => number): number {
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

function byOrder(noted: NotedTower, criteria: number, shape: Shape, random: () => number): number {
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

function together(noted: NotedTower, criteria: number, _: Shape, random: () => number): number {
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

function bySize(noted: NotedTower, criteria: number, shape: Shape, random: () => number): number {
  const explained = explanation(noted.length, shape)
  const gain = (tower: NotedTower) => {
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
          const seen = random() < SLIPS ? random() * TOP_GRADE : levels[c] + HAND_SCATTER * normal()
          return { weight, grade: Math.min(TOP_GRADE, Math.max(0, Math.round(seen))) }
        }),
      ),
    )
    return gain(level) >= own - 1e-9
  })
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
