/**
 * Decision-theoretic troubleshooting (Heckerman, Breese, Rommelse 1995) under one fault at a time: repairs and
 * questions are compared by the expected cost to the fix. Repairs go in the order of chance over cost
 * (Kalagnanam & Henrion 1990); a question is asked when what it costs is less than what its answer saves.
 */
export interface Trouble {
  /** Chance of each cause, adding up to at most 1; the rest is a cause nobody knows. */
  chances: readonly number[]
  repairs: readonly Repair[]
  questions: readonly Question[]
  /** Cost when every repair has failed. */
  giveUp: number
}
export interface Repair {
  cost: number
  /** Chance that it cures each of the causes it goes for, by cause. */
  cures: readonly { cause: number; works: number }[]
}
export interface Question {
  cost: number
  /** Chance of a yes under each cause, and under the unknown one. */
  yes: readonly number[]
  yesUnknown: number
}

export type TroubleStep =
  | { kind: 'repair'; index: number; expected: number }
  | { kind: 'question'; index: number; expected: number; yes: number; saves: number }
  | { kind: 'give-up'; expected: number }

/** Chance that a repair cures whatever is the cause. */
const curedBy = (r: Repair, chances: readonly number[]): number => {
  let sum = 0
  for (const c of r.cures) sum += chances[c.cause] * c.works
  return sum
}

/** Expected cost of making the repairs one after another, best chance over cost first, and the order. */
export function repairSequence(
  chances: readonly number[],
  repairs: readonly Repair[],
  giveUp: number,
): { cost: number; order: number[] } {
  const left = chances.slice()
  const open = new Set(repairs.map((_, i) => i))
  const all: number[] = []
  let remaining = 1
  let spent = 0
  // where to stop is found afterwards: a repair may only pay because the next one does
  let best = { cost: giveUp, length: 0 }
  while (open.size) {
    let next = -1
    let ratio = 0
    for (const i of open) {
      const r = repairs[i]
      const q = curedBy(r, left) / Math.max(1e-9, r.cost)
      if (q > ratio) {
        ratio = q
        next = i
      }
    }
    if (next < 0) break
    const r = repairs[next]
    spent += remaining * r.cost
    const cured = curedBy(r, left)
    for (const c of r.cures) left[c.cause] *= 1 - c.works
    remaining -= cured
    all.push(next)
    open.delete(next)
    const cost = spent + Math.max(0, remaining) * giveUp
    if (cost < best.cost) best = { cost, length: all.length }
  }
  return { cost: best.cost, order: all.slice(0, best.length) }
}

/** Chances after an answer, and how likely that answer is. */
export function afterAnswer(
  chances: readonly number[],
  q: Question,
  answer: boolean,
): { probability: number; chances: number[] } {
  const unknown = Math.max(0, 1 - chances.reduce((a, b) => a + b, 0))
  const like = (yes: number) => (answer ? yes : 1 - yes)
  const weights = chances.map((p, i) => p * like(q.yes[i]))
  const rest = unknown * like(q.yesUnknown)
  const probability = weights.reduce((a, b) => a + b, rest)
  return { probability, chances: weights.map((w) => (probability > 0 ? w / probability : 0)) }
}

/**
 * The next step with the least expected cost, looking one question ahead (two where `deep`): each question is
 * valued as if repairs in their best order, or the best further question, followed its answer.
 */
export function nextStep(trouble: Trouble, deep = true): TroubleStep {
  const { chances, repairs, questions, giveUp } = trouble
  const now = repairSequence(chances, repairs, giveUp)
  let best: TroubleStep = now.order.length
    ? { kind: 'repair', index: now.order[0], expected: now.cost }
    : { kind: 'give-up', expected: now.cost }
  const candidates = rankQuestions(trouble, now.cost)
  for (const { index, expected, yes } of candidates.slice(0, deep ? 6 : candidates.length)) {
    let cost = expected
    if (deep) {
      const q = questions[index]
      const rest = candidates.filter((c) => c.index !== index).slice(0, 5)
      cost = q.cost
      for (const answer of [true, false]) {
        const after = afterAnswer(chances, q, answer)
        if (after.probability <= 0) continue
        const straight = repairSequence(after.chances, repairs, giveUp).cost
        let least = straight
        for (const c of rest)
          least = Math.min(least, askCost(after.chances, questions[c.index], repairs, giveUp))
        cost += after.probability * least
      }
    }
    if (cost < best.expected - 1e-9)
      best = { kind: 'question', index, expected: cost, yes, saves: now.cost - cost }
  }
  return best
}

/** Cost of asking one question and then repairing in the best order. */
function askCost(
  chances: readonly number[],
  q: Question,
  repairs: readonly Repair[],
  giveUp: number,
): number {
  let cost = q.cost
  for (const answer of [true, false]) {
    const after = afterAnswer(chances, q, answer)
    if (after.probability > 0) cost += after.probability * repairSequence(after.chances, repairs, giveUp).cost
  }
  return cost
}

/** Questions by what they save, best first, with the expected cost when asked now. */
export function rankQuestions(
  { chances, repairs, questions, giveUp }: Trouble,
  now = repairSequence(chances, repairs, giveUp).cost,
): { index: number; expected: number; saves: number; yes: number }[] {
  return questions
    .map((q, index) => {
      const expected = askCost(chances, q, repairs, giveUp)
      return { index, expected, saves: now - expected, yes: afterAnswer(chances, q, true).probability }
    })
    .sort((a, b) => a.expected - b.expected)
}
