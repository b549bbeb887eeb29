import {
  bearsOn,
  CHECKS,
  CHECK_IDS,
  TRIAL_IDS,
  checkOrTrial,
  isCheckId,
  type CheckId,
  type LookId,
} from '../../knowledge/checks'
import { SIGN_IDS, type SignId } from '../../knowledge/signs'
import { suspectOf } from '../../knowledge/suspects'
import { findsBy } from '../evidence/looks'
import { MARKED_ANYWAY, seenBy, type SignStates, type Weighed } from '../inference/balance'
import type { AdvisedStep, CostWeights } from './steps'
import type { Question } from './troubleshoot'

/** Looking at one more sign, minutes. */
export const LOOK_MINUTES = 0.5
/** Taking up one more step at all, minutes: reading it, going to the machine. From memory. */
export const STEP_MINUTES = 0.25
/** What a trial takes of the person, minutes. */
const TRIAL_HANDS_ON = 5

export type AskStep = Exclude<AdvisedStep, { kind: 'mend' }>
/** A question with the step that asks it. */
export interface Ask {
  step: AskStep
  question: Question
}

/** Suspects that one check asks about at the most. */
const MOST_ABOUT = 3

const NOTHING_YET = { expected: 0, saves: 0, picture: [], yes: 0 }

/** Signs nobody looked at that any of the causes would show. */
export function looksFor(
  causes: readonly Weighed[],
  signs: SignStates,
  barred: ReadonlySet<string>,
  w: CostWeights,
): Ask[] {
  const asks: Ask[] = []
  for (const sign of SIGN_IDS) {
    const id = `look:${sign}`
    if (signs[sign] !== undefined || barred.has(id)) continue
    const yes = causes.map((c) => {
      const strength = suspectOf(c.id).signs[sign]
      return 1 - (1 - (strength ? seenBy(strength) : 0)) * (1 - MARKED_ANYWAY)
    })
    if (yes.every((y) => y < 0.1)) continue
    asks.push({
      step: {
        kind: 'look',
        id,
        sign,
        signs: [sign],
        minutes: LOOK_MINUTES,
        machineMinutes: 0,
        grams: 0,
        ...NOTHING_YET,
      },
      question: { cost: w.mine * (LOOK_MINUTES + STEP_MINUTES), yes, yesUnknown: MARKED_ANYWAY },
    })
  }
  return asks
}

/**
 * Checks and trials that are about any of the causes.
 * @param seen signs that are there
 * @param known all that are weighed: who makes a check sees all that it shows, whatever it was made for
 */
export function checksFor(
  causes: readonly Weighed[],
  known: readonly Weighed[],
  barred: ReadonlySet<string>,
  done: readonly LookId[],
  seen: readonly SignId[],
  w: CostWeights,
): Ask[] {
  const asks: Ask[] = []
  for (const look of [...CHECK_IDS, ...TRIAL_IDS] as LookId[]) {
    const check = isCheckId(look)
    const id = `${check ? 'check' : 'trial'}:${look}`
    if (barred.has(id) || done.includes(look) || !bearsOn(look, seen)) continue
    const told = (list: readonly Weighed[]) =>
      list.filter((c) => suspectOf(c.id).by.includes(look)).map((c) => c.id)
    const meant = told(causes)
    if (!meant.length) continue
    // whoever makes a check answers for the likeliest that it is about
    const about = check ? told(known).slice(0, MOST_ABOUT) : meant
    const { minutes, grams } = checkOrTrial(look)
    const hands = check ? handsOnMinutes(look) : TRIAL_HANDS_ON
    const finds = findsBy(look)
    const common = { id, minutes: hands, machineMinutes: check ? 0 : minutes, grams, about, ...NOTHING_YET }
    asks.push({
      step: check ? { ...common, kind: 'check', check: look } : { ...common, kind: 'trial', trial: look },
      question: {
        cost:
          w.mine * (hands + STEP_MINUTES) +
          (check ? 0.05 * (minutes - hands) : w.machine * minutes) +
          w.gram * grams,
        yes: causes.map((c) => (about.includes(c.id) ? finds.there : finds.notThere)),
        yesUnknown: finds.notThere,
      },
    })
  }
  return asks
}

/** The person's minutes of a check; waiting for it costs little. */
function handsOnMinutes(check: CheckId): number {
  const { minutes, ...more }: { minutes: number; handsOn?: number } = CHECKS[check]
  return more.handsOn ?? minutes
}
