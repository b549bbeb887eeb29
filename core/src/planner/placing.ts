import { convexHull, distanceInside, type Place } from '../geometry/hull'
import { areaOf, ringArea, scoped, type Area, type Kernel, type Ring, type Solid } from '../geometry/kernel'
import { faceOf, triangleCount, type Mesh, type Placement } from '../geometry/mesh/mesh'
import { meshOf } from '../geometry/mesh/solid'
import { topologyOf } from '../geometry/mesh/topology'
import { turnAt } from './regions'
import { ringsOf } from './slicing'

/** A face that a part could stand on, and how it is turned for that. */
export interface DownFace {
  /** Outwards, of length 1, before it is turned. */
  normal: readonly [number, number, number]
  /** mm², of the hull: what touches the bed may be less. */
  area: number
  placement: Placement
}

/** Faces of the hull nearer than this in direction are one, degrees. */
const ALIKE = 1.5

/** The turn that lays a direction straight down, with as little turning as there can be. */
export function turnedDown([x, y, z]: readonly [number, number, number]): Placement {
  // Rodrigues' rotation from the direction to (0, 0, −1)
  const c = -z
  if (c > 1 - 1e-12) return [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]
  if (c < -1 + 1e-12) return [1, 0, 0, 0, 0, -1, 0, 0, 0, 0, -1, 0]
  const [ux, uy] = [-y, x]
  const k = 1 / (1 + c)
  return [c + ux * ux * k, ux * uy * k, uy, 0, ux * uy * k, c + uy * uy * k, -ux, 0, -uy, ux, c, 0]
}

/**
 * Faces a part could stand on: those of its hull, the largest first.
 * @param most as many as are worth judging
 */
export function downFaces(solid: Solid, most = 12): DownFace[] {
  const hull = scoped((keep) => meshOf(keep(solid.hull())))
  const groups: { normal: [number, number, number]; area: number }[] = []
  const near = Math.cos((ALIKE * Math.PI) / 180)
  for (let f = 0; f < triangleCount(hull); f++) {
    const { normal, area } = faceOf(hull, f)
    if (!(area > 0)) continue
    const group = groups.find(
      ({ normal: n }) => n[0] * normal[0] + n[1] * normal[1] + n[2] * normal[2] > near,
    )
    if (group) group.area += area
    else groups.push({ normal: [...normal], area })
  }
  return groups
    .sort((a, b) => b.area - a.area)
    .slice(0, most)
    .map(({ normal, area }) => ({ normal, area, placement: turnedDown(normal) }))
}

/** A stretch of the surface that hangs, in one piece. */
export interface HangingPatch {
  /** mm² */
  area: number
  /** mm² of it past 60°. */
  steep: number
  /** Lowest point over the bed, mm. */
  from: number
  /** Middle of it over the bed, mm. */
  x: number
  y: number
  /** Its narrower side seen from above, mm: what a bridge over it would have to span. */
  span: number
  /** How far it reaches from its middle, mm. */
  reach: number
  /** Level, so that it can only be bridged. */
  ceiling: boolean
}

/** How a part stands and hangs when it is placed so. */
export interface Judged {
  /** mm */
  height: number
  width: number
  depth: number
  /** Of the first layer, mm², and in how many pieces. */
  contact: number
  islands: number
  /** mm² that hang past 45° and past 60° from upright, without what lies on the bed. */
  hanging45: number
  hanging60: number
  patches: HangingPatch[]
  /** Longest span over air, mm. */
  bridge: number
  /** Sideways push at the top that tips it, N; Infinity where it cannot be. */
  push: number
  /** Share of the heights that have a corner for a seam to tuck into. */
  corners: number
  /** Share of a load along the arrow that pulls layers apart, 0 to 1; null without an arrow. */
  layersPulled: number | null
}

export interface JudgeOptions {
  /** Height of the first layer, mm. */
  firstHeight: number
  /** g/cm³ */
  density: number
  /** Way the part will be loaded, before it is turned. */
  load?: readonly [number, number, number] | null
}

const GRAVITY = 9.81
/** Faces nearer to the bed than this lie on it, mm. */
const ON_BED = 0.05
const sine = (degrees: number) => Math.sin((degrees * Math.PI) / 180)
/** A face this far from upright is a ceiling, degrees. */
const CEILING = 80
/** Heights looked at for corners. */
const LOOKS = 9
/** A corner turns at least so much, degrees. Common practice, no source. */
const CORNER = 25

