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
  /** False where links had to be cut, see {@link posterior}. */
  exact: boolean
}

/** Additions that one run may take; beyond it links are cut. */
const AFFORDED = 2_000_000
/** Additions that all runs with one finding taken away may take together. */
const AFFORDED_ONE_BY_ONE = 4_000_000
/** Findings that are open at once where links have to be cut: the most that can be afforded. */
const WIDEST = [18, 15, 13, 11, 9]
/** Ways to weigh nearly closed findings when an order is looked for: the cheapest order is taken. */
const ORDERS = [0, 20, 60]
const URGENCY_CUT = 20
/** Runs in which the two ends of cut links learn of each other. */
const ROUNDS = 3

/** A network that is ready to be summed, with and without single findings. */
export interface Prepared {
  posterior: Posterior
  /**
   * Probability of each cause had nobody looked for a finding. Exact where all such runs together are affordable; else
   * each cause is judged with the others at their chances (one message of belief propagation).
   */
  without: (finding: number) => number[]
}

/**
 * Posterior of every cause in a noisy-OR network with leaks (Pearl 1988; two-layer form of Shwe et al. 1991), for any
 * number of findings.
 *
 * The sum is the one Quickscore (Heckerman 1989) computes with alternating signs; here it is carried forward over the
 * sets of findings already explained, so that only positive terms are added and nothing cancels. Negative findings are
 * folded into the priors. Causes are taken in an order in which a finding opens late and closes early (bucket
 * elimination along a path, Dechter 1999): what has no further cause is explained by now, or by its leak, and is
 * forgotten. The cost is the sum of 2^open over the causes, and parts that share no finding fall apart by themselves.
 *
 * Where even the best order is too dear (beyond some 40 signs at once), findings are closed before their last causes,
 * and a finding and a cause on either side of a cut know each other's chance only (belief propagation over the cut
 * links; Murphy, Weiss and Jordan 1999 on such networks). {@link Posterior.exact} says which of the two it was.
 *
 * @param afforded additions that one run may take
 * @throws RangeError when a number is no probability
 */
export function posterior(
  causes: readonly Cause[],
  findings: readonly Finding[],
  afforded = AFFORDED,
): Posterior {
  return prepare(causes, findings, afforded).posterior
}

/** The posterior, see {@link posterior}, and what it would be without each finding. */
export function prepare(
  causes: readonly Cause[],
  findings: readonly Finding[],
  afforded = AFFORDED,
): Prepared {
  for (const f of findings)
    if (!(f.leak >= 0 && f.leak <= 1)) throw new RangeError(`a leak of ${f.leak} is no probability`)
  for (const c of causes)
    if (!(c.prior >= 0 && c.prior <= 1)) throw new RangeError(`a prior of ${c.prior} is no probability`)
  const works = causes.map((c, cause): Working => {
    const links = c.links.flatMap(([finding, chance]) =>
      findings[finding].state === true && chance > 0
        ? [{ finding, chance, symptom: findings[finding].symptom !== false }]
        : [],
    )
    return { cause, on: c.prior * silence(c, findings), off: 1 - c.prior, links }
  })
  // causes without a link to a seen finding never change what is explained: they only scale
  const linked = works.filter((w) => w.links.length)
  const best = cheapest(linked, findings.length)
  const exact = best.work <= afforded
  let order = best
  for (const widest of exact ? [] : WIDEST) {
    order = orderOf(linked, findings.length, URGENCY_CUT, widest)
    if (ROUNDS * order.work <= afforded) break
  }
  const cut = new CutLinks(order.cut, linked, findings)
  let sums = carry(order.steps, causes.length, cut)
  for (let round = 1; round < ROUNDS && !exact; round++) {
    cut.learn(sums.causes)
    sums = carry(order.steps, causes.length, cut)
  }
  let log = Math.log(sums.evidence)
  const linkedTo = new Set(linked.flatMap((w) => w.links.map((l) => l.finding)))
  findings.forEach((f, i) => {
    if (f.state === false) log += Math.log(1 - f.leak)
    else if (f.state === true && !linkedTo.has(i)) log += Math.log(f.leak)
  })
  for (const w of works) {
    if (w.links.length) continue
    sums.causes[w.cause] = w.on / (w.on + w.off)
    log += Math.log(w.on + w.off)
  }
  const whole = { causes: sums.causes, responsible: sums.responsible, logEvidence: log, exact }
  const oneByOne = exact && best.work * findings.length <= AFFORDED_ONE_BY_ONE
  return {
    posterior: whole,
    without: (finding) => {
      const { state, ...rest } = findings[finding]
      if (state === undefined) return whole.causes
      if (state === false) {
        // it was folded into the chances of its causes: those alone begin with other ones
        const aside = findings.map((f, i) => (i === finding ? rest : f))
        const other = new Map(
          causes.flatMap((c, i) =>
            c.links.some(([f]) => f === finding) ? [[i, c.prior * silence(c, aside)] as const] : [],
          ),
        )
        if (!oneByOne)
          return whole.causes.map((p, i) => (other.has(i) ? times(p, other.get(i)! / works[i].on) : p))
        const got = carry(order.steps, causes.length, cut, { on: other }).causes
        for (const { cause, links, on, off } of works)
          if (!links.length) {
            const there = other.get(cause) ?? on
            got[cause] = there / (there + off)
          }
        return got
      }
      if (!oneByOne)
        return whole.causes.map((p, i) => times(p, 1 / messageTo(finding, i, linked, findings, whole.causes)))
      const got = carry(order.steps, causes.length, cut, { explained: finding }).causes
      for (const { cause, links } of works) if (!links.length) got[cause] = whole.causes[cause]
      return got
    },
  }
}

