import { beadArea } from '../extrusion/bead'
import { perimeterOf } from '../geometry/shapes'
import type { PartPlan } from './plan'
import type { PartSettings } from './settings'
import type { Stroke } from './strokes'

/** How stiff a part is against one that is solid throughout, and what that comes of. */
export interface Stiffness {
  /** Share of the part that is closed: walls, bottoms, tops. */
  closed: number
  /** Share of the rest that is plastic. */
  inside: number
  /** 1 is solid. */
  relative: number
}

/**
 * By what power of its density a filling is stiff. Open cells bend: the square (Gibson & Ashby, Cellular Solids, 1997, from
 * memory); a gyroid's sheet stands between bending and stretching; straight lines are taken as open cells because they
 * are loaded across.
 */
const POWER: Record<PartSettings['sparseKind'], number> = { lines: 2, grid: 2, gyroid: 1.6 }

const lengthOf = ({ points, closed }: Stroke): number =>
  closed
    ? perimeterOf(points)
    : points.slice(1).reduce((sum, [x, y], i) => sum + Math.hypot(x - points[i][0], y - points[i][1]), 0)

/**
 * Stiffness of a planned part relative to the same part laid solid: the closed share by itself and the rest by a power of its
 * density. For comparing, not for loads.
 * @param volume mm³ of the part
 */
export function stiffnessOf({ layers }: PartPlan, s: PartSettings, volume: number): Stiffness {
  let closed = 0
  for (const { h, strokes } of layers)
    for (const stroke of strokes)
      if (['outer', 'inner', 'solid', 'top', 'bridge'].includes(stroke.kind))
        closed += lengthOf(stroke) * beadArea(stroke.width, h) * stroke.share
  const share = Math.min(1, closed / Math.max(1e-9, volume))
  const inside = s.spiral ? 0 : Math.min(1, s.sparseDensity / 100)
  return { closed: share, inside, relative: share + (1 - share) * inside ** POWER[s.sparseKind] }
}
