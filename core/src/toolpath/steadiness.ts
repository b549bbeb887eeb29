import { beadWidth } from '../extrusion/bead'
import type { Box } from '../geometry/grid'
import { convexHull, distanceInside, type Place } from '../geometry/hull'
import type { Analysis } from './analysis'
import { Feature } from './features'

/** How steadily the least steady body stands on the bed by its own weight. */
export interface Steadiness {
  /** mN that push it over when they act sideways at its top: weight × reach over height. */
  push: number
  /** mm from the middle of its weight, seen from above, to the nearest edge of its foot's hull; 0 when it overhangs. */
  reach: number
  /** mm */
  height: number
}

/** m/s² */
const GRAVITY = 9.81
/** More bodies than this are not told apart. */
const MOST_BODIES = 40
/** Skirts and supports hold nothing; a brim does: it is laid onto the part. */
const holds = (f: number) => f !== Feature.Skirt && f !== Feature.Support

/**
 * Tilting of the bodies on the bed by statics: the moment about the nearest edge of the foot's convex hull that the
 * weight takes, over the height at which the nozzle pushes. Grip on the bed comes on top.
 * @param area mm² of the filament
 */
export function readSteadiness(a: Analysis, area: number): Steadiness | null {
  const { program, index, objects, stretches, raftLayers, context } = a
  const { x, y, e } = program
  const own = objects.filter((o) => o.firstLayer <= raftLayers)
  if (!own.length || own.length > MOST_BODIES) return null
  const sizeOf = (o: Box) => (o.maxX - o.minX) * (o.maxY - o.minY)
  const bodies = [...own]
    .sort((a, b) => sizeOf(a) - sizeOf(b))
    .map((o) => ({ box: o, volume: 0, mx: 0, my: 0, foot: [] as Place[], top: o.lastLayer }))
  const inside = (o: Box, px: number, py: number) =>
    px >= o.minX - 1 && px <= o.maxX + 1 && py >= o.minY - 1 && py <= o.maxY + 1
  for (const s of stretches) {
    if (!holds(s.feature)) continue
    const cx = (s.minX + s.maxX) / 2
    const cy = (s.minY + s.maxY) / 2
    // the smallest box around it: a wall against draughts stands round the others
    const body = bodies.length === 1 ? bodies[0] : bodies.find((b) => inside(b.box, cx, cy))
    if (!body) continue
    let volume = 0
    let mx = 0
    let my = 0
    for (let i = Math.max(1, s.from); i <= s.to; i++) {
      volume += e[i]
      mx += e[i] * (x[i] + x[i - 1])
      my += e[i] * (y[i] + y[i - 1])
    }
    body.volume += volume * area
    body.mx += (mx * area) / 2
    body.my += (my * area) / 2
    if (s.layer) continue
    // the bead reaches half its width beyond the middle of its path
    const r = Math.min(2, beadWidth((volume * area) / s.length, index.z[0]) / 2)
    for (let i = Math.max(0, s.from - 1); i <= s.to; i++)
      for (const dx of [-r, r]) for (const dy of [-r, r]) body.foot.push({ x: x[i] + dx, y: y[i] + dy })
  }
  let least: Steadiness | null = null
  for (const b of bodies) {
    if (!(b.volume > 0) || b.foot.length < 3) continue
    const height = index.z[b.top]
    const reach = Math.max(0, distanceInside(convexHull(b.foot), { x: b.mx / b.volume, y: b.my / b.volume }))
    // mm³ × g/cm³ = mg; mg × m/s² = µN
    const weight = (b.volume * context.density * GRAVITY) / 1000
    const push = (weight * reach) / height
    if (!least || push < least.push)
      least = { push: Number(push.toFixed(2)), reach: Number(reach.toFixed(2)), height }
  }
  return least
}
