import { areaOf, type Area, type Kernel } from '../geometry/kernel'
import { solidSpacing } from '../extrusion/bead'
import { hatch, toAndFro } from './fill'
import { DUST, ringsOf, type Keep, type Slice } from './slicing'
import type { PartSettings } from './settings'
import type { Stroke } from './strokes'

/** A place over which nothing is carried, mm from the middle of the part: a patch that hangs is left out by it. */
export interface UncarriedPlace {
  x: number
  y: number
  radius: number
}

/** Between a support and the sides of the part, mm. Common practice, no source. */
const ASIDE = 0.5
/** What is carried is widened by this, so that its edge rests on something, mm. Common practice, no source. */
const WIDER = 0.4
/** What a support's edge may be off, mm: it comes off again. */
const COARSE = 0.05
/** Patches smaller than this hold by themselves, mm². Common practice, no source. */
const LEAST = 1

/**
 * Supports of a part, layer by layer: under what hangs, with air between, down to the bed or to the part.
 * @param without places on the bed, mm
 * @param tick called often; may throw to end the work
 */
export function supportsOf(
  kernel: Kernel,
  slices: readonly Slice[],
  s: PartSettings,
  without: readonly UncarriedPlace[],
  keep: Keep,
  tick?: () => void,
): Stroke[][] {
  const { supports, supportAngle: angle, supportDensity: density } = s
  const nothing = keep(areaOf(kernel, []))
  const spared = without.map(({ x, y, radius }) =>
    keep(keep(kernel.CrossSection.circle(radius, 32)).translate([x, y])),
  )
  const n = slices.length
  const air = Math.max(1, Math.round(s.supportGap / s.layerHeight))
  // what hangs in each layer over the one below it
  const hangs = slices.map(({ area, h }, i): Area => {
    tick?.()
    if (i === 0) return nothing
    const reach = Math.max(h * Math.tan((angle * Math.PI) / 180), 0.05)
    const carried = keep(slices[i - 1].area.offset(reach, 'Miter', 2))
    let over = keep(area.subtract(carried))
    for (const spare of spared) over = keep(over.subtract(spare))
    if (over.area() < LEAST) return nothing
    return keep(keep(over.offset(reach + WIDER, 'Round', 2, 24)).intersect(area))
  })
  // from above downwards: what is carried up there stands on what is below
  const wanted: Area[] = new Array<Area>(n).fill(nothing)
  let column = nothing
  for (let i = n - 1; i >= 0; i--) {
    tick?.()
    const starts = i + 1 + air < n ? hangs[i + 1 + air] : nothing
    if (!starts.isEmpty()) column = keep(column.add(starts))
    if (column.isEmpty()) continue
    const beside = keep(slices[i].area.offset(ASIDE, 'Miter', 2))
    column = keep(keep(column.subtract(beside)).simplify(COARSE))
    // slits that the sides of the part have cut into it are closed again
    const whole = keep(keep(column.offset(ASIDE, 'Miter', 2)).offset(-ASIDE, 'Miter', 2))
    wanted[i] = keep(keep(whole.subtract(beside)).simplify(COARSE))
    // no nearer from below either
    for (let k = 1; k <= air && i - k >= 0; k++) wanted[i] = keep(wanted[i].subtract(slices[i - k].area))
  }
  if (supports === 'bed') {
    let blocked = nothing
    for (let i = 0; i < n; i++) {
      tick?.()
      wanted[i] = keep(wanted[i].subtract(blocked))
      blocked = keep(blocked.add(slices[i].area))
    }
  }
  return wanted.map((area, i): Stroke[] => {
    if (area.isEmpty() || area.area() < DUST) return []
    const width = i ? s.fillWidth : s.firstWidth
    const h = slices[i].h
    const spacing = (solidSpacing(width, h) * 100) / density
    const rings = ringsOf(keep(area.offset(-width / 2, 'Miter', 2)))
    // always the same way: layers stand on each other and come off in sheets
    return toAndFro(hatch(rings, 0, spacing), 1.6 * spacing, rings).map((points) => ({
      kind: 'support',
      points,
      closed: false,
      width,
      share: 1,
      small: false,
    }))
  })
}
