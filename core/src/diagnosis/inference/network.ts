/** A cause in a two-layer noisy-OR network. */
export interface Cause {
  /** Probability before any finding, 0 to 1. */
  prior: number
  /** Chance that this cause alone produces each finding, by finding index. */
  links: [finding: number, chance: number][]
}

export interface Finding {
  /** Chance that the finding shows without any of the causes. */
  leak: number
  /** True: seen. False: looked for and not there. Undefined: nobody looked. */
  state?: boolean
  /** False for findings that are no symptom, such as the outcome of an attempt. */
  symptom?: boolean
}

export interface Posterior {
  /** Probability of each cause given the findings. */
  causes: number[]
  /** Probability that the cause is there and brought about at least one of the seen symptoms. */
  responsible: number[]
  /** Natural logarithm of the probability of the findings. */
  logEvidence: number
}

/** Most findings that may be seen at once; the exact sum grows as 2 to their number. */
export const MAX_SEEN = 18

/**
 * Exact posterior of every cause in a noisy-OR network with leaks (Pearl 1988; two-layer form of Shwe et
 * al. 1991). The sum is the one Quickscore (Heckerman 1989) computes with alternating signs; here it is
 * carried forward over the sets of findings already explained, so that only positive terms are added and
 * nothing cancels. Negative findings are folded into the priors. Cost: causes × links × 2^seen.
 *
 * @throws RangeError when more than {@link MAX_SEEN} findings are seen or a number is no probability
 */
export function posterior(causes: readonly Cause[], findings: readonly Finding[]): Posterior {
  const bitOf = new Int32Array(findings.length).fill(-1)
  let seen = 0
  findings.forEach((f, i) => {
    if (!(f.leak >= 0 && f.leak <= 1)) throw new RangeError(`a leak of ${f.leak} is no probability`)
    if (f.state === true) bitOf[i] = seen++
  })
  if (seen > MAX_SEEN) throw new RangeError(`${seen} signs seen at once; ${MAX_SEEN} are the most`)
  const size = 1 << seen
  let logScale = 0

  // A cause at work: chance that none of the negatives shows, and the chance for each positive.
  const works = causes.map((c) => {
    if (!(c.prior >= 0 && c.prior <= 1)) throw new RangeError(`a prior of ${c.prior} is no probability`)
    let silent = 1
    const bits: number[] = []
    const chances: number[] = []
    const symptoms: boolean[] = []
    for (const [f, q] of c.links) {
      if (findings[f].state === false) silent *= 1 - q
      else if (bitOf[f] >= 0 && q > 0) {
        bits.push(1 << bitOf[f])
        chances.push(q)
        symptoms.push(findings[f].symptom !== false)
      }
    }
    return { on: c.prior * silent, off: 1 - c.prior, bits, chances, symptoms }
  })
  for (const f of findings) if (f.state === false) logScale += Math.log(1 - f.leak)

  // forward[i][T]: weight of the causes before i, having explained exactly the set T
  const start = new Float64Array(size)
  start[0] = 1
  findings.forEach((f, i) => {
    if (f.state === true) spread(start, 1 << bitOf[i], f.leak)
  })
  // causes without a link to a seen finding never change the set: they only scale
  const linked = works.map((w, i) => (w.bits.length ? i : -1)).filter((i) => i >= 0)
  const forward: Float64Array[] = []
  let now = start
  const scratch = new Float64Array(size)
  for (const i of linked) {
    forward.push(now)
    const next = new Float64Array(size)
    scratch.set(now)
    const w = works[i]
    for (let k = 0; k < w.bits.length; k++) spread(scratch, w.bits[k], w.chances[k])
    for (let t = 0; t < size; t++) next[t] = w.off * now[t] + w.on * scratch[t]
    now = next
  }
  const evidence = now[size - 1]
  // backward[T]: weight of the causes from i on that completes the set T
  let back = new Float64Array(size)
  back[size - 1] = 1
  const result = new Array<number>(causes.length)
  const responsible = new Array<number>(causes.length).fill(0)
  const idle = new Float64Array(size)
  for (let j = linked.length - 1; j >= 0; j--) {
    const i = linked[j]
    const w = works[i]
    scratch.set(back)
    idle.set(back)
    let none = 1 // chance that a cause at work brings about none of the seen symptoms
    for (let k = 0; k < w.bits.length; k++) {
      gather(scratch, w.bits[k], w.chances[k])
      if (w.symptoms[k]) none *= 1 - w.chances[k]
      else gather(idle, w.bits[k], w.chances[k])
    }
    const f = forward[j]
    let on = 0
    let without = 0
    for (let t = 0; t < size; t++) {
      on += f[t] * scratch[t]
      without += f[t] * idle[t]
    }
    if (evidence > 0) responsible[i] = Math.max(0, (w.on * (on - none * without)) / evidence)
    result[i] = evidence > 0 ? Math.min(1, (w.on * on) / evidence) : NaN
    const next = new Float64Array(size)
    for (let t = 0; t < size; t++) next[t] = w.off * back[t] + w.on * scratch[t]
    back = next
  }
  let log = Math.log(evidence) + logScale
  works.forEach((w, i) => {
    if (w.bits.length) return
    const sum = w.on + w.off
    result[i] = w.on / sum
    log += Math.log(sum)
  })
  return { causes: result, responsible, logEvidence: log }
}

/** Lets a cause at work add finding `b` with chance `q` to every set that lacks it. */
function spread(weights: Float64Array, b: number, q: number): void {
  for (let t = 0; t < weights.length; t++) {
    if (t & b) continue
    const moved = weights[t] * q
    weights[t] -= moved
    weights[t | b] += moved
  }
}

/** The transpose of {@link spread}. */
function gather(weights: Float64Array, b: number, q: number): void {
  for (let t = 0; t < weights.length; t++) {
    if (t & b) continue
    weights[t] = (1 - q) * weights[t] + q * weights[t | b]
  }
}

/** Ten times the decimal logarithm of the odds. */
export function deciban(probability: number): number {
  const p = Math.min(1 - 1e-12, Math.max(1e-12, probability))
  return 10 * Math.log10(p / (1 - p))
}

/** The probability at the given decibans of odds. */
export function fromDeciban(db: number): number {
  const odds = 10 ** (db / 10)
  return odds / (1 + odds)
}
