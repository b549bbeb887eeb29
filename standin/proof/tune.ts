import { ASPECTS, readinessOf, type AspectId } from '@verimend/core/casework'
import type { FamilyId } from '@verimend/core/material'
import type { SettingKey } from '@verimend/core/recipe'
import { isPiece, proposeSteps, stepsWithin, type Outcome, type PieceId } from '@verimend/core/trials'
import { drawnWorld, handled, USUAL_PERSON } from '../src'
import { MACHINES, newRoll, Sitting, TODAY, type MachineKind } from './sitting'
import { fanShare, knee, nozzleWindow, shortLayer, trueFed, trueMelt } from './truth'

/** Most prints before a person gives up. */
const MOST_PRINTS = 12
/** Sides of a pair that are not asked for here. */
const ASIDE: readonly AspectId[] = ['seam']
/** A side whose risk is smaller is left as the card has it. */
const CALM = 0.06
/** Looks with fresh eyes at a piece whose grades tell nothing yet. */
const MORE_LOOKS = 2
/** Minutes of a trial that is made whatever the risk. */
const QUICK = 15

/**
 * How a roll is tuned: by the app's next step, by every tower there is in one order and as it is proposed, or not at all: what
 * the card has is kept.
 */
export const TUNINGS = ['advice', 'every tower', 'card alone'] as const
export type Tuning = (typeof TUNINGS)[number]

export interface Tuned {
  seed: number
  kind: MachineKind
  family: FamilyId
  how: Tuning
  /** Trials that were printed, and those of which nothing could be read. */
  trials: number
  barren: number
  prints: number
  grams: number
  minutes: number
  /** Each count with how far it is off, and whether that is within its window. */
  counts: Record<Count, { ok: boolean; text: string }>
  ok: boolean
  log: string[]
}
export const COUNTS = ['nozzle', 'flow', 'retraction', 'melt', 'contour', 'layerTime', 'fan'] as const
export type Count = (typeof COUNTS)[number]

/** The towers of the fixed order. */
const EVERY_TOWER: readonly PieceId[] = [
  'temperature-tower',
  'flow-box',
  'retraction-tower',
  'fan-tower',
  'melt-rate-run',
  'size-plate',
]

/** Tunes a roll of which nothing is known but its name. */
export function tune(kind: MachineKind, family: FamilyId, seed: number, how: Tuning = 'advice'): Tuned {
  const world = drawnWorld(MACHINES[kind], family, seed, 'wide')
  const sitting = new Sitting(MACHINES[kind], newRoll(family), world, { ...USUAL_PERSON, seed })
  const log: string[] = []
  const tally = { trials: 0, barren: 0 }
  if (how === 'advice') byAdvice(sitting, log, tally)
  else if (how === 'every tower') {
    measureFirst(sitting, log)
    level(sitting)
    for (const piece of EVERY_TOWER) trial(sitting, piece, log, tally, 1)
  }
  return judged(sitting, { seed, kind, family, how, log, ...tally })
}

/** Follows the app's next step from the material card until nothing is left to find out. */
function byAdvice(sitting: Sitting, log: string[], tally: Tally): void {
  const verified: Partial<Record<SettingKey, string>> = {}
  const settle = (aspect: AspectId) => ASPECTS[aspect].lead.forEach((k) => (verified[k] = TODAY))
  ASIDE.forEach(settle)
  measureFirst(sitting, log)
  while (sitting.prints < MOST_PRINTS) {
    const { machine, filament, recipe } = sitting.pair
    const { aspects, next } = readinessOf({ machine, filament, values: recipe, today: TODAY, verified })
    if (!next) break
    const open = aspects.find((a) => a.id === next.aspect)!
    if (next.by === 'probe-grid') {
      level(sitting)
      log.push('bed levelled')
      continue
    }
    if ((open.risk < CALM && next.minutes > QUICK) || !isPiece(next.by)) {
      log.push(`${next.aspect} left (${open.risk.toFixed(2)})`)
      settle(next.aspect)
      continue
    }
    trial(sitting, next.by, log, tally)
    if (sitting.pair.recipe[ASPECTS[next.aspect].lead[0]].source !== 'measured') settle(next.aspect)
  }
}

/** Filament and feed are measured before anything is printed: it costs no plastic. */
function measureFirst(s: Sitting, log: string[]): void {
  const places = s.observe('measure-diameter')
  s.filament = { ...s.filament, measured: places.map((a) => ({ a, b: null })) }
  const fed = s.observe('feed-100')
  const mean = fed.reduce((a, b) => a + b, 0) / fed.length
  // the machine's steps are set by what was measured: what remains is the error of the reading
  s.world = { ...s.world, drive: { ...s.world.drive, steps: (s.world.drive.steps * 100) / mean } }
  s.machine = { ...s.machine, drive: { ...s.machine.drive, steps: 100 } }
  log.push(`diameter ${s.recipe.diameter.value}, feed ${mean.toFixed(1)}`)
}

