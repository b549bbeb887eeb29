import { plasticOf } from '../polymer'
import type { Blob, PrintedPart } from '../part'
import type { World } from '../world'

/** A block of a part that is looked at, mm on the bed. */
export interface Region {
  x0: number
  x1: number
  y0: number
  y1: number
  z0: number
  z1: number
}

/** What is to be seen in a region; nought is none. */
export interface Seen {
  /** mm³ of threads for each millimetre of height. */
  threads: number
  /** Mean growing together, 0 to 1; null where nothing lies on anything. */
  bond: number | null
  /** Share of its height by which what leans out, and what spans a gap, has dropped; null where there is none. */
  leans: number | null
  spans: number | null
  /** How soft what lies under was, 0 to 1: slender things lose their edges. */
  soft: number
  /** Gloss, and how unlike its layers are in it. */
  gloss: number
  unevenGloss: number
  /** mm by which the face is rough: widths that differ. */
  rough: number
  /** mm it swings after corners, at worst. */
  ripples: number
  /** Pits of steam and of burning, 0 to 1. */
  foam: number
  /** What came out against what was asked, and how it differs from place to place. */
  fed: number
  fedUneven: number
  /** mm³ too much or too little where lines begin and end, each place. */
  starts: number
  /** mm³ of bulge or dent a corner, and its sign. */
  corners: number
  bulge: number
  /** Plastic on the bed against the ground it is to cover, of the lowest layer; null above it. */
  covers: number | null
  /** Plastic against the room it is to fill, layers above the lowest; null where there are none. */
  fills: number | null
}

export const within = (r: Region, x: number, y: number, z: number, margin = 0): boolean =>
  x >= r.x0 - margin &&
  x <= r.x1 + margin &&
  y >= r.y0 - margin &&
  y <= r.y1 + margin &&
  z > r.z0 - 1e-6 &&
  z <= r.z1 + 1e-6

/** mm round a region in which threads still belong to it, and the shortest that an eye calls a string. */
const REACH = 4
const LEAST_STRING = 2.5
/** mm under the top of its layer: what hangs or sits there belongs to that layer, not to what begins above it. */
const INSIDE = 0.02
/** mm above the foot of a region whose bond is not felt: it stands on something else. */
const ROOT = 0.7

/** A mean with what it is weighed by, and its scatter. */
class Mean {
  private sum = 0
  private square = 0
  weight = 0
  add(value: number, weight: number): void {
    this.sum += value * weight
    this.square += value * value * weight
    this.weight += weight
  }
  get value(): number {
    return this.weight ? this.sum / this.weight : 0
  }
  get orNull(): number | null {
    return this.weight ? this.value : null
  }
  get spread(): number {
    return this.weight ? Math.sqrt(Math.max(0, this.square / this.weight - this.value ** 2)) : 0
  }
}

/** How far apart the quarters of a list lie: what single odd places do not change. */
function middleHalf(list: number[]): number {
  list.sort((a, b) => a - b)
  const at = (share: number) => list[Math.floor(share * (list.length - 1))] ?? 0
  return at(0.75) - at(0.25)
}

/** mm³ of bead for a width and a height, each millimetre: a rectangle with half-round ends. */
const section = (width: number, height: number): number =>
  (width - height) * height + (Math.PI * height ** 2) / 4

/** mm: height and width of a place that an eye takes in at once, and the length of line in it that is enough to be noticed. */
const PLACE = { tall: 2, wide: 15, enough: 12 }

/** What is worst at any one place. */
export interface Worst {
  leans: number
  spans: number
  soft: number
}

/** Looks for the worst place of a part: means hide a ledge in the air, or a spire on a broad foot. */
export function worstOf({ x0, y0, x1, y1, z, h, sag, hangs, warm, seen, count }: PrintedPart): Worst {
  const places = new Map<string, { leans: Mean; spans: Mean; soft: Mean }>()
  for (let i = 0; i < count; i++) {
    const at = [
      Math.floor((x0[i] + x1[i]) / 2 / PLACE.wide),
      Math.floor((y0[i] + y1[i]) / 2 / PLACE.wide),
      Math.floor((z[i] - h[i] / 2) / PLACE.tall),
    ].join(' ')
    let place = places.get(at)
    if (!place) places.set(at, (place = { leans: new Mean(), spans: new Mean(), soft: new Mean() }))
    const d = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    if (hangs[i] > 0.9) place.spans.add(sag[i] / h[i], d)
    else if (hangs[i] > 0.2) place.leans.add(sag[i] / h[i], d)
    if (seen[i]) place.soft.add(warm[i], d)
  }
  const worst = (of: keyof Worst) =>
    [...places.values()].reduce((m, p) => (p[of].weight < PLACE.enough ? m : Math.max(m, p[of].value)), 0)
  return { leans: worst('leans'), spans: worst('spans'), soft: worst('soft') }
}

