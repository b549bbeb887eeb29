import { areaOf, ringArea, type Area, type Kernel, type Ring } from '../geometry/kernel'
import { perimeterOf, type Point } from '../geometry/shapes'
import { solidSpacing } from '../extrusion/bead'
import { PlanError, planFault } from './planError'
import { ringsOf, type Keep, type Slice } from './slicing'
import type { PartSettings } from './settings'

/** An area in one piece: its edge, and holes in it. */
export type Patch = Ring[]

/** A wall of one line. */
export interface ThinWall {
  points: Point[]
  closed: boolean
  /** mm */
  width: number
}

/** What is laid in a layer, as areas and rings. mm */
export interface LayerRegions {
  index: number
  z: number
  h: number
  /** Middles of the walls' lines, the outer one first; rings of a wall. */
  walls: Ring[][]
  /** Middles of what is thinner than two lines. */
  thin: ThinWall[]
  /**
   * Inside of the walls, each patch as the area that the middles of its lines keep to. Lines lie close: top faces, over
   * air, and the rest that is solid.
   */
  top: Patch[]
  bridge: Patch[]
  solid: Patch[]
  /** Lines lie apart. */
  sparse: Patch[]
  /** The part in this layer, and in the one below. */
  part: Ring[]
  below: Ring[]
  /** Where the part hangs past 45° and past 60° from upright over the layer below. */
  past45: Ring[]
  past60: Ring[]
  /** One wall that rises. */
  rises: boolean
}

/** Widths of the lines of a layer, mm. */
export interface LineWidths {
  outer: number
  inner: number
  sparse: number
  solid: number
  top: number
}
export const widthsOf = (s: PartSettings, first: boolean): LineWidths =>
  first
    ? {
        outer: s.firstWidth,
        inner: s.firstWidth,
        sparse: s.firstWidth,
        solid: s.firstWidth,
        top: s.firstWidth,
      }
    : {
        outer: s.outerWidth,
        inner: s.innerWidth,
        sparse: s.fillWidth,
        solid: s.solidWidth,
        top: s.topWidth,
      }

/** What of a top, a bottom or a bridge is narrower than this many lines is left to what is round it. */
const NARROW = 0.6
/** Lines that a top or bottom reaches into what is round it, so that it holds. */
const ANCHOR = 1.2

/**
 * Takes slices apart: walls by insets of half and whole lines, and what is left inside by what lies over and under it.
 */
export function regionsOf(
  kernel: Kernel,
  slices: readonly Slice[],
  s: PartSettings,
  keep: Keep,
  onStep?: (share: number) => void,
): LayerRegions[] {
  const nothing = keep(areaOf(kernel, []))
  // first all walls: what closes a layer is told from the insides of its neighbours
  const layers = slices.map((slice, i) => {
    onStep?.((0.5 * i) / slices.length)
    return { slice, ...walled(slice, s, keep) }
  })
  const areaAt = (i: number): Area => (i >= 0 && i < slices.length ? slices[i].area : nothing)
  const dense = s.sparseDensity >= 100 || s.spiral
  return layers.map(({ slice, walls, thin, inside }, i): LayerRegions => {
    onStep?.(0.5 + (0.5 * i) / slices.length)
    const { index, z, h, area } = slice
    const { solid: fill, sparse: loose, top: face } = widthsOf(s, index === 0)
    const rises = s.spiral && index >= s.bottomLayers
    const base = {
      index,
      z,
      h,
      walls,
      thin,
      part: ringsOf(area),
      below: ringsOf(areaAt(i - 1)),
      ...(i > 0 ? overhangs(area, areaAt(i - 1), h, keep) : { past45: [], past60: [] }),
      rises,
    }
    const empty = { top: [], bridge: [], solid: [], sparse: [] }
    if (rises) {
      const edges = walls[0]?.filter(isOuter) ?? []
      if (edges.length > 1) throw new PlanError(planFault('spiral-in-pieces'))
      return { ...base, ...empty, walls: [edges], thin: [] }
    }
    if (inside.isEmpty()) return { ...base, ...empty }
    const opened = (a: Area) => withoutNarrow(a, fill * NARROW, keep)
    const over = areaAt(i + 1)
    const under = areaAt(i - 1)
    // over air, but not on the bed
    const hanging = i > 0 && s.bottomLayers > 0 ? opened(keep(inside.subtract(under))) : nothing
    const facing = s.topLayers > 0 ? opened(keep(inside.subtract(over))) : nothing
    let roof = nothing
    if (s.topLayers > 0) {
      let covered = over
      for (let k = 2; k <= s.topLayers; k++) covered = keep(covered.intersect(areaAt(i + k)))
      roof = opened(keep(inside.subtract(covered)))
    }
    let floor = nothing
    if (s.bottomLayers > 0) {
      let carried = under
      for (let k = 2; k <= s.bottomLayers; k++) carried = keep(carried.intersect(areaAt(i - k)))
      floor = opened(keep(inside.subtract(carried)))
    }
    const closed = keep(roof.add(floor))
    const reach = fill * ANCHOR
    const solidAll = dense
      ? inside
      : closed.isEmpty()
        ? nothing
        : keep(keep(closed.offset(reach, 'Miter', 2)).intersect(inside))
    const bridge = hanging.isEmpty()
      ? nothing
      : keep(keep(hanging.offset(reach, 'Miter', 2)).intersect(inside))
    const top = keep(facing.subtract(bridge))
    const solid = keep(keep(solidAll.subtract(bridge)).subtract(top))
    const sparse = dense
      ? nothing
      : keep(keep(keep(inside.subtract(solidAll)).subtract(bridge)).subtract(top))
    const patches = (a: Area, width: number) => patchesOf(a, solidSpacing(width, h), keep)
    return {
      ...base,
      top: patches(top, face),
      bridge: patches(bridge, fill),
      solid: patches(solid, fill),
      sparse: patches(sparse, loose),
    }
  })
}

