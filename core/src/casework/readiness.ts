import { checkOrTrial, type LookId } from '../knowledge/checks'
import { daysSince, type Filament } from '../material/filament'
import type { Machine } from '../machine/machine'
import type { RecipeValues } from '../recipe/derive'
import type { SettingKey } from '../recipe/settings'
import { weigh } from '../diagnosis/inference/balance'
import type { Reason } from '../quantity/reason'
import { ASPECTS, ASPECT_IDS, type Aspect, type AspectId, type ReadinessState } from './aspects'
import { caseReason } from './reasons'
import { gatherFacts } from '../diagnosis/evidence/facts'

export interface AspectState {
  id: AspectId
  state: ReadinessState
  /** Why it stands so. */
  reason: Reason
  /** Chance that something is off here before a print shows anything, from the context alone. */
  risk: number
}

/** The step most worth a pair's time. */
export interface ReadinessStep {
  aspect: AspectId
  by: LookId
  minutes: number
  grams: number
  reason: Reason
}

export interface ReadinessInput {
  machine: Machine
  filament: Filament
  values: RecipeValues
  /** ISO date. */
  today: string
  /** Settings that a case changed and whose fault then went away, with the day it was closed. */
  verified?: Partial<Record<SettingKey, string>>
}

/** A roll this many days older than the test may behave differently. Common practice, no source. */
const AGED = 180

/** What tells more than the trial that has narrowed a side of a pair. */
const FINER: Partial<Record<AspectId, LookId>> = { flow: 'feed-100' }

/**
 * How ready a pair is, side by side in the order of tuning, and the step most worth its time: the largest
 * chance of finding something for each minute, among those whose groundwork is known.
 */
export function readinessOf(input: ReadinessInput): { aspects: AspectState[]; next: ReadinessStep | null } {
  const { machine, filament, values, today, verified = {} } = input
  const facts = gatherFacts({ machine, filament, recipe: values, today })
  const chance = new Map(weigh({ signs: {}, facts }).suspects.map((s) => [s.id, s.present]))
  const aspects = ASPECT_IDS.map((id): AspectState => {
    const a = ASPECTS[id]
    const risk = 1 - a.suspects.reduce((calm, s) => calm * (1 - (chance.get(s) ?? 0)), 1)
    const state =
      id === 'bed'
        ? bedState(machine)
        : id === 'flow' && measuredFeed(machine, filament)
          ? { state: 'measured' as const, reason: caseReason('feed-measured') }
          : stateOf(a, machine, filament, values, today, verified)
    return { id, ...state, risk }
  })
  const state = new Map(aspects.map((a) => [a.id, a]))
  const known = (id: AspectId) => ['measured', 'verified'].includes(state.get(id)!.state)
  // what is narrowed is ground enough for what comes after it, and the same trial again would narrow it little more
  const ground = (id: AspectId) => known(id) || state.get(id)!.state === 'narrowed'
  const open = aspects.filter((a) => !known(a.id))
  const untried = open.filter((a) => !ground(a.id))
  const ready = untried.filter((a) => ASPECTS[a.id].after.every((b) => ground(b)))
  const pool = ready.length ? ready : untried.length ? untried : open
  const byOf = (a: AspectState) =>
    a.state === 'narrowed' ? (FINER[a.id] ?? ASPECTS[a.id].by) : ASPECTS[a.id].by
  const worth = (a: AspectState) => a.risk / checkOrTrial(byOf(a)).minutes
  const best = pool.reduce<AspectState | null>((b, a) => (!b || worth(a) > worth(b) ? a : b), null)
  if (!best) return { aspects, next: null }
  const by = byOf(best)
  const { minutes, grams } = checkOrTrial(by)
  return {
    aspects,
    next: {
      aspect: best.id,
      by,
      minutes,
      grams,
      reason: caseReason('aspect-chance', {
        aspect: best.id,
        state: best.state,
        chance: Math.max(1, Math.round(best.risk * 100)),
        by,
      }),
    },
  }
}

/** Places along a roll from which its diameter is known. */
const PLACES = 3
/** What is fed is known without a print where the drive's steps and the roll's diameter were measured. */
const measuredFeed = ({ drive }: Machine, { measured }: Filament): boolean =>
  !!drive.steps && measured.length >= PLACES

/** Prints after which a bed on screws, or one with a probe, is to be measured again. Common practice, no source. */
const LEVEL_LASTS = { screws: 30, probe: 150 }

/** How well the bed is known: from what was left of it when it was levelled, and the prints since. */
function bedState({ bed }: Machine): { state: ReadinessState; reason: Reason } {
  const { residual, printsSinceLevel: prints, levelling } = bed
  if (residual === null) return { state: 'untested', reason: caseReason('bed-not-measured') }
  if (prints !== null && prints > LEVEL_LASTS[levelling])
    return { state: 'stale', reason: caseReason('bed-long-ago', { prints }) }
  return { state: 'measured', reason: caseReason('bed-measured', { residual, prints }) }
}

function stateOf(
  a: Aspect,
  machine: Machine,
  filament: Filament,
  values: RecipeValues,
  today: string,
  verified: Partial<Record<SettingKey, string>>,
): { state: ReadinessState; reason: Reason } {
  const cured = a.lead.find((k) => verified[k])
  const measured = a.lead.find((k) => values[k].source === 'measured')
  const lead = cured ?? measured
  if (!lead) {
    const relative = a.lead.some((k) => values[k].stack.some((o) => o.source === 'relative'))
    const hand = a.lead.find((k) => values[k].source === 'hand' || values[k].source === 'mend')
    if (hand) return { state: 'untested', reason: caseReason('changed-untested') }
    if (relative) return { state: 'from-card', reason: caseReason('relative-unproven') }
    return a.onCard
      ? { state: 'from-card', reason: caseReason('card-untried') }
      : { state: 'untested', reason: caseReason('start-untried') }
  }
  const at = cured ? verified[cured]! : values[lead].at?.slice(0, 10)
  if (a.nozzle && machine.nozzle.changedOn && at && machine.nozzle.changedOn > at)
    return { state: 'stale', reason: caseReason('nozzle-changed-since') }
  const age = daysSince(at ?? null, today)
  if (a.roll && age !== null && age > AGED)
    return { state: 'stale', reason: caseReason('tested-days-ago', { days: age }) }
  if (a.roll && at && filament.openedOn && filament.openedOn > at)
    return { state: 'stale', reason: caseReason('another-roll-since') }
  const left = values[lead].plusMinus
  const within = a.within?.[lead]
  if (!cured && left !== undefined && within !== undefined && left > within)
    return { state: 'narrowed', reason: caseReason('known-within', { setting: lead, plusMinus: left }) }
  return cured
    ? { state: 'verified', reason: caseReason('closed-with-it', { on: at ?? null }) }
    : { state: 'measured', reason: values[lead].reason }
}
