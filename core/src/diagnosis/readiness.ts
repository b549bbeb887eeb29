import { checkOrTrial, type CheckId, type TrialId } from '../knowledge/checks'
import type { SuspectId } from '../knowledge/suspects'
import { daysSince, type Filament } from '../materials/filament'
import type { Machine } from '../materials/machine'
import type { RecipeValues } from '../recipe/derive'
import type { SettingKey } from '../recipe/settings'
import { weigh } from './balance'
import { gatherFacts } from './facts'

export type AspectId =
  'firstLayer' | 'temperature' | 'flow' | 'retraction' | 'cooling' | 'melt' | 'seam' | 'size'

/** How well one side of a pair is known. */
export type Readiness = 'untested' | 'from card' | 'measured' | 'verified' | 'stale'

interface Aspect {
  label: string
  /** A measured value of any of these makes it known. */
  lead: SettingKey[]
  /** With no measurement, whether the card knows anything of it. */
  onCard: boolean
  /** What it means when it is off. */
  suspects: SuspectId[]
  by: CheckId | TrialId
  /** What has to be known first for its trial to mean anything. */
  after: AspectId[]
  /** It has to be found again with another nozzle. */
  nozzle: boolean
  /** It has to be found again when the roll has aged. */
  roll: boolean
}

/** In the order a person tunes them. */
export const ASPECTS: Record<AspectId, Aspect> = {
  firstLayer: {
    label: 'First layer',
    lead: ['zOffset', 'firstHeight'],
    onCard: false,
    suspects: [
      'nozzle-gap-too-large',
      'nozzle-gap-too-small',
      'bed-tilted',
      'bed-dirty',
      'first-layer-too-fast',
      'first-layer-too-thin',
    ],
    by: 'first-layer-sheet',
    after: [],
    nozzle: true,
    roll: false,
  },
  temperature: {
    label: 'Temperature',
    lead: ['nozzle'],
    onCard: true,
    suspects: ['nozzle-too-hot', 'nozzle-too-cold'],
    by: 'temperature-tower',
    after: ['firstLayer'],
    nozzle: false,
    roll: true,
  },
  flow: {
    label: 'Flow',
    lead: ['flow'],
    onCard: false,
    suspects: ['flow-too-high', 'flow-too-low', 'diameter-off', 'solid-fill-starved'],
    by: 'flow-box',
    after: ['temperature'],
    nozzle: true,
    roll: false,
  },
  retraction: {
    label: 'Retraction',
    lead: ['retractLength', 'retract'],
    onCard: true,
    suspects: ['retraction-too-short', 'retraction-too-long', 'retraction-off'],
    by: 'retraction-tower',
    after: ['temperature'],
    nozzle: true,
    roll: true,
  },
  cooling: {
    label: 'Cooling',
    lead: ['fan', 'minLayerTime'],
    onCard: true,
    suspects: ['cooling-too-weak', 'cooling-too-strong', 'layer-time-too-short', 'speed-swings'],
    by: 'fan-tower',
    after: ['temperature'],
    nozzle: false,
    roll: false,
  },
  melt: {
    label: 'Melt rate',
    lead: ['meltCap'],
    onCard: true,
    suspects: ['melt-rate-exceeded'],
    by: 'melt-rate-run',
    after: ['temperature'],
    nozzle: true,
    roll: false,
  },
  seam: {
    label: 'Seam',
    lead: ['earlyStop', 'wipe', 'flowOuter'],
    onCard: false,
    suspects: ['loop-end-overfill', 'loop-start-starved', 'pressure-not-relieved'],
    by: 'seam-columns',
    after: ['flow', 'retraction'],
    nozzle: true,
    roll: false,
  },
  size: {
    label: 'Size',
    lead: ['contourOffset', 'holeOffset', 'scaleX'],
    onCard: false,
    suspects: ['contour-not-compensated', 'hole-not-compensated', 'shrink-not-compensated'],
    by: 'size-plate',
    after: ['flow'],
    nozzle: false,
    roll: true,
  },
}
export const ASPECT_IDS = Object.keys(ASPECTS) as AspectId[]