/** Judges a placing: what touches the bed, what hangs, what a push does. */
export function judgePlacing(
  solid: Solid,
  placement: Placement,
  { firstHeight, density, load = null }: JudgeOptions,
): Judged {
  return scoped((keep) => {
    const m = placement
    const upright = keep(standing(solid, m))
    const { min, max } = upright.boundingBox()
    const height = max[2] - min[2]
    const foot = keep(upright.slice(Math.min(firstHeight / 2, height / 2)))
    const pieces = foot.decompose().map(keep)
    const mesh = meshOf(upright)
    const patches = hangingPatches(mesh)
    const centre = centreOf(mesh)
    const hull = convexHull(foot.toPolygons().flatMap((r) => r.map(([x, y]): Place => ({ x, y }))))
    const weight = (upright.volume() / 1000) * (density / 1000) * GRAVITY
    const lever = hull.length > 2 ? Math.max(0, distanceInside(hull, centre)) : 0
    let cornered = 0
    for (let i = 1; i <= LOOKS; i++) {
      const rings = ringsOf(keep(keep(upright.slice((height * i) / (LOOKS + 1))).simplify(0.05)))
      if (rings.some((r) => r.some((_, j) => Math.abs(turnAt(r, j)) >= CORNER))) cornered++
    }
    const sum = (of: (p: HangingPatch) => number) => patches.reduce((s, p) => s + of(p), 0)
    return {
      height,
      width: max[0] - min[0],
      depth: max[1] - min[1],
      contact: foot.area(),
      islands: pieces.length,
      hanging45: sum((p) => p.area),
      hanging60: sum((p) => p.steep),
      patches,
      bridge: Math.max(0, ...patches.filter((p) => p.ceiling).map((p) => p.span)),
      push: height > 0 ? (weight * lever) / height : Infinity,
      corners: cornered / LOOKS,
      layersPulled: load && pulled(load, m),
    }
  })
}

/** Share of a load that runs along Z once the part is turned: cos² of the angle. */
function pulled([x, y, z]: readonly [number, number, number], m: Placement): number {
  const up = m[8] * x + m[9] * y + m[10] * z
  const length = x * x + y * y + z * z
  return length > 0 ? (up * up) / length : 0
}

/** Middle of the mass of a closed mesh, mm. */
function centreOf({ vertices: v, triangles: t }: Mesh): Place {
  let [sx, sy, volume] = [0, 0, 0]
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]]
    const part =
      v[a] * (v[b + 1] * v[c + 2] - v[b + 2] * v[c + 1]) -
      v[a + 1] * (v[b] * v[c + 2] - v[b + 2] * v[c]) +
      v[a + 2] * (v[b] * v[c + 1] - v[b + 1] * v[c])
    volume += part
    sx += (part * (v[a] + v[b] + v[c])) / 4
    sy += (part * (v[a + 1] + v[b + 1] + v[c + 1])) / 4
  }
  return volume ? { x: sx / volume, y: sy / volume } : { x: 0, y: 0 }
}

/** Faces that hang past 45° from upright and do not lie on the bed, as patches that hang together. */
function hangingPatches(mesh: Mesh): HangingPatch[] {
  const { vertices: v, triangles: t } = mesh
  const faces = triangleCount(mesh)
  const hangs = new Uint8Array(faces)
  const normals = new Float64Array(faces)
  const areas = new Float64Array(faces)
  for (let f = 0; f < faces; f++) {
    const { normal, area } = faceOf(mesh, f)
    normals[f] = normal[2]
    areas[f] = area
    const top = Math.max(v[3 * t[3 * f] + 2], v[3 * t[3 * f + 1] + 2], v[3 * t[3 * f + 2] + 2])
    hangs[f] = normal[2] < -sine(45) && top > ON_BED ? 1 : 0
  }
  const { across } = topologyOf(mesh)
  const out: HangingPatch[] = []
  for (let start = 0; start < faces; start++) {
    if (hangs[start] !== 1) continue
    hangs[start] = 2
    const todo = [start]
    const patch: number[] = []
    while (todo.length) {
      const f = todo.pop()!
      patch.push(f)
      for (let k = 0; k < 3; k++) {
        const side = across[3 * f + k]
        const g = side < 0 ? -1 : Math.floor(side / 3)
        if (g < 0 || hangs[g] !== 1) continue
        hangs[g] = 2
        todo.push(g)
      }
    }
    out.push(patchOf(mesh, patch, normals, areas))
  }
  return out.sort((a, b) => b.area - a.area)
}

