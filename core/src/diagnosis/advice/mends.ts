import type { FactKey, Facts } from '../../knowledge/facts'
import type { ProcedureId } from '../../knowledge/procedures'
import { SIGN_IDS, type SignId } from '../../knowledge/signs'
import { isSuspectId, suspectOf, type SuspectId } from '../../knowledge/suspects'
import type { Mend, SettingMend } from '../../knowledge/types'
import type { Machine } from '../../machine/machine'
import { cardOf } from '../../material/cards'
import type { Filament } from '../../material/filament'
import type { Reason } from '../../quantity/reason'
import { machineLimit, type RecipeValues } from '../../recipe/derive'
import { roundTo, settingOf, type SettingKey, type SettingValue } from '../../recipe/settings'
import type { Balance } from '../inference/balance'
import { because } from '../reasons'

/** What a step changes: one setting, or something done by hand. */
export type Change =
  | { kind: 'setting'; key: SettingKey; from: SettingValue; to: SettingValue }
  | { kind: 'handling'; procedure: ProcedureId }

/** One thing that can be done next. */
export type Proposal = {
  /** Stable within one picture: suspect and the mend's place in the knowledge. */
  id: string
  suspect: SuspectId
  probability: number
  why: Reason
  /** Signs to look for afterwards. */
  watch: SignId[]
  /** Expected minutes to the fix by this alone: cost over the chance that it is the cure. */
  expectedMinutes: number
  minutes: number
  /** What is out of the ordinary about it. */
  cautions: Reason[]
} & Change
export type SettingProposal = Extract<Proposal, { kind: 'setting' }>
export const isSettingProposal = (p: Proposal): p is SettingProposal => p.kind === 'setting'

/** A setting whose change made signs go away or better: going back on it may bring them back. */
export interface Cure {
  attempt: number
  key: SettingKey
  from: SettingValue
  to: SettingValue
  signs: SignId[]
}

export interface AdviceInput {
  balance: Balance
  facts: Facts
  recipe: RecipeValues
  machine: Machine
  filament: Filament
  /** Earlier changes of this case that helped. */
  cures?: readonly Cure[]
  /** Minutes the machine needs to print the part again. */
  printMinutes?: number
}

/** A minute of the machine against a minute of the person. From memory. */
const MACHINE_WEIGHT = 0.25
const TYPICAL_PRINT = 60
/** Suspects less likely than this are not mended. */
const LEAST_PROBABILITY = 0.003

/**
 * Mends of the weighed suspects, the one with the least expected cost to the fix first: p/C order
 * (Kalagnanam & Henrion 1990). One mend a suspect leads; its others follow.
 */
export function proposeMends(input: AdviceInput): Proposal[] {
  const { balance, printMinutes = TYPICAL_PRINT } = input
  const proposals: Proposal[] = []
  for (const { id: suspect, probability } of balance.suspects) {
    if (probability < LEAST_PROBABILITY) continue
    const { mends, watch } = suspectOf(suspect)
    let place = 0
    mends.forEach((mend, i) => {
      const made = changeOf(mend, input, suspect)
      if (!made) return
      // A suspect's later mends are second choices: they work where the first does not.
      const chance = probability * 0.5 ** place++
      const why = because('mend-helps', { suspect, mend: i })
      proposals.push({
        id: `${suspect}/${i}`,
        suspect,
        probability,
        why: made.instead ? because('recipe-has-it', { ...made.instead, why }) : why,
        watch,
        minutes: mend.minutes,
        expectedMinutes: (mend.minutes + MACHINE_WEIGHT * printMinutes) / chance,
        cautions: made.cautions ?? [],
        ...made.change,
      })
    })
  }
  return proposals.sort((a, b) => a.expectedMinutes - b.expectedMinutes)
}

interface Made {
  change: Change
  cautions?: Reason[]
  /** The recipe has the value already; the file is what has to change. */
  instead?: { setting: SettingKey; value: SettingValue }
}