/** Chance that a cause at work shows none of what was looked for and not found. */
const silence = (c: Cause, findings: readonly Finding[]) =>
  c.links.reduce((p, [f, q]) => (findings[f].state === false ? p * (1 - q) : p), 1)

/** A chance whose odds are multiplied. */
const times = (p: number, ratio: number) => (p * ratio) / (p * ratio + 1 - p)

/** By what a seen finding multiplies the odds of a cause when the others are at their chances. */
function messageTo(
  finding: number,
  cause: number,
  linked: readonly Working[],
  findings: readonly Finding[],
  chances: readonly number[],
): number {
  let silent = 1 - findings[finding].leak
  let own = 0
  for (const w of linked)
    for (const l of w.links) {
      if (l.finding !== finding) continue
      if (w.cause === cause) own = l.chance
      else silent *= 1 - chances[w.cause] * l.chance
    }
  return (1 - silent * (1 - own)) / (1 - silent)
}

interface Link {
  finding: number
  chance: number
  symptom: boolean
}
/** A cause with its negatives folded in, and its links to what was seen. */
interface Working {
  cause: number
  on: number
  off: number
  links: Link[]
}
/** What is done next: a finding is opened, a cause is taken in, a finding has no further cause. */
type Step =
  | { kind: 'open' }
  | { kind: 'take'; work: Working; bits: number[]; links: Link[] }
  | { kind: 'close'; finding: number; place: number }
/** A link that an order leaves out. */
interface Cut {
  work: Working
  link: Link
}
interface Order {
  steps: Step[]
  /** Additions that one run over it takes. */
  work: number
  cut: Cut[]
}

/** The cheapest of a few orders in which nothing is cut. */
function cheapest(linked: readonly Working[], count: number): Order {
  return ORDERS.map((urgency) => orderOf(linked, count, urgency, Infinity)).reduce((m, o) =>
    o.work < m.work ? o : m,
  )
}

/**
 * An order of causes in which few findings are open at once: always the cause that opens least and closes most, those
 * before others that belong to nearly closed findings. What does not fit into `widest` is closed before its time, the
 * finding first whose other causes are the least likely to explain it.
 */
