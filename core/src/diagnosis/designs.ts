import { signOf, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import type { SettingKey, SettingValue } from '../recipe/settings'
import { coefficientInterval, linearFit } from '../statistics'
import { figure } from '../units/format'
import { settingText, valueText, type Proposal } from './advice'
import type { Balance, SignStates } from './balance'
import type { Advice, CheckResult } from './plan'

/**
 * Designed sets: a few prints in which several settings change at once so that each one's effect can still be told
 * apart (two-level factorial, and the orthogonal arrays L4 and L9; Box, Hunter & Hunter 1978; Taguchi 1987).
 */
export const DESIGNS = {
  'two-by-two': {
    name: 'Four prints, two settings',
    factors: 2,
    runs: [
      [0, 0],
      [1, 0],
      [0, 1],
      [1, 1],
    ],
  },
  l4: {
    name: 'Four prints, three settings (L4)',
    factors: 3,
    runs: [
      [0, 0, 0],
      [0, 1, 1],
      [1, 0, 1],
      [1, 1, 0],
    ],
  },
  l9: {
    name: 'Nine prints, four settings at three levels (L9)',
    factors: 4,
    runs: [
      [0, 0, 0, 0],
      [0, 1, 1, 1],
      [0, 2, 2, 2],
      [1, 0, 1, 2],
      [1, 1, 2, 0],
      [1, 2, 0, 1],
      [2, 0, 2, 1],
      [2, 1, 0, 2],
      [2, 2, 1, 0],
    ],
  },
} as const
export type DesignId = keyof typeof DESIGNS
export const DESIGN_IDS = Object.keys(DESIGNS) as DesignId[]

export interface Factor {
  proposal: string
  suspect: SuspectId
  key: SettingKey
  /** The value in use, and what the mend proposes (L9: half-way as well). */
  levels: SettingValue[]
}
export interface DesignedSet {
  id: string
  design: DesignId
  /** The sign that is graded: 4 gone, 0 as bad as ever. */
  sign: SignId
  factors: Factor[]
  /** One for each run; null not printed yet. */
  grades: (number | null)[]
}

const fits = (design: DesignId, count: number) => DESIGNS[design].factors === count

/** Levels of a proposal for a design; null when the setting has no half-way for three levels. */
function levelsOf(p: Proposal & { kind: 'setting' }, three: boolean): SettingValue[] | null {
  if (!three) return [p.from, p.to]
  if (typeof p.from !== 'number' || typeof p.to !== 'number') return null
  const mid = Number(((p.from + p.to) / 2).toFixed(4))
  return [p.from, mid, p.to]
}

/**
 * A set worth printing: when the likeliest suspects bring the same sign, each can be mended by a setting of its own, and
 * no look, check or trial is left that would tell them apart for less. The smallest that covers them.
 */
export function offerSet(
  balance: Balance,
  proposals: readonly Proposal[],
  plan: Advice,
  signs: SignStates,
): Omit<DesignedSet, 'id' | 'grades'> | null {
  const asks = [plan.next, ...plan.others].filter((s) => s && s.kind !== 'mend')
  if (asks.some((s) => s!.saves > 3)) return null
  const lead = balance.suspects[0]?.probability ?? 0
  if (lead >= 0.85) return null // one is plain enough: try it
  const likely = balance.suspects.filter((s) => s.probability >= Math.max(0.15, 0.4 * lead)).slice(0, 4)
  const seen = (Object.keys(signs) as SignId[]).filter((s) => signs[s] === 'present')
  for (const sign of seen) {
    const factors: (Proposal & { kind: 'setting' })[] = []
    for (const s of likely) {
      if (!suspectOf(s.id).signs[sign]) continue
      const p = proposals.find(
        (q): q is Proposal & { kind: 'setting' } =>
          q.kind === 'setting' && q.suspect === s.id && !factors.some((f) => f.key === q.key),
      )
      if (p) factors.push(p)
    }
    if (factors.length < 2) continue
    const design: DesignId = fits('l9', factors.length)
      ? 'l9'
      : fits('l4', factors.length)
        ? 'l4'
        : 'two-by-two'
    const made = makeSet(design, sign, factors)
    if (made) return made
  }
  return null
}

/** A set from chosen mends; null when the design does not suit them. */
export function makeSet(
  design: DesignId,
  sign: SignId,
  mends: readonly (Proposal & { kind: 'setting' })[],
): Omit<DesignedSet, 'id' | 'grades'> | null {
  if (!fits(design, mends.length)) return null
  const factors = mends.flatMap((p): Factor[] => {
    const levels = levelsOf(p, design === 'l9')
    return levels ? [{ proposal: p.id, suspect: p.suspect, key: p.key, levels }] : []
  })
  return factors.length === mends.length ? { design, sign, factors } : null
}

/** The settings of one run. */
export function runValues(
  set: Pick<DesignedSet, 'design' | 'factors'>,
  run: number,
): Partial<Record<SettingKey, SettingValue>> {
  return Object.fromEntries(set.factors.map((f, k) => [f.key, f.levels[DESIGNS[set.design].runs[run][k]]]))
}

export interface SetEffect {
  factor: Factor
  /** Change of the grade from the first level to the last. */
  effect: number
  interval: [number, number] | null
}
export interface SetOutcome {
  effects: SetEffect[]
  /** The factor that counts; null when none stands out or too little is graded. */
  lead: SetEffect | null
  words: string[]
}

/** Main effects of a set once all runs are graded; with fewer there is nothing to tell. */
export function setOutcome(set: DesignedSet): SetOutcome {
  const runs: readonly (readonly number[])[] = DESIGNS[set.design].runs
  const missing = set.grades.filter((g) => g === null).length
  if (missing)
    return { effects: [], lead: null, words: [`${missing} of ${runs.length} prints are still to be graded.`] }
  const last = set.design === 'l9' ? 2 : 1
  const fit = linearFit(
    runs.map((r) => [1, ...r.map((v) => (2 * v) / last - 1)]),
    set.grades as number[],
  )
  if (!fit) return { effects: [], lead: null, words: ['These grades give no effects.'] }
  const effects = set.factors.map((factor, k): SetEffect => {
    // grades are whole steps: scatter below a third of one cannot be told
    const ci = fit.dof > 0 && fit.sd > 0.3 ? coefficientInterval(fit, k + 1) : null
    return { factor, effect: 2 * fit.coefficients[k + 1], interval: ci && [2 * ci[0], 2 * ci[1]] }
  })
  const ranked = [...effects].sort((a, b) => Math.abs(b.effect) - Math.abs(a.effect))
  const sure = (e: SetEffect) => !e.interval || e.interval[0] > 0 || e.interval[1] < 0
  const top = ranked[0]
  // a step and a half, and clear of the next one
  const lead =
    top.effect >= 1.5 && top.effect >= 1.5 * Math.max(0, ranked[1].effect) && sure(top) ? top : null
  const say = (e: SetEffect) =>
    `${settingText(e.factor.key, e.factor.levels[0])} → ${valueText(e.factor.key, e.factor.levels.at(-1)!)}: ${e.effect >= 0 ? '+' : '−'}${figure(Math.abs(e.effect), 1)} steps.`
  return {
    effects,
    lead,
    words: [
      lead
        ? `${suspectOf(lead.factor.suspect).name} it is: changing it alone does the most against ${signOf(set.sign).name.toLowerCase()}.`
        : 'None of them stands out: it may take two together, or it is something else.',
      ...ranked.map(say),
    ],
  }
}

/** What a finished set says of its suspects. */
export function setEvidence(sets: readonly DesignedSet[]): CheckResult[] {
  return sets.flatMap((s) => {
    const { lead } = setOutcome(s)
    if (!lead) return []
    return s.factors.map((f) => ({
      by: 'designed-set' as const,
      suspect: f.suspect,
      found: f.suspect === lead.factor.suspect,
    }))
  })
}
