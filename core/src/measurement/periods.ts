import { tQuantile } from '../statistics/distributions'
import { linearFit } from '../statistics/regression'
import { randomStream } from '../statistics/random'

/** A spacing with its standard uncertainty, widened where few readings tell it (Student), in the unit of what it was found in. */
export interface Spacing {
  value: number
  u: number
  /** Chance that so much regularity comes by accident. */
  p: number
}

/**
 * The spacing with which places lie best on a comb, the widest of those that do about as well. How well is the mean
 * resultant length of their phases, 0 to 1 (Mardia & Jupp 2000).
 */
function bestComb(
  places: readonly number[],
  from: number,
  to: number,
): { spacing: number; strength: number } {
  const n = places.length
  const span = Math.max(...places) - Math.min(...places)
  // finer than a sixth of a turn over the span
  const step = 1 / (8 * span)
  // each place's phase is turned on from one frequency to the next, without a sine of its own
  const cos = Float64Array.from(places, (v) => Math.cos((2 * Math.PI * v) / to))
  const sin = Float64Array.from(places, (v) => Math.sin((2 * Math.PI * v) / to))
  const turnCos = Float64Array.from(places, (v) => Math.cos(2 * Math.PI * v * step))
  const turnSin = Float64Array.from(places, (v) => Math.sin(2 * Math.PI * v * step))
  let best = { spacing: from, strength: 0 }
  for (let f = 1 / to; f <= 1 / from; f += step) {
    let c = 0
    let s = 0
    for (let i = 0; i < n; i++) {
      c += cos[i]
      s += sin[i]
      const turned = cos[i] * turnCos[i] - sin[i] * turnSin[i]
      sin[i] = cos[i] * turnSin[i] + sin[i] * turnCos[i]
      cos[i] = turned
    }
    const strength = Math.sqrt(c * c + s * s) / n
    // a comb of half the spacing fits as well: the wider one is meant
    if (strength > best.strength + 0.04) best = { spacing: 1 / f, strength }
  }
  return best
}

/** Shuffles at most, and how many that do as well are enough to say that it may be chance (Besag & Clifford 1991). */
const SHUFFLES = 400
const ENOUGH = 60

/**
 * The spacing of heights that were marked or typed: the comb they lie on best, refined by a straight line through their
 * numbers, with the chance that heights strewn at random do so well (Monte Carlo, seeded).
 * @param heights mm, at least 3; some may be missing in between
 * @returns null for fewer, or when they are all one
 */
export function spacingOfHeights(heights: readonly number[]): Spacing | null {
  const places = [...new Set(heights)].sort((a, b) => a - b)
  if (places.length < 3) return null
  const gaps = places.slice(1).map((v, i) => v - places[i])
  const least = Math.min(...gaps)
  const most = Math.max(...gaps)
  const span = places[places.length - 1] - places[0]
  if (!(least > 0)) return null
  // nobody marks more than so many bands by eye
  const lowest = Math.max(least * 0.45, span / 150)
  const { spacing, strength } = bestComb(places, lowest, most * 1.1)
  const numbers = places.map((v) => Math.round((v - places[0]) / spacing))
  const fit = linearFit(
    numbers.map((n) => [1, n]),
    places,
  )
  if (!fit || !(fit.coefficients[1] > 0)) return null
  const random = randomStream(20_261_127)
  let asGood = 0
  let drawn = 0
  while (drawn < SHUFFLES && asGood < ENOUGH) {
    drawn++
    const strewn = [places[0], places[places.length - 1]]
    while (strewn.length < places.length) strewn.push(places[0] + random() * span)
    strewn.sort((a, b) => a - b)
    if (bestComb(strewn, lowest, most * 1.1).strength >= strength) asGood++
  }
  // marks are read to about a fifth of a millimetre: two or three that happen to fit say no more
  const few = fit.dof > 0 ? tQuantile(0.975, fit.dof) / NORMAL : 0
  const u = Math.hypot(few && few * fit.errors[1], 0.06 / Math.max(1, numbers[numbers.length - 1]))
  return { value: fit.coefficients[1], u, p: (asGood + 1) / (drawn + 1) }
}

