import { writePractice } from '@verimend/core/casework'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import type { SignId } from '@verimend/core/knowledge'
import { PRACTICE_SIZE } from '@verimend/core/planner'
import { deriveRecipe } from '@verimend/core/recipe'
import {
  appearancesOf,
  printProgram,
  propertyOf,
  soundWorld,
  type Appearance,
  type PropertyId,
  type World,
} from '../src'
import { render, type Frame, type Picture, type View } from '../src/picture/render'
import { between } from './between'
import { windowOf } from './windowOf'

/** What is broken, and how far, for a sign to show; from where it is seen, and which share of the piece. */
interface Shown {
  property: PropertyId
  /** Which way, where there are two. */
  amount?: number
  view: View
  roll?: 'fern' | 'slate'
  /** mm round the middle of the left block, across and up; all of the piece when left out. */
  near?: { across: [number, number]; up: [number, number] }
  /** What the picture takes in, mm: across from the middle of the bed, and up or along. */
  frame?: Frame
}
/** The left block's face, and its shoulder. */
const FACE = { across: [-14, 14], up: [0, 17] } as const satisfies Shown['near']

/** The block from above. */
const ABOVE = { across: [-14, 14], up: [-12, 12] } as const satisfies Shown['near']

/** The shape of a picture in the handbook. */
const window = (u0: number, v0: number, wide: number): Frame => windowOf(u0, v0, wide, 180 / 260)

/** Signs that the practice piece can show so that an eye tells them. */
export const SHOWN: Partial<Record<SignId & Appearance, Shown>> = {
  'corners-lift': { property: 'shrinks', roll: 'slate', view: 'side', frame: window(-49, -0.8, 10) },
  'base-flare': { property: 'gap', view: 'side', frame: window(-47, -0.4, 5) },
  'first-layer-gaps': { property: 'gap', amount: 0.5001, view: 'first', near: ABOVE },
  'first-layer-ridges': { property: 'gap', amount: 0.5, view: 'first', near: ABOVE },
  'first-layer-uneven': { property: 'tilt', view: 'first' },
  'waves-regular-height': { property: 'gear', view: 'side', near: FACE },
  ghosting: { property: 'loose', view: 'side', near: FACE },
}

/** How clear a sign is in each of the three pictures: not there, slight, clear. As a person grades it. */
const LEVELS = [
  [0, 0.35],
  [0.38, 0.68],
  [0.72, 1],
] as const

/**
 * A sign in three pictures of one print, each worse than the one before; the physics decides what is slight and what is clear. What it
 * never shows is null.
 */
export function picturesOf(sign: SignId & Appearance, size: number): (Picture | null)[] {
  const { property, amount = 0.5, view, roll = 'fern', near, frame } = SHOWN[sign]!
  const machine = DEMO_MACHINES.shed
  const filament = demoFilaments('2026-01-01')[roll]
  const gcode = writePractice(machine, deriveRecipe({ machine, filament }))
  const program = readGcode(Buffer.from(gcode), { filamentDiameter: 1.75 })
  const sound = soundWorld(machine, filament.family)
  const broken = propertyOf(property).hide(sound, amount, machine)
  const print = (world: World) => printProgram(program, machine, world)
  const clearIn = (world: World) => appearancesOf(print(world), world, PRACTICE_SIZE)[sign]
  const worldAt = ([least, most]: readonly [number, number]): World | null => {
    if (least === 0) return sound
    let [low, high] = [0, 1.6]
    for (let k = 0; k < 9; k++) {
      const mid = (low + high) / 2
      const world = between(sound, broken, mid)
      const now = clearIn(world)
      if (now >= least && now <= most) return world
      if (now < least) low = mid
      else high = mid
    }
    return null
  }
  return LEVELS.map((level, i) => {
    const world = i === 2 && clearIn(broken) >= level[0] ? broken : worldAt(level)
    if (!world) return null
    const part = print(world)
    const { bed } = machine
    const [x, y] = bed.shape === 'round' ? [0, 0] : [bed.width / 2, bed.depth / 2]
    const block =
      near && view === 'side'
        ? {
            x0: x - 31 + near.across[0],
            x1: x - 31 + near.across[1],
            y0: -1e4,
            y1: 1e4,
            z0: near.up[0],
            z1: near.up[1],
          }
        : near
          ? {
              x0: x - 31 + near.across[0],
              x1: x - 31 + near.across[1],
              y0: y + near.up[0],
              y1: y + near.up[1],
              z0: -1,
              z1: 1e4,
            }
          : undefined
    const [along, up] = view === 'side' ? [x, 0] : [x, y]
    return render(part, world, view, {
      size,
      colour: '#4f8a5b',
      ...(block && { block }),
      ...(frame && {
        frame: { u0: frame.u0 + along, u1: frame.u1 + along, v0: frame.v0 + up, v1: frame.v1 + up },
      }),
    })
  })
}
