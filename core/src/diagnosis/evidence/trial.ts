import { isNumberKey } from '../../recipe/settings'
import type { RecipeValues } from '../../recipe/derive'
import { newestOfEach, outcomeAmong } from '../../trials/evaluate'
import type { Outcome, OutcomeContext } from '../../trials/outcome'
import { PIECES } from '../../trials/pieces'
import type { PieceId, ReadTrial } from '../../trials/types'
import type { LookResult } from './looks'

/** Whether the value in use was found too high, too low or right, for the suspects a piece speaks about. */
export function trialEvidence(piece: PieceId, outcome: Outcome, inUse: RecipeValues): LookResult[] {
  const { above, below } = PIECES[piece]
  if (outcome.kind !== 'found') return []
  const { atWork } = outcome
  if (atWork !== null) return above.map((suspect) => ({ by: piece, suspect, found: atWork }))
  const key = outcome.key === 'meltRate' ? 'meltCap' : outcome.key
  if (outcome.low === null || outcome.high === null || !key || !isNumberKey(key)) return []
  const now = inUse[key].value
  const low = Math.min(outcome.low, outcome.plateau?.[0] ?? Infinity)
  const high = Math.max(outcome.high, outcome.plateau?.[1] ?? -Infinity)
  return [
    ...above.map((suspect) => ({ by: piece, suspect, found: now > high })),
    ...below.map((suspect) => ({ by: piece, suspect, found: now < low })),
  ]
}

/** What the newest trial of each kind says of suspects, with the recipe as it is now. */
export function evidenceOfTrials(all: readonly ReadTrial[], context: OutcomeContext): LookResult[] {
  return newestOfEach(all).flatMap((t) =>
    trialEvidence(t.plan.piece, outcomeAmong(t, all, context), context.recipe),
  )
}