function orderOf(linked: readonly Working[], count: number, urgency: number, widest: number): Order {
  const left = new Int32Array(count)
  for (const w of linked) for (const l of w.links) left[l.finding]++
  const state = new Uint8Array(count) // 1: open, 2: closed before its time
  const open: number[] = []
  const todo = new Set(linked)
  const order: Order = { steps: [], work: 0, cut: [] }
  const close = (finding: number) => {
    const place = open.indexOf(finding)
    open.splice(place, 1)
    order.steps.push({ kind: 'close', finding, place })
  }
  const influence = (finding: number) => {
    let sum = 0
    for (const w of todo)
      for (const l of w.links) if (l.finding === finding) sum += (w.on / (w.on + w.off)) * l.chance
    return sum
  }
  while (todo.size) {
    let next: Working | null = null
    let least = Infinity
    for (const w of todo) {
      let opens = 0
      let closes = 0
      let near = 0
      for (const { finding } of w.links) {
        if (state[finding] === 2) continue
        if (state[finding] === 0) opens++
        else near = Math.max(near, 1 / left[finding])
        if (left[finding] === 1) closes++
      }
      const score = 10 * (opens - closes) - urgency * near - (opens ? 0 : 5)
      if (score < least) {
        least = score
        next = w
      }
    }
    const work = next!
    todo.delete(work)
    const links = work.links.filter((l) => state[l.finding] !== 2)
    for (const { finding } of links) {
      if (state[finding] === 1) continue
      state[finding] = 1
      open.push(finding)
      order.steps.push({ kind: 'open' })
    }
    // those of this cause stay open until it is taken in
    while (open.length > widest) {
      const others = open.filter((f) => !links.some((l) => l.finding === f))
      if (!others.length) break
      const first = others.reduce((m, f) => (influence(f) < influence(m) ? f : m))
      for (const w of todo)
        for (const link of w.links) if (link.finding === first) order.cut.push({ work: w, link })
      close(first)
      state[first] = 2
    }
    order.work += 2 ** open.length * (links.length + 2)
    order.steps.push({ kind: 'take', work, links, bits: links.map((l) => open.indexOf(l.finding)) })
    for (const { finding } of links) if (--left[finding] === 0) close(finding)
  }
  return order
}

/** The two ends of links that were cut, as each looks from the other. */
class CutLinks {
  /** Odds that what was cut off gives to each cause. */
  private readonly odds = new Map<number, number>()
  /** Chance that each finding is explained by its leak or by a cause that was cut off. */
  private readonly leaks = new Map<number, number>()
  private chances: readonly number[] = []
  private readonly messages: number[]

  constructor(
    private readonly cut: readonly Cut[],
    private readonly linked: readonly Working[],
    private readonly findings: readonly Finding[],
  ) {
    this.messages = cut.map(() => 1)
    if (!cut.length) return
    const begin: number[] = []
    for (const w of linked) begin[w.cause] = w.on / (w.on + w.off)
    this.learn(begin)
  }
  leak = (finding: number): number => this.leaks.get(finding) ?? this.findings[finding].leak
  oddsOf = (cause: number): number => this.odds.get(cause) ?? 1
  /** Takes up the chances of the last run. */
  learn(chances: readonly number[]): void {
    this.chances = chances
    this.send()
  }
  private send(): void {
    // a cause as a finding sees it: without what that finding itself said
    const seenBy = this.cut.map(({ work }, k) => times(this.chances[work.cause], 1 / this.messages[k]))
    this.leaks.clear()
    this.cut.forEach(({ link }, k) => {
      this.leaks.set(link.finding, 1 - (1 - this.leak(link.finding)) * (1 - seenBy[k] * link.chance))
    })
    this.odds.clear()
    this.cut.forEach(({ work, link }, k) => {
      this.messages[k] = messageTo(link.finding, work.cause, this.linked, this.findings, this.chances)
      this.odds.set(work.cause, this.oddsOf(work.cause) * this.messages[k])
    })
  }
}

/**
 * Carries weights forward over what is explained, and back again: the sums for every cause.
 * @param aside a finding that needs no explanation, or other weights of causes at work
 */