function patchOf(
  { vertices: v, triangles: t }: Mesh,
  faces: number[],
  normals: Float64Array,
  areas: Float64Array,
): HangingPatch {
  let [area, steep, level, x, y, from] = [0, 0, 0, 0, 0, Infinity]
  const places: Place[] = []
  for (const f of faces) {
    area += areas[f]
    if (normals[f] < -sine(60)) steep += areas[f]
    if (normals[f] < -sine(CEILING)) level += areas[f]
    for (let j = 0; j < 3; j++) {
      const p = 3 * t[3 * f + j]
      places.push({ x: v[p], y: v[p + 1] })
      x += (areas[f] * v[p]) / 3
      y += (areas[f] * v[p + 1]) / 3
      from = Math.min(from, v[p + 2])
    }
  }
  return {
    area,
    steep,
    from,
    x: x / area,
    y: y / area,
    span: narrowest(convexHull(places)),
    reach: Math.max(0, ...places.map((p) => Math.hypot(p.x - x / area, p.y - y / area))),
    ceiling: level > 0.8 * area,
  }
}

/** Least width of a convex outline: the narrowest strip it fits through lies along one of its edges. */
function narrowest(hull: readonly Place[]): number {
  if (hull.length < 3) return 0
  let least = Infinity
  hull.forEach((a, i) => {
    const b = hull[(i + 1) % hull.length]
    const length = Math.hypot(b.x - a.x, b.y - a.y)
    if (!(length > 0)) return
    let far = 0
    for (const p of hull)
      far = Math.max(far, ((b.x - a.x) * (p.y - a.y) - (b.y - a.y) * (p.x - a.x)) / length)
    least = Math.min(least, far)
  })
  return least
}

/** A part from the front: what is seen of it, and where it hangs past 45°; X across, height upright, mm. */
export interface FrontView {
  outline: Ring[]
  hanging: Ring[]
}

/** A part from above: its foot, all of it, and the middles of what hangs; mm from the middle of the part. */
export interface AboveView {
  foot: Ring[]
  outline: Ring[]
  patches: { x: number; y: number; area: number; steep: number; from: number; radius: number }[]
}

/** Draws a solid that stands as it will be printed from above. */
export function aboveOf(solid: Solid, { patches }: Judged, firstHeight: number): AboveView {
  return scoped((keep) => {
    const { min, max } = solid.boundingBox()
    const [cx, cy] = [(min[0] + max[0]) / 2, (min[1] + max[1]) / 2]
    const rings = (area: Area): Ring[] =>
      ringsOf(keep(area.simplify(0.05))).map((r) => r.map(([x, y]): [number, number] => [x - cx, y - cy]))
    return {
      foot: rings(keep(solid.slice(Math.min(min[2] + firstHeight / 2, (min[2] + max[2]) / 2)))),
      outline: rings(keep(solid.project())),
      patches: patches.slice(0, MOST_PATCHES).map(({ x, y, area, steep, from, reach }) => ({
        x: x - cx,
        y: y - cy,
        area,
        steep,
        from,
        radius: reach,
      })),
    }
  })
}
/** Patches that are shown, the largest. */
const MOST_PATCHES = 40

/** Most faces that hang which are drawn, the largest. */
const DRAWN_FACES = 4000

