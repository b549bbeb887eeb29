import { procedureOf, type ProcedureId } from '../knowledge/procedures'
import { signOf, type SignId } from '../knowledge/signs'
import { SUSPECTS, suspectOf, type SuspectId } from '../knowledge/suspects'
import type { Facts } from '../knowledge/facts'
import type { HandlingMend, Mend, SettingMend } from '../knowledge/types'
import { cardOf } from '../materials/cards'
import { machineLimit, type RecipeValues } from '../recipe/derive'
import {
  roundTo,
  settingOf,
  type NumberSetting,
  type SettingKey,
  type SettingValue,
} from '../recipe/settings'
import { quantity } from '../units/format'
import type { Machine } from '../materials/machine'
import type { Filament } from '../materials/filament'
import type { Balance } from './balance'
import type { Cure } from './notebook'

/** One thing that can be done next. */
export type Proposal = {
  /** Stable within one picture: suspect and the mend's place in the knowledge. */
  id: string
  suspect: SuspectId
  suspectName: string
  probability: number
  why: string
  /** Signs to look for afterwards. */
  watch: SignId[]
  /** Expected minutes to the fix by this alone: cost over the chance that it is the cure. */
  expectedMinutes: number
  minutes: number
  /** A step outside what the label or the card says. */
  caution?: string
} & (
  | { kind: 'setting'; key: SettingKey; from: SettingValue; to: SettingValue }
  | { kind: 'handling'; procedure: ProcedureId; name: string }
)

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

/**
 * Mends of the weighed suspects, the one with the least expected cost to the fix first: p/C order
 * (Kalagnanam & Henrion 1990). One mend a suspect leads; its others follow.
 */
export function proposeMends(input: AdviceInput): Proposal[] {
  const { balance, printMinutes = TYPICAL_PRINT } = input
  const proposals: Proposal[] = []
  for (const weighed of balance.suspects) {
    if (weighed.probability < 0.003) continue
    const suspect = suspectOf(weighed.id)
    let place = 0
    suspect.mends.forEach((mend, i) => {
      const made = mend.kind === 'setting' ? settingProposal(mend, input, weighed.id) : handling(mend)
      if (!made) return
      const minutes = mend.minutes + MACHINE_WEIGHT * printMinutes
      // A suspect's later mends are second choices: they work where the first does not.
      const chance = weighed.probability * 0.5 ** place++
      proposals.push({
        id: `${weighed.id}/${i}`,
        suspect: weighed.id,
        suspectName: weighed.name,
        probability: weighed.probability,
        why: mend.why,
        watch: suspect.watch,
        minutes: mend.minutes,
        expectedMinutes: minutes / chance,
        ...made,
      })
    })
  }
  return proposals.sort((a, b) => a.expectedMinutes - b.expectedMinutes)
}

type Made =
  | { kind: 'setting'; key: SettingKey; from: SettingValue; to: SettingValue; caution?: string }
  | { kind: 'handling'; procedure: ProcedureId; name: string; why?: string }

function handling(mend: HandlingMend): Made {
  return { kind: 'handling', procedure: mend.procedure, name: procedureOf(mend.procedure).name }
}

function settingProposal(mend: SettingMend, input: AdviceInput, suspect: SuspectId): Made | null {
  const { facts, recipe, machine, filament } = input
  const number = (key: keyof Facts | undefined) => {
    const v = key && facts[key]?.value
    return typeof v === 'number' ? v : undefined
  }
  if (mend.notWhen && facts[mend.notWhen]?.value === true) return null
  const from = recipe[mend.key].value
  const to = target(mend, from, machine, number)
  if (to === null) return null
  if (to !== from) {
    const caution = [cautionFor(mend.key, to, machine, filament), undoes(input.cures, mend.key, from, to)]
      .filter(Boolean)
      .join(' ')
    return { kind: 'setting', key: mend.key, from, to, ...(caution && { caution }) }
  }
  // The recipe already says so. Where the path file shows otherwise, the file is what has to change.
  const shown = suspectOf(suspect).context.some((rule) => {
    const f = facts[rule.fact]
    return f?.from === 'path' && rule.db > 0
  })
  return shown && mend.by === undefined
    ? {
        kind: 'handling',
        procedure: 'prepare-paths',
        name: procedureOf('prepare-paths').name,
        why: `The recipe already has ${settingText(mend.key, from)}; the path file does not. ${mend.why}`,
      }
    : null
}

