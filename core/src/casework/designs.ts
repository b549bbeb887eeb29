import type { SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import type { SettingKey, SettingValue, SomeValues } from '../recipe/settings'
import { coefficientInterval, linearFit } from '../statistics/index'
import { isSettingProposal, type Proposal, type SettingProposal } from '../diagnosis/advice/proposal'
import type { Balance, SignStates } from '../diagnosis/inference/balance'
import type { Advice } from '../diagnosis/advice/plan'
import type { LookResult } from '../diagnosis/evidence/looks'
import type { Reason } from '../quantity/reason'
import { caseReason } from './reasons'
import { signsThat } from './notebook'

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
function levelsOf(p: SettingProposal, three: boolean): SettingValue[] | null {
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
  for (const sign of signsThat('present', signs)) {
    const factors: SettingProposal[] = []
    for (const s of likely) {
      if (!suspectOf(s.id).signs[sign]) continue
      const p = proposals
        .filter(isSettingProposal)
        .find((q) => q.suspect === s.id && !factors.some((f) => f.key === q.key))
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
  mends: readonly SettingProposal[],
): Omit<DesignedSet, 'id' | 'grades'> | null {
  if (!fits(design, mends.length)) return null
  const factors = mends.flatMap((p): Factor[] => {
    const levels = levelsOf(p, design === 'l9')
    return levels ? [{ proposal: p.id, suspect: p.suspect, key: p.key, levels }] : []
  })
  return factors.length === mends.length ? { design, sign, factors } : null
}

/** The settings of one run. */
export function runValues(set: Pick<DesignedSet, 'design' | 'factors'>, run: number): SomeValues {
  return Object.fromEntries(
    set.factors.map((f, k) => [f.key, f.levels[DESIGNS[set.design].runs[run][k]]]),
  ) as SomeValues
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
  reasons: Reason[]
}

/** Grades are whole steps: scatter below this cannot be told. */
const LEAST_SCATTER = 0.3
/** What an effect has to be, in steps, and how far ahead of the next one. */
const LEADS = 1.5

/** Main effects of a set once all runs are graded; with fewer there is nothing to tell. */
export function setOutcome(set: DesignedSet): SetOutcome {
  const runs: readonly (readonly number[])[] = DESIGNS[set.design].runs
  const grades = set.grades.filter((g) => g !== null)
  const nothing = (reason: Reason): SetOutcome => ({ effects: [], lead: null, reasons: [reason] })
  if (grades.length < runs.length)
    return nothing(caseReason('runs-left', { left: runs.length - grades.length, of: runs.length }))
  const last = set.design === 'l9' ? 2 : 1
  const fit = linearFit(
    runs.map((r) => [1, ...r.map((v) => (2 * v) / last - 1)]),
    grades,
  )
  if (!fit) return nothing(caseReason('no-effects'))
  const effects = set.factors.map((factor, k): SetEffect => {
    const ci = fit.dof > 0 && fit.sd > LEAST_SCATTER ? coefficientInterval(fit, k + 1) : null
    return { factor, effect: 2 * fit.coefficients[k + 1], interval: ci && [2 * ci[0], 2 * ci[1]] }
  })
  const ranked = [...effects].sort((a, b) => Math.abs(b.effect) - Math.abs(a.effect))
  const sure = (e: SetEffect) => !e.interval || e.interval[0] > 0 || e.interval[1] < 0
  const [top, second] = ranked
  const lead =
    top.effect >= LEADS && top.effect >= LEADS * Math.max(0, second.effect) && sure(top) ? top : null
  return {
    effects,
    lead,
    reasons: [
      lead
        ? caseReason('set-lead', { suspect: lead.factor.suspect, sign: set.sign })
        : caseReason('none-stands-out'),
      ...ranked.map(({ factor: { key, levels }, effect }) =>
        caseReason('factor-effect', {
          setting: key,
          from: levels[0],
          to: levels[levels.length - 1],
          effect,
        }),
      ),
    ],
  }
}

/** What a finished set says of its suspects. */
export function setEvidence(sets: readonly DesignedSet[]): LookResult[] {
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