/** Draws a solid that stands as it will be printed. */
export function frontOf(kernel: Kernel, solid: Solid): FrontView {
  return scoped((keep) => {
    const outline = ringsOf(keep(keep(keep(solid.rotate([-90, 0, 0])).project()).simplify(0.05)))
    const mesh = meshOf(solid)
    const { vertices: v, triangles: t } = mesh
    const faces: { ring: Ring; area: number }[] = []
    for (let f = 0; f < triangleCount(mesh); f++) {
      const { normal, area } = faceOf(mesh, f)
      const corners = [0, 1, 2].map((j) => 3 * t[3 * f + j])
      if (normal[2] >= -sine(45) || Math.max(...corners.map((p) => v[p + 2])) <= ON_BED) continue
      const ring: Ring = corners.map((p): [number, number] => [v[p], v[p + 2]])
      // a level face is a line from the front: it gets a hair of height
      const [low, high] = [Math.min(...ring.map((p) => p[1])), Math.max(...ring.map((p) => p[1]))]
      const [left, right] = [Math.min(...ring.map((p) => p[0])), Math.max(...ring.map((p) => p[0]))]
      faces.push({
        area,
        ring:
          high - low < LEVEL
            ? [
                [left, low],
                [right, low],
                [right, low + LEVEL],
                [left, low + LEVEL],
              ]
            : ringArea(ring) < 0
              ? [...ring].reverse()
              : ring,
      })
    }
    faces.sort((a, b) => b.area - a.area)
    if (!faces.length) return { outline, hanging: [] }
    const hanging = keep(
      areaOf(
        kernel,
        faces.slice(0, DRAWN_FACES).map((f) => f.ring),
        'NonZero',
      ),
    )
    return { outline, hanging: ringsOf(keep(hanging.simplify(0.05))) }
  })
}
/** Height at which a level face is drawn, mm. */
const LEVEL = 0.4

/** Why a placing is worse than it could be: what it costs, and the figure it costs it for. */
export interface PlacingCost {
  of: 'hanging' | 'steep' | 'bridge' | 'grip' | 'tipping' | 'islands' | 'height' | 'layers'
  figure: number
  cost: number
}

/** What of the pair a ranking hangs on. */
export interface PlacingPair {
  /** % the family shrinks: what lifts corners. */
  shrink: number
  /** mm that the pair bridges well. */
  bridges: number
}
/** Sideways push of a nozzle that catches a curled edge, N. Common practice, no source. */
const CATCH = 1

/**
 * What a placing costs on a pair, the dearest first: a sum over what hangs, what has to be bridged, how it holds and stands,
 * and how tall it is. Weights: common practice, no source.
 */
export function placingCosts(j: Judged, pair: PlacingPair): PlacingCost[] {
  const gentle = j.hanging45 - j.hanging60
  const costs: PlacingCost[] = [
    { of: 'hanging', figure: gentle, cost: 0.5 * Math.log1p(gentle / 60) },
    { of: 'steep', figure: j.hanging60, cost: 1.5 * Math.log1p(j.hanging60 / 60) },
    { of: 'bridge', figure: j.bridge, cost: 0.15 * Math.max(0, j.bridge - pair.bridges) },
    {
      of: 'grip',
      figure: j.contact,
      cost:
        (0.6 + pair.shrink) *
        Math.log1p((j.height * Math.sqrt(j.width * j.depth)) / (4 * Math.max(5, j.contact))),
    },
    { of: 'tipping', figure: j.push, cost: 2 * Math.max(0, 1 - j.push / CATCH) },
    { of: 'islands', figure: j.islands, cost: 0.15 * Math.max(0, j.islands - 1) },
    { of: 'height', figure: j.height, cost: j.height / 150 },
    ...(j.layersPulled === null
      ? []
      : [{ of: 'layers' as const, figure: j.layersPulled, cost: 2.5 * j.layersPulled }]),
  ]
  return costs.sort((a, b) => b.cost - a.cost)
}

/** A placing with what it costs. */
export interface RankedPlacing {
  face: DownFace
  judged: Judged
  costs: PlacingCost[]
  cost: number
}

/** Placings of a part, the best for a pair first. */
export function rankPlacings(
  solid: Solid,
  options: JudgeOptions,
  pair: PlacingPair,
  most = 12,
): RankedPlacing[] {
  return downFaces(solid, most)
    .map((face): RankedPlacing => {
      const judged = judgePlacing(solid, face.placement, options)
      const costs = placingCosts(judged, pair)
      return { face, judged, costs, cost: costs.reduce((s, c) => s + c.cost, 0) }
    })
    .sort((a, b) => a.cost - b.cost)
}

/** A solid as it was placed, its lowest point on the bed; to be given back with `delete()`. */
export function standing(solid: Solid, placement: Placement): Solid {
  return scoped((keep) => {
    const turned = keep(solid.transform(columnsOf(placement)))
    return turned.translate([0, 0, -turned.boundingBox().min[2]])
  })
}

/** A placement as the kernel takes it: column by column. */
function columnsOf(m: Placement): Parameters<Solid['transform']>[0] {
  return [m[0], m[4], m[8], 0, m[1], m[5], m[9], 0, m[2], m[6], m[10], 0, m[3], m[7], m[11], 1]
}
