import type { PiecePlan } from '@verimend/core/trials'

/** Of what a piece is made that is not ours: a person's own part, or a finished file. */
export const madeOf = ({ onPart, onFile }: PiecePlan): string =>
  onPart ? ` on ${onPart.name}` : onFile ? ` in ${onFile.name}` : ''
