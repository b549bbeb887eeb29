import { areaOf, ringArea, scoped, type Area, type Kernel, type Ring, type Solid } from '../geometry/kernel'
import { PlanError, planFault } from './planError'
import type { PartSettings } from './settings'

/** A layer of a part: what of it is plastic. */
export interface Slice {
  index: number
  /** Top of the layer over the bed, and its height, mm. */
  z: number
  h: number
  /** Lives in the kernel's memory. */
  area: Area
}

/** Keeps an object of the kernel's until all is done. */
export type Keep = <O extends { delete: () => void }>(object: O) => O

/** Height up to which the foot is trimmed, mm. Common practice, no source. */
export const FOOT = 0.3
/** What is smaller than this is dust, mm². */
export const DUST = 0.01
/** Corners that stand out less than this are left out, mm: a tenth of what a belt resolves. */
const FINE = 0.008
/** Most layers a part is laid with. */
const MOST_LAYERS = 5000

/** Tops of the layers that a height takes: the first one, then even ones; the last ends at or just over it. */
export function layerTops(height: number, { firstHeight, layerHeight }: PartSettings): number[] {
  const count = Math.max(1, Math.ceil((height - firstHeight) / layerHeight - 0.25) + 1)
  if (count > MOST_LAYERS) throw new PlanError(planFault('part-too-many-layers'))
  return Array.from({ length: count }, (_, i) => Number((firstHeight + i * layerHeight).toFixed(4)))
}

/**
 * Slices a solid that stands on the bed: each layer at its middle, with scale, contour offset, hole offset and foot trim.
 * Layers with nothing in them come as well, so that what stands over them is seen to hang.
 * @param onStep called with the share that is done; may throw to end the work
 */
export function slicesOf(
  kernel: Kernel,
  solid: Solid,
  settings: PartSettings,
  keep: Keep,
  onStep?: (share: number) => void,
): Slice[] {
  const { scaleX, scaleY, scaleZ, firstHeight, layerHeight } = settings
  const scaled = keep(scaledInPlace(solid, [scaleX / 100, scaleY / 100, scaleZ / 100]))
  const { min, max } = scaled.boundingBox()
  const tops = layerTops(max[2] - min[2], settings)
  return tops.map((z, index): Slice => {
    onStep?.(index / tops.length)
    const h = index ? layerHeight : firstHeight
    // the last layer may end over the part: it is taken where there is part
    const at = Math.min(min[2] + z - h / 2, max[2] - 1e-4)
    const drawn = keep(scaled.slice(at))
    return { index, z, h, area: corrected(kernel, drawn, settings, z, keep) }
  })
}

/** A solid larger or smaller about the middle of its foot. */
function scaledInPlace(solid: Solid, by: [number, number, number]): Solid {
  const { min, max } = solid.boundingBox()
  const [x, y, z] = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2, min[2]]
  return scoped((keep) => keep(keep(solid.translate([-x, -y, -z])).scale(by)).translate([x, y, z]))
}

/** A slice with the offsets of its edges. */
function corrected(kernel: Kernel, drawn: Area, s: PartSettings, z: number, keep: Keep): Area {
  const trim = z <= FOOT + 1e-6 ? s.footTrim : 0
  const by = s.contourOffset - trim
  const simple = keep(drawn.simplify(FINE))
  const moved = by ? keep(simple.offset(by, 'Miter', 2)) : simple
  if (!s.holeOffset) return moved
  // a band along the edge of each hole, so that what stands within a hole stays as it is
  let area = moved
  for (const ring of ringsOf(moved)) {
    if (ringArea(ring) > 0) continue
    const hole = keep(areaOf(kernel, [[...ring].reverse()]))
    const other = keep(hole.offset(s.holeOffset, 'Miter', 2))
    area =
      s.holeOffset > 0
        ? keep(area.subtract(keep(other.subtract(hole))))
        : keep(area.add(keep(hole.subtract(other))))
  }
  return area
}

/** Rings of an area, dust left out. */
export const ringsOf = (area: Area): Ring[] =>
  (area.toPolygons() as unknown as Ring[]).filter((r) => r.length > 2 && Math.abs(ringArea(r)) > DUST)
