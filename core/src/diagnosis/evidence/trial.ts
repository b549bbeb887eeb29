import type { SuspectId } from '../../knowledge/suspects'
import { isNumberKey } from '../../recipe/settings'
import { normalShare } from '../../statistics/distributions'
import type { RecipeValues } from '../../recipe/derive'
import { newestOfEach, outcomeAmong } from '../../trials/evaluate'
import type { Outcome, OutcomeContext } from '../../trials/outcome'
import { PIECES } from '../../trials/pieces'
import type { PieceId, ReadTrial } from '../../trials/types'
import { DRAWN_GAP } from '../../trials/pieces/jointLadder/outcome'
import { clampedDecibans } from './clamp'
import { NO_CORRECTION } from '../../measurement/sizes'
import { sizesOfPlate } from '../../trials/pieces/sizePlate/outcome'
import { inUseOf, measurementEvidence } from './measurement'
import type { LookResult } from './looks'

/**
 * How far the value in use was found too high, too low or right, for the suspects a piece speaks about: by the interval
 * of what was found, not by a fixed rate.
 */
export function trialEvidence(piece: PieceId, outcome: Outcome, inUse: RecipeValues): LookResult[] {
  const { above, below } = PIECES[piece]
  if (outcome.kind === 'flat' || outcome.kind === 'end') return unsettledEvidence(piece, outcome, inUse)
  if (outcome.kind !== 'found') return []
  const { atWork } = outcome
  if (atWork !== null) return above.map((suspect) => ({ by: piece, suspect, found: atWork }))
  if (piece === 'joint-ladder') return jointEvidence(outcome, inUse)
  const key = outcome.key === 'meltRate' ? 'meltCap' : outcome.key
  if (outcome.low === null || outcome.high === null || !key || !isNumberKey(key)) return []
  const now = inUse[key].value
  // what did about as well is no fault: the edge of that, known to a quarter of the interval
  const spread = Math.max(1e-9, (outcome.high - outcome.low) / 3.92)
  const low = Math.min(outcome.best ?? outcome.low, outcome.plateau?.[0] ?? Infinity)
  const high = Math.max(outcome.best ?? outcome.high, outcome.plateau?.[1] ?? -Infinity)
  const result = (suspect: SuspectId, beyond: number): LookResult => ({
    by: piece,
    suspect,
    found: beyond > 0.5,
    decibans: clampedDecibans(beyond),
  })
  return [
    ...above.map((suspect) => result(suspect, normalShare((now - high) / spread))),
    ...below.map((suspect) => result(suspect, normalShare((low - now) / spread))),
  ]
}

/** Places from which on a piece that shows no difference says something. */
const PLACES_THAT_TELL = 4
/** Decibans against the values of a setting that makes no difference, and for one that wants to go on. From memory. */
const NO_DIFFERENCE = -5
const GOES_ON = 5

/** What a piece says that settles no value: either it makes no difference, or the best lies beyond its end. */
function unsettledEvidence(
  piece: PieceId,
  { kind, key, best, points }: Outcome,
  inUse: RecipeValues,
): LookResult[] {
  const { above, below } = PIECES[piece]
  if (points.length < PLACES_THAT_TELL) return []
  const say = (suspects: readonly SuspectId[], decibans: number): LookResult[] =>
    suspects.map((suspect) => ({ by: piece, suspect, found: decibans > 0, decibans }))
  if (kind === 'flat') return say([...above, ...below], NO_DIFFERENCE)
  if (best === null || key === null || key === 'meltRate' || !isNumberKey(key)) return []
  const now = inUse[key].value
  const reach = Math.max(...points.map((p) => p.x)) - Math.min(...points.map((p) => p.x))
  const off = (now - best) / Math.max(1e-9, reach)
  if (Math.abs(off) < 1 / (2 * PLACES_THAT_TELL)) return say([...above, ...below], NO_DIFFERENCE / 2)
  return off > 0
    ? [...say(above, GOES_ON), ...say(below, NO_DIFFERENCE)]
    : [...say(below, GOES_ON), ...say(above, NO_DIFFERENCE)]
}

/**
 * What a ladder of joints says: whether a gap as usually drawn, with the contour offset there is now, lies below the
 * one from which on joints move. That one lies somewhere between the last that held and the first that moved.
 */
function jointEvidence({ best, low, adopt, reasons }: Outcome, inUse: RecipeValues): LookResult[] {
  // a ladder of lying joints alone tells no contour
  if (best === null || (!adopt.length && !reasons.some((r) => r.code === 'gap-as-drawn'))) return []
  const laid = DRAWN_GAP - 2 * inUse.contourOffset.value
  const held = low ?? 0
  const fused = normalShare(((best + held) / 2 - laid) / Math.max(0.01, (best - held) / Math.sqrt(12)))
  const result = (suspect: SuspectId, share: number): LookResult => ({
    by: 'joint-ladder',
    suspect,
    found: share > 0.5,
    decibans: clampedDecibans(share),
  })
  return [result('contour-not-compensated', fused), result('clearance-too-small', fused)]
}

/** What the newest trial of each kind says of suspects, with the recipe as it is now. */
export function evidenceOfTrials(all: readonly ReadTrial[], context: OutcomeContext): LookResult[] {
  return newestOfEach(all).flatMap((t) => {
    const { piece } = t.plan
    // a plate is laid as it is drawn: with the recipe's corrections it would be as much better
    if (piece === 'size-plate')
      return measurementEvidence(
        { measured: sizesOfPlate(t), inUse: NO_CORRECTION, acted: false, by: 'size-plate' },
        { machine: context.machine, filament: context.filament, inUse: inUseOf(context.recipe) },
      )
    return trialEvidence(piece, outcomeAmong(t, all, context), context.recipe)
  })
}
