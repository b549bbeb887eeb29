import { MoveKind } from '../gcode/program'
import type { Inserted, Overlay } from '../gcode/rewrite/overlay'
import { ChangeError } from './change'
import type { FileAsRead } from './file'

/** How machines are told to wait: M600 for another roll, where they know it, else M0 for a hand on the button. */
export const PAUSES = ['M600', 'M0'] as const
export type Pause = (typeof PAUSES)[number]

/** How far the head rises from the part while it waits, mm, and how fast, mm/s. Common practice, no source. */
const RISE = 10
const RISE_SPEED = 10
/** Pulled back where the file never does, mm, and how fast, mm/s. Common practice, no source. */
const PULL = 1
const PULL_SPEED = 25

/**
 * Waits before the first line of the first layer that ends above a height. With M600 the machine leaves the part and comes back
 * by itself; with M0 the head rises off the part and comes down again.
 * @param height mm
 * @param top mm, how high the machine reaches
 */
export function pause(file: FileAsRead, height: number, command: Pause, top: number): Overlay {
  const { program, index, raftLayers } = file.analysis
  const layer = index.z.findIndex((z, l) => l > raftLayers && z > height + 1e-4)
  if (layer < 0) throw new ChangeError('change-does-nothing')
  let at = 0
  while (at < program.count && !(program.kind[at] === MoveKind.Extrude && index.layerOf[at] === layer)) at++
  if (at >= program.count) throw new ChangeError('change-does-nothing')
  const wait: Inserted = { command, speed: 0 }
  if (command === 'M600') return { before: (i) => (i === at ? [wait] : undefined) }
  const { kind, length, speed } = file.reading.retraction
  const e = kind === 'none' || kind === 'firmware' ? PULL : (length ?? PULL)
  const pull = speed ?? PULL_SPEED
  const z = program.z[at - 1]
  const steps: Inserted[] = [
    { e: -e, speed: pull },
    { z: Math.max(z, Math.min(top, z + RISE)), speed: RISE_SPEED },
    wait,
    { z, speed: RISE_SPEED },
    { e, speed: pull },
  ]
  return { before: (i) => (i === at ? steps : undefined) }
}