function level(s: Sitting): void {
  s.world = handled(s.world, 'level-bed')
  s.machine = {
    ...s.machine,
    bed: { ...s.machine.bed, residual: Number(s.world.bed.bow.toFixed(2)), printsSinceLevel: 0 },
  }
}

/** Whether an outcome asks for another look at the same piece. */
const asksAgain = ({ reasons }: Outcome) =>
  reasons.some((r) => ['grade-once-more', 'look-at-odd-ones'].includes(r.code))

type Tally = Pick<Tuned, 'trials' | 'barren'>
/** Outcomes that say nothing of the roll. */
const NOTHING_SAID: ReadonlySet<Outcome['kind']> = new Set(['few', 'disagree', 'bad'])

/** One piece, and again where its answer lies beyond its ends or between its steps. */
function trial(s: Sitting, piece: PieceId, log: string[], tally: Tally, most = 3): void {
  let { steps, across } = proposeSteps(s.pair, piece)
  for (let again = 0; again < most; again++) {
    let outcome: Outcome
    try {
      const plan = { piece, steps, ...(across && { across }) }
      outcome = s.tryPiece(plan)
      for (let look = 0; look < MORE_LOOKS && asksAgain(outcome); look++) outcome = s.lookAgain(plan)
    } catch (error) {
      log.push(`${piece}: ${error instanceof Error ? error.message : String(error)}`)
      return
    }
    tally.trials++
    if (NOTHING_SAID.has(outcome.kind)) tally.barren++
    log.push(
      `${piece} ${steps.from}…${steps.to}: ${outcome.kind} ${outcome.reasons.map((r) => r.code).join(',')} → ${outcome.adopt.map((a) => `${a.key} ${a.value}±${a.plusMinus}`).join(', ')}`,
    )
    s.adopt(outcome)
    if (!outcome.next) return
    steps = stepsWithin(s.machine, outcome.next)
    across = undefined
  }
}

/** Holds what was found against what is. */
export function judged(
  s: Sitting,
  about: Omit<Tuned, 'prints' | 'grams' | 'minutes' | 'counts' | 'ok'>,
): Tuned {
  const { pair, world } = s
  const { recipe } = pair
  const heat = nozzleWindow(pair, world)
  const at = recipe.nozzle.value
  const fed = trueFed(pair, world)
  const tube = s.machine.drive.kind === 'tube'
  const short = knee(pair, world)
  const length = recipe.retract.value ? recipe.retractLength.value : 0
  const melt = trueMelt(pair, world)
  const cap = recipe.meltCap.value / melt - 1
  const contour = recipe.contourOffset.value + world.spread
  const fan = fanShare(pair, world)
  const { soft, firm } = shortLayer(pair, world)
  const time = recipe.minLayerTime.value
  const counts: Tuned['counts'] = {
    nozzle: {
      ok: at >= heat.low - 0.51 && at <= heat.high + 0.51,
      text: `${at} in ${heat.low.toFixed(0)}…${heat.high.toFixed(0)} (${heat.top.toFixed(2)})`,
    },
    flow: { ok: Math.abs(fed - 1) <= 0.01, text: `${(100 * (fed - 1)).toFixed(1)} %` },
    retraction: {
      // where the plastic cannot be pulled back there is no length to be found
      ok: !recipe.retract.value || (length >= short - 0.15 && length <= short + (tube ? 0.6 : 0.2) + 0.05),
      text: `${length} against ${short.toFixed(2)}`,
    },
    melt: { ok: cap <= 0 && cap >= -0.15, text: `${(100 * cap).toFixed(0)} %` },
    contour: { ok: Math.abs(contour) <= 0.03, text: `${contour.toFixed(3)} mm` },
    layerTime: {
      ok: soft <= 0.15 && time <= Math.max(20, 4 * firm),
      text: `${time} s, soft ${soft.toFixed(2)}, firm ${firm}`,
    },
    fan: { ok: fan >= 0.95, text: `${recipe.fan.value} %, ${fan.toFixed(2)} of best` },
  }
  return {
    ...about,
    prints: s.prints,
    grams: s.grams,
    minutes: s.minutes,
    counts,
    ok: COUNTS.every((c) => counts[c].ok),
  }
}