function carry(
  steps: readonly Step[],
  count: number,
  cut: CutLinks,
  aside: { explained?: number; on?: ReadonlyMap<number, number> } = {},
) {
  // forward: weight of the causes so far, having explained exactly a set of the open findings
  let now = Float64Array.of(1)
  const before: Float64Array[] = []
  let scratch = new Float64Array(0)
  const leakOf = (finding: number) => (finding === aside.explained ? 1 : cut.leak(finding))
  const priors = (w: Working) => {
    const odds = cut.oddsOf(w.cause)
    if (odds === 1) return { on: aside.on?.get(w.cause) ?? w.on, off: w.off }
    // what a cut finding says of the cause is no evidence of its own here: it is counted where the finding closes
    const scale = (w.on + w.off) / (w.on * odds + w.off)
    return { on: w.on * odds * scale, off: w.off * scale }
  }
  for (const step of steps) {
    before.push(now)
    if (step.kind === 'open') {
      const next = new Float64Array(2 * now.length)
      next.set(now)
      now = next
    } else if (step.kind === 'close') {
      const next = new Float64Array(now.length / 2)
      const bit = 1 << step.place
      const leak = leakOf(step.finding)
      for (let t = 0; t < next.length; t++) {
        const at = (t & (bit - 1)) | ((t & -bit) << 1)
        next[t] = now[at | bit] + leak * now[at]
      }
      now = next
    } else {
      const { on, off } = priors(step.work)
      const next = now.slice()
      step.bits.forEach((place, k) => spread(next, 1 << place, step.links[k].chance))
      for (let t = 0; t < next.length; t++) next[t] = off * now[t] + on * next[t]
      now = next
    }
  }
  const evidence = now[0]
  // backward: weight of what is still to come that completes the set
  let back = Float64Array.of(1)
  const causes = new Array<number>(count).fill(0)
  const responsible = new Array<number>(count).fill(0)
  for (let i = steps.length - 1; i >= 0; i--) {
    const step = steps[i]
    const was = before[i]
    if (step.kind === 'open') back = back.slice(0, was.length)
    else if (step.kind === 'close') {
      const next = new Float64Array(was.length)
      const bit = 1 << step.place
      const leak = leakOf(step.finding)
      for (let t = 0; t < back.length; t++) {
        const at = (t & (bit - 1)) | ((t & -bit) << 1)
        next[at | bit] = back[t]
        next[at] = leak * back[t]
      }
      back = next
    } else {
      const { cause } = step.work
      const { on, off } = priors(step.work)
      const all = back.slice()
      if (scratch.length !== back.length) scratch = new Float64Array(back.length)
      scratch.set(back)
      let none = 1 // chance that a cause at work brings about none of the seen symptoms
      step.bits.forEach((place, k) => {
        const { chance, symptom } = step.links[k]
        gather(all, 1 << place, chance)
        if (symptom) none *= 1 - chance
        else gather(scratch, 1 << place, chance)
      })
      let there = 0
      let idle = 0
      for (let t = 0; t < was.length; t++) {
        there += was[t] * all[t]
        idle += was[t] * scratch[t]
      }
      responsible[cause] = evidence > 0 ? Math.max(0, (on * (there - none * idle)) / evidence) : 0
      causes[cause] = evidence > 0 ? Math.min(1, (on * there) / evidence) : NaN
      for (let t = 0; t < all.length; t++) all[t] = off * back[t] + on * all[t]
      back = all
    }
  }
  return { causes, responsible, evidence }
}

/** Lets a cause at work add finding `b` with chance `q` to every set that lacks it. */
function spread(weights: Float64Array, b: number, q: number): void {
  for (let base = 0; base < weights.length; base += 2 * b)
    for (let t = base; t < base + b; t++) {
      const moved = weights[t] * q
      weights[t] -= moved
      weights[t + b] += moved
    }
}

/** The transpose of {@link spread}. */
function gather(weights: Float64Array, b: number, q: number): void {
  for (let base = 0; base < weights.length; base += 2 * b)
    for (let t = base; t < base + b; t++) weights[t] = (1 - q) * weights[t] + q * weights[t + b]
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
