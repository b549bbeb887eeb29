// Written by `npm run pictures`.
import type { CriterionId } from '@verimend/core/trials'

/** Criteria whose grades have pictures. */
export const GRADE_PICTURES = [
  'strings',
  'corners',
  'evenness',
  'ripples',
  'sheet',
  'seam',
  'free',
] as const satisfies readonly CriterionId[]
