import { normalStream, randomStream } from '../../statistics/random'

/** Samples for an interval. */
export const DRAWS = 400
/** The bootstrap is seeded, so that the same readings give the same answer. */
const SEED = 20261125

/** Standard normal numbers for a bootstrap. */
export const bootstrapNormals = () => normalStream(randomStream(SEED))

/** A χ² number as a sum of squares; for few degrees of freedom only. */
function chiSquare(dof: number, normal: () => number): number {
  let s = 0
  for (let i = 0; i < Math.min(dof, 60); i++) s += normal() ** 2
  return dof > 60 ? (s * dof) / 60 : s
}

/** A residual standard deviation drawn with its own uncertainty. */
export const drawnSd = (sd: number, dof: number, normal: () => number): number =>
  dof > 0 ? sd * Math.sqrt(dof / Math.max(1e-9, chiSquare(dof, normal))) : sd
