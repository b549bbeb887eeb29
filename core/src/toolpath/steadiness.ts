import { beadWidth } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
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
  const { program, index, objects, featureOf, raftLayers, context } = a
  const { count, x, y, e, kind } = program
  const own = objects.filter((o) => o.firstLayer <= raftLayers)
  if (!own.length || own.length > MOST_BODIES) return null
  const sizeOf = (o: Box) => (o.maxX - o.minX) * (o.maxY - o.minY)
  const bodies = [...own]
    .sort((a, b) => sizeOf(a) - sizeOf(b))
    .map((o) => ({ box: o, volume: 0, mx: 0, my: 0, foot: [] as Place[], top: o.lastLayer }))
  const inside = (o: Box, px: number, py: number) =>
    px >= o.minX - 1 && px <= o.maxX + 1 && py >= o.minY - 1 && py <= o.maxY + 1
  for (let i = 1; i < count; i++) {
    if (kind[i] !== MoveKind.Extrude || !holds(featureOf[i])) continue
    const layer = index.layerOf[i]
    if (layer < 0) continue
    const px = (x[i] + x[i - 1]) / 2
    const py = (y[i] + y[i - 1]) / 2
    // the smallest box around it: a wall against draughts stands round the others
    const body = bodies.length === 1 ? bodies[0] : bodies.find((b) => inside(b.box, px, py))
    if (!body) continue
    const volume = e[i] * area
    body.volume += volume
    body.mx += volume * px
    body.my += volume * py
    if (layer) continue
    // the bead reaches half its width beyond the middle of its path
    const d = Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1])
    if (!(d > 0)) continue
    const r = Math.min(2, beadWidth(volume / d, index.z[0]) / 2)
    for (const [qx, qy] of [
      [x[i - 1], y[i - 1]],
      [x[i], y[i]],
    ])
      body.foot.push(
        { x: qx - r, y: qy - r },
        { x: qx + r, y: qy - r },
        { x: qx - r, y: qy + r },
        { x: qx + r, y: qy + r },
      )
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