export interface AspectState {
  id: AspectId
  state: Readiness
  /** One sentence: why it stands so. */
  words: string
  /** Chance that something is off here before a print shows anything, from the context alone. */
  risk: number
}

export interface NextStep {
  aspect: AspectId
  by: CheckId | TrialId
  name: string
  minutes: number
  grams: number
  words: string
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

/**
 * How ready a pair is, side by side in the order of tuning, and the step most worth its time: the largest
 * chance of finding something for each minute, among those whose groundwork is known.
 */
export function readinessOf(input: ReadinessInput): { aspects: AspectState[]; next: NextStep | null } {
  const { machine, filament, values, today, verified = {} } = input
  const facts = gatherFacts({ machine, filament, recipe: values, today })
  const chance = new Map(weigh({ signs: {}, facts }).suspects.map((s) => [s.id, s.present]))
  const aspects = ASPECT_IDS.map((id): AspectState => {
    const a = ASPECTS[id]
    const risk = 1 - a.suspects.reduce((calm, s) => calm * (1 - (chance.get(s) ?? 0)), 1)
    return { id, ...stateOf(a, machine, filament, values, today, verified), risk }
  })
  const state = new Map(aspects.map((a) => [a.id, a]))
  const known = (id: AspectId) => ['measured', 'verified'].includes(state.get(id)!.state)
  const open = aspects.filter((a) => !known(a.id))
  const ready = open.filter((a) => ASPECTS[a.id].after.every((b) => known(b)))
  const pool = ready.length ? ready : open
  const worth = (a: AspectState) => a.risk / checkOrTrial(ASPECTS[a.id].by).minutes
  const best = pool.reduce<AspectState | null>((b, a) => (!b || worth(a) > worth(b) ? a : b), null)
  if (!best) return { aspects, next: null }
  const { by, label } = ASPECTS[best.id]
  const trial = checkOrTrial(by)
  return {
    aspects,
    next: {
      aspect: best.id,
      by,
      name: trial.name,
      minutes: trial.minutes,
      grams: trial.grams,
      words: `${label} is ${best.state}; chances are ${Math.max(1, Math.round(best.risk * 100))} in 100 that something is off there.`,
    },
  }
}

function stateOf(
  a: Aspect,
  machine: Machine,
  filament: Filament,
  values: RecipeValues,
  today: string,
  verified: Partial<Record<SettingKey, string>>,
): { state: Readiness; words: string } {
  const cured = a.lead.find((k) => verified[k])
  const measured = a.lead.find((k) => values[k].source === 'measured')
  const lead = cured ?? measured
  if (!lead) {
    const relative = a.lead.some((k) => values[k].stack.some((o) => o.source === 'relative'))
    const hand = a.lead.find((k) => values[k].source === 'hand' || values[k].source === 'mend')
    if (hand) return { state: 'untested', words: 'Changed by hand, not tested since.' }
    if (relative) return { state: 'from card', words: 'From a tested relative, unproven on this roll.' }
    return a.onCard
      ? { state: 'from card', words: 'From card and label; nothing was tried.' }
      : { state: 'untested', words: 'At its starting value; nothing was tried.' }
  }
  const at = cured ? verified[cured]! : values[lead].at?.slice(0, 10)
  if (a.nozzle && machine.nozzle.changedOn && at && machine.nozzle.changedOn > at)
    return { state: 'stale', words: 'The nozzle was changed since.' }
  const age = daysSince(at ?? null, today)
  if (a.roll && age !== null && age > AGED)
    return { state: 'stale', words: `Tested ${age} days ago; the roll has aged since.` }
  if (a.roll && at && filament.openedOn && filament.openedOn > at)
    return { state: 'stale', words: 'Another roll was opened since.' }
  return cured
    ? { state: 'verified', words: `A case was closed with it${at ? ` on ${at}` : ''}: the fault went away.` }
    : { state: 'measured', words: values[measured!].words }
}
