import { scoped, type Solid } from '../geometry/kernel'
import { ringsOf } from './slicing'

/** The thinnest place of a part's walls that was found. */
export interface SmallestWall {
  /** No thicker than this, mm. */
  width: number
  /** Height of the cut it was found in, mm. */
  z: number
}

/** Heights looked at, and widths tried up to this many nozzles. */
const LOOKS = 15
const WIDEST = 2
const TRIED = 10
/** What is left of a corner when a cut is drawn in and out again is shorter than this many widths. */
const SPECK = 3

/**
 * Thinnest wall of a solid that stands as it will be printed, up to two nozzles: what is gone when a cut is drawn in by half a
 * width and out again is thinner than that width.
 * @returns null where nothing is thinner than two nozzles
 */
export function smallestWall(solid: Solid, nozzle: number): SmallestWall | null {
  return scoped((keep) => {
    const { min, max } = solid.boundingBox()
    let best: SmallestWall | null = null
    for (let i = 0; i < LOOKS; i++) {
      const z = min[2] + ((i + 0.5) / LOOKS) * (max[2] - min[2])
      const cut = keep(keep(solid.slice(z)).simplify(0.01))
      for (let k = 1; k <= TRIED; k++) {
        const width = (WIDEST * nozzle * k) / TRIED
        if (best && width >= best.width) break
        const opened = keep(keep(cut.offset(-width / 2, 'Miter', 4)).offset(width / 2, 'Miter', 4))
        const gone = keep(cut.subtract(opened))
        const thin = gone.decompose().some((piece) => {
          keep(piece)
          return ringsOf(piece).length > 0 && piece.area() > SPECK * width * width
        })
        if (thin) {
          best = { width, z: z - min[2] }
          break
        }
      }
    }
    return best
  })
}