function target(
  mend: SettingMend,
  from: SettingValue,
  machine: Machine,
  number: (key: keyof Facts | undefined) => number | undefined,
): SettingValue | null {
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
  const rounded = roundTo(setting as NumberSetting, limit === undefined ? to : Math.min(limit, to))
  // A step that rounding or a limit has swallowed, or turned round, is none.
  if (mend.by !== undefined && (rounded - from) * Math.sign(mend.by) <= 0) return from
  return rounded
}

/** What an earlier change had cured when this one goes back on it. */
function undoes(cures: readonly Cure[] = [], key: SettingKey, from: SettingValue, to: SettingValue) {
  const back = cures.find(
    (c) =>
      c.key === key &&
      (typeof to === 'number' && typeof from === 'number' && typeof c.to === 'number'
        ? (to - from) * (c.to - Number(c.from)) < 0
        : to === c.from),
  )
  return back
    ? `It goes back on attempt ${back.attempt}, which helped against ${back.signs.map((s) => signOf(s).name.toLowerCase()).join(', ')}: that may return.`
    : undefined
}

function cautionFor(
  key: SettingKey,
  to: SettingValue,
  machine: Machine,
  filament: Filament,
): string | undefined {
  const card = cardOf(filament.family)
  if (typeof to !== 'number') return undefined
  if (key === 'nozzle' || key === 'nozzleFirst') {
    const r = filament.label.nozzle ?? card.nozzle
    if (to < r.min || to > r.max)
      return `Outside the ${filament.label.nozzle ? 'label' : 'card'}'s ${r.min}–${r.max} °C.`
  }
  if ((key === 'bed' || key === 'bedFirst') && to > card.bed.top)
    return `Above the ${card.bed.top} °C the card gives.`
  if (key === 'retractLength' && card.flexible && machine.drive.kind === 'tube' && to > 3)
    return 'Soft filament on a tube bears 2–3 mm at most.'
  return undefined
}

/** A setting with a value, for sentences: "Retraction length 5 mm". */
export function settingText(key: SettingKey, value: SettingValue): string {
  const s = settingOf(key)
  return `${s.label} ${valueText(key, value)}`
}

/** A setting's value with its unit. */
export function valueText(key: SettingKey, value: SettingValue): string {
  const s = settingOf(key)
  if (s.kind === 'switch') return value ? 'on' : 'off'
  if (s.kind === 'choice') return s.choices.find((c) => c.value === value)?.label ?? String(value)
  const digits = String(s.step).split('.')[1]?.length ?? 0
  return quantity(Number(value), s.unit, digits)
}

/**
 * What can no longer be told apart when several mends go into one print.
 * @returns null for one mend
 */
export function confounded(chosen: Pick<Proposal, 'suspect' | 'suspectName'>[]): string | null {
  const ids = [...new Set(chosen.map((c) => c.suspect))]
  if (ids.length < 2) return null
  const names = ids.map((id) => `“${suspectOf(id).name}”`)
  const shared = (Object.keys(suspectOf(ids[0]).signs) as SignId[]).filter((s) =>
    ids.every((id) => suspectOf(id).signs[s]),
  )
  const list = `${names.slice(0, -1).join(', ')} and ${names.at(-1)}`
  return shared.length
    ? `If “${signOf(shared[0]).name}” goes away you will not know which of ${list} it was.`
    : `They cause different signs, so each can still be judged by its own: ${list}.`
}

/** The mend behind a proposal's id; undefined when the knowledge has no such mend. */
export function mendOf(id: string): { suspect: SuspectId; mend: Mend } | undefined {
  const [suspect, place] = id.split('/')
  if (!Object.hasOwn(SUSPECTS, suspect)) return undefined
  const mend = suspectOf(suspect as SuspectId).mends[Number(place)]
  return mend && { suspect: suspect as SuspectId, mend }
}