/** What hangs past 45° and past 60°: beyond the layer below by as much as its height reaches at that angle. */
function overhangs(area: Area, under: Area, h: number, keep: Keep): Pick<LayerRegions, 'past45' | 'past60'> {
  const beyond = (degrees: number) =>
    keep(area.subtract(keep(under.offset(h * Math.tan((degrees * Math.PI) / 180), 'Miter', 2))))
  const gentle = beyond(45)
  const past45 = gentle.isEmpty() ? [] : ringsOf(gentle)
  return { past45, past60: past45.length ? ringsOf(beyond(60)) : [] }
}

/** The pieces of an area, drawn in by half of the distance of lines. */
function patchesOf(area: Area, spacing: number, keep: Keep): Patch[] {
  if (area.isEmpty()) return []
  return keep(area.offset(-spacing / 2, 'Miter', 2))
    .decompose()
    .map((piece) => ringsOf(keep(piece)))
    .filter((rings) => rings.length > 0)
}

/** An area without what is narrower than a width: shrunk and grown again. */
function withoutNarrow(area: Area, width: number, keep: Keep): Area {
  if (area.isEmpty()) return area
  return keep(keep(area.offset(-width / 2, 'Miter', 2)).offset(width / 2, 'Miter', 2))
}

/** A line is laid down to this share of its width. Common practice, no source. */
const THINNEST = 0.4
/** Share of half its width that a thin piece is drawn in to find its middle. */
const TO_MIDDLE = 0.9

/**
 * What the outer wall's line cannot get into, as single lines along its middle: each as wide as the piece is on average
 * (twice its area over its outline).
 * @param edge middles of the outer walls, as an area
 */
function thinWalls(area: Area, edge: Area, width: number, keep: Keep): ThinWall[] {
  const reached = keep(edge.offset(width / 2 + 0.02, 'Miter', 2))
  const rest = keep(area.subtract(reached))
  if (rest.isEmpty()) return []
  const out: ThinWall[] = []
  for (const piece of withoutNarrow(rest, width * THINNEST * 0.9, keep).decompose()) {
    keep(piece)
    const rings = ringsOf(piece)
    const outline = rings.reduce((sum, r) => sum + perimeterOf(r), 0)
    const own = outline ? (2 * piece.area()) / outline : 0
    // corners that a round line leaves out are as long as they are wide
    if (own < width * THINNEST || outline < 8 * own) continue
    const middle = ringsOf(keep(piece.offset((-own / 2) * TO_MIDDLE, 'Miter', 2)))
    for (const ring of middle)
      if (rings.length > 1) {
        if (isOuter(ring)) out.push({ points: [...ring], closed: true, width: own })
      } else out.push({ points: alongMiddle(ring), closed: false, width: own })
  }
  return out
}

/** One side of a sliver, from tip to tip: the way along its middle. */
function alongMiddle(ring: Ring): Point[] {
  let [a, b, far] = [0, 0, -1]
  for (let i = 0; i < ring.length; i++)
    for (let j = i + 1; j < ring.length; j++) {
      const way = Math.hypot(ring[i][0] - ring[j][0], ring[i][1] - ring[j][1])
      if (way > far) [a, b, far] = [i, j, way]
    }
  return ring.slice(a, b + 1)
}

/** Walls of a slice, and what is inside of them. */
function walled(
  slice: Slice,
  s: PartSettings,
  keep: Keep,
): { walls: Ring[][]; thin: ThinWall[]; inside: Area } {
  const { outer, inner } = widthsOf(s, slice.index === 0)
  const { h, area } = slice
  const [outerSpacing, innerSpacing] = [solidSpacing(outer, h), solidSpacing(inner, h)]
  const walls: Ring[][] = []
  let inset = outer / 2
  let edge = keep(area.offset(-inset, 'Miter', 2))
  const thin = thinWalls(area, edge, outer, keep)
  const count = slice.index === 0 ? s.firstWalls : s.wallCount
  for (let k = 0; k < count; k++) {
    if (k > 0) {
      const by = k === 1 ? (outerSpacing + innerSpacing) / 2 : innerSpacing
      inset += by
      edge = keep(edge.offset(-by, 'Miter', 2))
    }
    const rings = ringsOf(edge)
    if (!rings.length) break
    walls.push(rings)
  }
  // the inside begins where the last wall's line ends
  const last = walls.length > 1 ? innerSpacing : outerSpacing
  const inside = walls.length ? keep(edge.offset(-last / 2, 'Miter', 2)) : edge
  return { walls, thin, inside }
}

/** How far a ring's corner turns there, degrees; to the left is above zero. */
export function turnAt(ring: Ring, i: number): number {
  const n = ring.length
  const [ax, ay] = ring[(i + n - 1) % n]
  const [bx, by] = ring[i]
  const [cx, cy] = ring[(i + 1) % n]
  const [ux, uy, vx, vy] = [bx - ax, by - ay, cx - bx, cy - by]
  return (Math.atan2(ux * vy - uy * vx, ux * vx + uy * vy) * 180) / Math.PI
}

/** Whether a ring is an edge from outside, and not a hole. */
export const isOuter = (ring: Ring): boolean => ringArea(ring) > 0
