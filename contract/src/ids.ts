import {
  CHECK_IDS,
  PLACES,
  PROCEDURE_IDS,
  SIGN_IDS,
  SUSPECT_IDS,
  TRIAL_IDS,
  type LookId,
} from '@verimend/core/knowledge'
import type { SignStates } from '@verimend/core/diagnosis'
import { z } from 'zod'
import { oneOf } from './common'

export const signId = oneOf(SIGN_IDS, 'There is no such sign.')
export const suspectId = oneOf(SUSPECT_IDS, 'There is no such suspect.')
export const procedureId = oneOf(PROCEDURE_IDS)
/** A check or a trial. */
export const lookId = oneOf<LookId>([...CHECK_IDS, ...TRIAL_IDS], 'There is no such check or trial.')
export const placeId = oneOf(
  PLACES.map((p) => p.id),
  'There is no such place on a part.',
)
export const signState = z.enum(['present', 'absent'], {
  error: 'A sign is present, absent or not looked at.',
})
export const signStates = z.partialRecord(signId, signState) satisfies z.ZodType<SignStates>
export const signResult = z.enum(['gone', 'better', 'same', 'worse'], {
  error: 'Say gone, better, same or worse.',
})