/** Takes a slow drift out of a profile: a running mean of a window, and the ends held. */
export function detrended(profile: readonly number[], window: number): number[] {
  const n = profile.length
  const half = Math.max(1, Math.floor(window / 2))
  const sums = new Float64Array(n + 1)
  for (let i = 0; i < n; i++) sums[i + 1] = sums[i] + profile[i]
  return profile.map((v, i) => {
    const from = Math.max(0, i - half)
    const to = Math.min(n, i + half + 1)
    return v - (sums[to] - sums[from]) / (to - from)
  })
}

/** A profile under a window that falls to nought at its ends (Hann). */
const windowed = (profile: readonly number[]): Float64Array =>
  Float64Array.from(profile, (v, i) => v * (0.5 - 0.5 * Math.cos((2 * Math.PI * (i + 0.5)) / profile.length)))

/** Power of a windowed profile at a frequency, by a phase that is turned on from sample to sample. */
function transformed(weighted: Float64Array, frequency: number): number {
  const n = weighted.length
  const turnCos = Math.cos(2 * Math.PI * frequency)
  const turnSin = Math.sin(2 * Math.PI * frequency)
  let cos = 1
  let sin = 0
  let re = 0
  let im = 0
  for (let i = 0; i < n; i++) {
    re += weighted[i] * cos
    im -= weighted[i] * sin
    const turned = cos * turnCos - sin * turnSin
    sin = cos * turnSin + sin * turnCos
    cos = turned
  }
  return (re * re + im * im) / n
}

/**
 * Power of a profile at a frequency, of a window that falls to nought at its ends (Hann), by a direct transform.
 * @param frequency in turns a sample, 0 to 0.5
 */
export const powerAt = (profile: readonly number[], frequency: number): number =>
  transformed(windowed(profile), frequency)

/** Correlation of a profile with itself, shifted; 1 for no shift. */
export function autocorrelation(profile: readonly number[], lag: number): number {
  const n = profile.length
  let top = 0
  let all = 0
  for (let i = 0; i < n; i++) all += profile[i] * profile[i]
  for (let i = 0; i + lag < n; i++) top += profile[i] * profile[i + lag]
  return all > 0 ? (top / all) * (n / (n - lag)) : 0
}

/** Least and most periods in a profile that are told, samples and turns. */
const LEAST_SAMPLES = 3.5
const LEAST_TURNS = 3.2

/**
 * The period of a profile across bands: drift taken out, the highest peak of the spectrum that the autocorrelation
 * bears out, refined by a parabola through the logarithms beside it.
 * @returns period in samples, with p against noise of the same spectrum on average (Fisher's g test, 1929); null for a
 * profile that is too short
 */
export function periodOf(profile: readonly number[]): Spacing | null {
  const n = profile.length
  if (n < 16) return null
  const flat = detrended(profile, n / 2.5)
  const total = flat.reduce((s, v) => s + v * v, 0)
  if (!(total > 1e-12)) return null
  const from = LEAST_TURNS / n
  const to = 1 / LEAST_SAMPLES
  const step = 1 / (4 * n)
  const count = Math.floor((to - from) / step)
  if (count < 8) return null
  const weighted = windowed(flat)
  const power = Array.from({ length: count }, (_, k) => transformed(weighted, from + k * step))
  let peak = 0
  for (let k = 1; k < count; k++) if (power[k] > power[peak]) peak = k
  // a band of double the spacing is not meant where the half carries nearly as much
  const frequency = refined(power, peak, from, step)
  // Fisher's test over the frequencies that are independent of one another
  const own = power.filter((_, k) => k % 6 === peak % 6)
  const g = power[peak] / own.reduce((s, v) => s + v, 0)
  const m = own.length
  // the highest of a finer comb of frequencies has about twice as many chances as there are independent ones
  const p = Math.min(1, 2 * m * Math.exp((m - 1) * Math.log(Math.max(1e-12, 1 - g))))
  const lag = Math.round(1 / frequency)
  const borne = autocorrelation(flat, lag) > 0.12
  const { turn, u } = alongProfile(flat, frequency)
  return { value: 1 / turn, u: u / (turn * turn), p: borne ? p : Math.max(p, 0.2) }
}