/** Looks at a region of a part. */
export function lookAt(part: PrintedPart, world: World, region: Region): Seen {
  const { x0, y0, x1, y1, z, width, h, bond, sag, gloss, ripple, fed, seen, hangs, warm, hot, count } = part
  const [welds, leans, spans, soft, shine, came, heat] = Array.from({ length: 7 }, () => new Mean())
  const wide: number[] = []
  const byLayer = new Map<number, Mean>()
  let [swings, onBed, above] = [0, 0, 0]
  const heights = new Map<number, number>()
  for (let i = 0; i < count; i++) {
    if (!within(region, (x0[i] + x1[i]) / 2, (y0[i] + y1[i]) / 2, z[i] - h[i] / 2)) continue
    const d = Math.hypot(x1[i] - x0[i], y1[i] - y0[i])
    const lowest = part.onBed[i]
    came.add(fed[i], d)
    heat.add(hot[i], d)
    if (lowest) onBed += d * width[i]
    else {
      above += d * section(width[i], h[i])
      heights.set(Math.round(z[i] * 1000), h[i])
    }
    if (hangs[i] > 0.9) spans.add(sag[i] / h[i], d)
    else if (hangs[i] > 0.2) leans.add(sag[i] / h[i], d)
    else if (!lowest && z[i] > region.z0 + ROOT) welds.add(bond[i], d)
    if (!seen[i]) continue
    soft.add(warm[i], d)
    shine.add(gloss[i], d)
    wide.push((fed[i] - 1) * width[i])
    swings = Math.max(swings, ripple[i])
    const layer = byLayer.get(z[i]) ?? byLayer.set(z[i], new Mean()).get(z[i])!
    layer.add(gloss[i], d)
  }
  const layers = new Mean()
  for (const l of byLayer.values()) layers.add(l.value, l.weight)
  const top = part.layers.reduce((most, l) => Math.max(most, l.z), 0)
  const tall = Math.max(0.2, Math.min(region.z1, top) - Math.max(region.z0, 0))
  const area = (region.x1 - region.x0) * (region.y1 - region.y0)
  const inside = (list: readonly Blob[], margin: number) =>
    list.filter((b) => within(region, b.x, b.y, b.z - INSIDE, margin))
  const corners = inside(part.corners, 0.5)
  const starts = inside(part.blobs, 1)
  const sum = (list: readonly Blob[], of: (volume: number) => number) =>
    list.reduce((s, b) => s + of(b.volume), 0)
  const polymer = plasticOf(world)
  return {
    threads:
      part.strings
        .filter(
          (s) =>
            Math.hypot(s.x1 - s.x0, s.y1 - s.y0) >= LEAST_STRING &&
            within(region, (s.x0 + s.x1) / 2, (s.y0 + s.y1) / 2, s.z - INSIDE, REACH),
        )
        .reduce((total, s) => total + s.volume, 0) / tall,
    bond: welds.orNull,
    leans: leans.orNull,
    spans: spans.orNull,
    soft: soft.value,
    gloss: shine.value,
    unevenGloss: layers.spread,
    rough: middleHalf(wide) / 2.7,
    ripples: swings,
    foam: Math.min(
      1,
      0.12 * polymer.thirst * Math.max(0, world.roll.moisture - 0.15) +
        Math.max(0, heat.value - world.roll.hotter - polymer.degrades) / 15,
    ),
    fed: came.value,
    fedUneven: came.spread,
    starts: starts.length ? sum(starts, Math.abs) / starts.length : 0,
    corners: corners.length ? sum(corners, Math.abs) / corners.length : 0,
    bulge: corners.length ? sum(corners, (v) => v) / corners.length : 0,
    covers: onBed > 0 ? onBed / area : null,
    fills: above > 0 ? above / area / [...heights.values()].reduce((s, v) => s + v, 0) : null,
  }
}