function changeOf(mend: Mend, input: AdviceInput, suspect: SuspectId): Made | null {
  if (mend.kind === 'handling') return { change: { kind: 'handling', procedure: mend.procedure } }
  const { facts, recipe, machine, filament } = input
  if (mend.notWhen && facts[mend.notWhen]?.value === true) return null
  const from = recipe[mend.key].value
  const to = targetOf(mend, from, machine, facts)
  if (to === null) return null
  if (to !== from)
    return {
      change: { kind: 'setting', key: mend.key, from, to },
      cautions: [cautionOf(mend.key, to, machine, filament), undoes(input.cures, mend.key, from, to)].filter(
        (c) => c !== null,
      ),
    }
  // The recipe already says so. Where the path file shows otherwise, the file is what has to change.
  const shown = suspectOf(suspect).context.some(
    (rule) => facts[rule.fact]?.from === 'path' && rule.decibans > 0,
  )
  return shown && mend.by === undefined
    ? {
        change: { kind: 'handling', procedure: 'prepare-paths' },
        instead: { setting: mend.key, value: from },
      }
    : null
}

/** The value a mend sets; the present one where limits leave nothing to change, null where the facts say nothing. */
function targetOf(
  mend: SettingMend,
  from: SettingValue,
  machine: Machine,
  facts: Facts,
): SettingValue | null {
  const number = (key: FactKey | undefined) => {
    const v = key && facts[key]?.value
    return typeof v === 'number' ? v : undefined
  }
  const setting = settingOf(mend.key)
  if (setting.kind !== 'number') return mend.to ?? null
  if (typeof from !== 'number') return null
  let to: number
  if (mend.by !== undefined) {
    const by = machine.drive.kind === 'direct' && mend.byDirect !== undefined ? mend.byDirect : mend.by
    const goal = number(mend.toward)
    const far = goal === undefined ? 0 : (goal - from) * Math.sign(by)
    to = from + Math.sign(by) * Math.min(3 * Math.abs(by), Math.max(Math.abs(by), far))
    const least = number(mend.notBelow)
    const most = number(mend.notAbove)
    if (least !== undefined) to = Math.max(to, Math.min(least, from))
    if (most !== undefined) to = Math.min(to, Math.max(most, from))
  } else {
    const fixed = mend.toFact ? number(mend.toFact) : Number(mend.to)
    if (fixed === undefined) return null
    to = fixed
  }
  const limit = machineLimit(mend.key, machine)
  const rounded = roundTo(setting, limit === undefined ? to : Math.min(limit, to))
  // A step that rounding or a limit has swallowed, or turned round, is none.
  if (mend.by !== undefined && (rounded - from) * Math.sign(mend.by) <= 0) return from
  return rounded
}

/** What an earlier change had cured when this one goes back on it. */
function undoes(
  cures: readonly Cure[] = [],
  key: SettingKey,
  from: SettingValue,
  to: SettingValue,
): Reason | null {
  const back = cures.find(
    (c) =>
      c.key === key &&
      (typeof to === 'number' && typeof from === 'number' && typeof c.to === 'number'
        ? (to - from) * (c.to - Number(c.from)) < 0
        : to === c.from),
  )
  return back ? because('goes-back-on', { attempt: back.attempt, signs: back.signs }) : null
}

function cautionOf(key: SettingKey, to: SettingValue, machine: Machine, filament: Filament): Reason | null {
  const card = cardOf(filament.family)
  if (typeof to !== 'number') return null
  if (key === 'nozzle' || key === 'nozzleFirst') {
    const { min, max } = filament.label.nozzle ?? card.nozzle
    if (to < min || to > max)
      return because('outside-range', { of: filament.label.nozzle ? 'label' : 'card', min, max })
  }
  if ((key === 'bed' || key === 'bedFirst') && to > card.bed.top)
    return because('above-card-bed', { top: card.bed.top })
  if (key === 'retractLength' && card.flexible && machine.drive.kind === 'tube' && to > 3)
    return because('soft-on-tube-bears')
  return null
}

/**
 * What can no longer be told apart when several mends go into one print.
 * @returns null for one mend
 */
export function confounded(chosen: readonly Pick<Proposal, 'suspect'>[]): Reason | null {
  const suspects = [...new Set(chosen.map((c) => c.suspect))]
  if (suspects.length < 2) return null
  const sign = SIGN_IDS.find((s) => suspects.every((id) => suspectOf(id).signs[s]))
  return sign ? because('cannot-tell-which', { suspects, sign }) : because('each-by-its-own', { suspects })
}

/** The mend behind a proposal's id; undefined when the knowledge has no such mend. */
export function mendOf(id: string): { suspect: SuspectId; place: number; mend: Mend } | undefined {
  const [suspect, at] = id.split('/')
  if (!isSuspectId(suspect)) return undefined
  const place = Number(at)
  const mend = suspectOf(suspect).mends[place]
  return mend && { suspect, place, mend }
}