/** Pieces of a profile in which its phase is told on its own, and turns in each at least. */
const MOST_PIECES = 9
const TURNS_EACH = 1

/**
 * The frequency of a profile by how its phase goes on from piece to piece, and the standard uncertainty of that by how far the
 * pieces scatter round a straight line (Tretter 1985): bands that wander, and noise that is not the same at all frequencies,
 * are in it as they are.
 * @param frequency near it, in turns a sample
 */
function alongProfile(profile: readonly number[], frequency: number): { turn: number; u: number } {
  const n = profile.length
  const pieces = Math.max(3, Math.min(MOST_PIECES, Math.floor((n * frequency) / TURNS_EACH)))
  const phase = (turn: number, k: number) => {
    const [from, to] = [Math.floor((k * n) / pieces), Math.floor(((k + 1) * n) / pieces)]
    let [re, im] = [0, 0]
    for (let t = from; t < to; t++) {
      const weight = 0.5 - 0.5 * Math.cos((2 * Math.PI * (t - from + 0.5)) / (to - from))
      re += weight * profile[t] * Math.cos(2 * Math.PI * turn * t)
      im -= weight * profile[t] * Math.sin(2 * Math.PI * turn * t)
    }
    return { at: (from + to - 1) / 2, phase: Math.atan2(im, re), size: Math.hypot(re, im) / (to - from) }
  }
  const all = Array.from({ length: pieces }, (_, k) => phase(frequency, k))
  // a phase goes on from the one before it
  for (let k = 1; k < pieces; k++)
    all[k].phase -= 2 * Math.PI * Math.round((all[k].phase - all[k - 1].phase) / (2 * Math.PI))
  const fit = linearFit(
    all.map((a) => [1, a.at - n / 2]),
    all.map((a) => a.phase),
    all.map((a) => a.size ** 2),
  )
  if (!fit) return { turn: frequency, u: frequency }
  const turn = frequency + fit.coefficients[1] / (2 * Math.PI)
  // what wanders goes further over three pieces than over one: of that a line's own scatter says too little.
  // The slope of a line through a random walk has 6/5 of the walk's variance a step, over its steps
  const off = all.map((a, k) => a.phase - fit.fitted[k])
  const went = (lag: number) => mean(off.slice(lag).map((v, k) => (v - off[k]) ** 2))
  const wander = pieces > 4 ? Math.max(0, (went(3) - went(1)) / 2) : 0
  const apart = n / pieces
  // few pieces tell little of their own scatter
  const few = tQuantile(0.975, pieces - 2) / NORMAL
  const u = few * Math.hypot(fit.errors[1], Math.sqrt((1.2 * wander) / pieces) / apart)
  return { turn, u: u / (2 * Math.PI) }
}
const mean = (v: readonly number[]) => v.reduce((s, x) => s + x, 0) / Math.max(1, v.length)
/** Standard uncertainties in half of a 95 % interval. */
const NORMAL = 1.96

function refined(power: readonly number[], peak: number, from: number, step: number): number {
  const at = from + peak * step
  if (peak < 1 || peak > power.length - 2) return at
  const [a, b, c] = [power[peak - 1], power[peak], power[peak + 1]].map((v) => Math.log(Math.max(1e-300, v)))
  const bend = a - 2 * b + c
  return bend < 0 ? at + (0.5 * (a - c) * step) / bend : at
}

/** Half of the 95 % interval of a spacing. */
export const spacingInterval = ({ u }: Spacing): number => NORMAL * u
