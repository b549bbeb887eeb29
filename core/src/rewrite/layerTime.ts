import { MoveKind } from '../gcode/program'
import type { Overlay } from '../gcode/rewrite/overlay'
import { planMotion } from '../motion/timeline'
import { ChangeError } from './change'
import type { FileAsRead } from './file'

/** Rounds of planning: ramps and corners shorten what a slower speed wins. */
const ROUNDS = 5
/** s within which a layer is long enough. */
const CLOSE = 0.03

/**
 * Lays quick layers slower until each takes so long, planned with the machine's motion; travels and pull-backs keep their speed.
 * @param seconds that a layer takes at least
 * @param floor mm/s that nothing is slowed below
 */
export function layerTime(file: FileAsRead, seconds: number, floor: number): Overlay {
  const { program, index, context, timeline } = file.analysis
  const layers = index.z.length
  const laid = (i: number) => program.kind[i] === MoveKind.Extrude && index.layerOf[i] > 0
  const slower = new Float64Array(layers).fill(1)
  const speedOf = (i: number, v: number) =>
    laid(i) && slower[index.layerOf[i]] < 1 ? Math.max(Math.min(floor, v), v * slower[index.layerOf[i]]) : v
  let times = timeline.seconds
  let any = false
  for (let round = 0; round < ROUNDS; round++) {
    const all = new Float64Array(layers)
    const lines = new Float64Array(layers)
    for (let i = 0; i < program.count; i++) {
      const l = index.layerOf[i]
      if (l < 0) continue
      all[l] += times[i]
      if (laid(i)) lines[l] += times[i]
    }
    let short = false
    for (let l = 1; l < layers; l++) {
      const want = seconds - (all[l] - lines[l])
      if (all[l] >= seconds - CLOSE || lines[l] <= 0 || want <= 0) continue
      slower[l] *= lines[l] / want
      short = any = true
    }
    if (!short) break
    times = planMotion(
      { ...program, speed: program.speed.map((v, i) => speedOf(i, v)) },
      context.limits,
    ).seconds
  }
  if (!any) throw new ChangeError('change-does-nothing')
  return { speed: speedOf }
}
