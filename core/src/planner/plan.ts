import type { Place } from '../geometry/hull'
import { scoped, type Kernel, type Solid } from '../geometry/kernel'
import type { Machine } from '../machine/machine'
import { surroundingsOf, type Surroundings } from './around'
import { PlanError, planFault } from './planError'
import { raftHeights, raftLayers } from './raft'
import { regionsOf } from './regions'
import { slicesOf } from './slicing'
import type { PartSettings } from './settings'
import { supportsOf, type UncarriedPlace } from './supports'
import { strokesOf, type StrokeLayer } from './strokes'

/** The lines of a part, layer by layer: everything but speeds, heats and fans. */
export interface PartPlan {
  layers: StrokeLayer[]
  /** What was wanted round it and has no room. */
  left: Surroundings['left']
  /** Where corner tabs lie or could lie, mm from the middle of the part. */
  tabs: readonly Place[]
}

/** What is laid otherwise than the settings alone say, and how the work is followed. */
export interface PlanOptions {
  /** Called with the share that is done; may throw to end the work. */
  onStep?: (share: number) => void
  /** Patches that hang and are not carried. */
  uncarried?: readonly UncarriedPlace[]
  /** Corners without a tab, mm from the middle of the part. */
  withoutTab?: readonly Place[]
}

/** Where a solid stands when its middle is over a place of the bed and its lowest point on it. */
export function onBed(solid: Solid, x: number, y: number): Solid {
  const { min, max } = solid.boundingBox()
  return solid.translate([x - (min[0] + max[0]) / 2, y - (min[1] + max[1]) / 2, -min[2]])
}

/** Middle of the bed, mm. */
export const bedMiddle = ({ bed }: Machine) =>
  bed.shape === 'round' ? { x: 0, y: 0 } : { x: bed.width / 2, y: bed.depth / 2 }

/** Most shares of the work that slicing and regions take. */
const SLICING = 0.3

/**
 * Lays the lines of a solid in the middle of the bed.
 * @param solid as it is to stand, its lowest point down
 * @throws PlanError where it does not fit the machine
 */
export function planPart(
  kernel: Kernel,
  solid: Solid,
  machine: Machine,
  settings: PartSettings,
  { onStep, uncarried = [], withoutTab = [] }: PlanOptions = {},
): PartPlan {
  return scoped((keep) => {
    const { x, y } = bedMiddle(machine)
    const onTheBed = <P extends Place>(p: P): P => ({ ...p, x: p.x + x, y: p.y + y })
    const placed = keep(onBed(solid, x, y))
    fits(placed, machine, settings)
    // on a raft the part has no first layer of its own
    const own: PartSettings = settings.raft
      ? {
          ...settings,
          firstHeight: settings.layerHeight,
          firstWidth: settings.outerWidth,
          firstWalls: settings.wallCount,
          footTrim: 0,
          brimLines: 0,
          cornerTabs: 0,
        }
      : settings
    const slices = slicesOf(kernel, placed, own, keep, onStep && ((s) => onStep(SLICING * s)))
    const { base, wall, left, tabs } = surroundingsOf(
      kernel,
      slices,
      machine,
      own,
      withoutTab.map(onTheBed),
      keep,
    )
    const regions = regionsOf(
      kernel,
      slices,
      own,
      keep,
      onStep && ((s) => onStep(SLICING + (0.9 - SLICING) * s)),
    )
    const carried =
      own.supports === 'none' || own.spiral
        ? []
        : supportsOf(kernel, slices, own, uncarried.map(onTheBed), keep, onStep && (() => onStep(SLICING)))
    // wanted, and nowhere is there a way for them
    if (own.supports !== 'none' && carried.every((c) => !c.length)) left.push('supports')
    const raft = settings.raft ? raftLayers(kernel, slices, machine, settings, keep) : []
    const lifted = settings.raft ? raftHeights(settings, machine.nozzle.diameter).begins : 0
    const seam = { last: null }
    const part = regions.map((r, i): StrokeLayer => {
      onStep?.(0.9 + (0.1 * i) / regions.length)
      const { strokes } = strokesOf(r, own, seam)
      return {
        index: raft.length + i,
        z: Number((r.z + lifted).toFixed(4)),
        h: r.h,
        // first what carries, then what lies on it
        strokes: [...(carried[i] ?? []), ...strokes],
        ...(settings.raft && i === 0 && { overRaft: true }),
      }
    })
    const layers = [...raft, ...part].map((l, i): StrokeLayer => ({
      ...l,
      strokes: [...(i ? [] : base), ...wall, ...l.strokes],
    }))
    if (!layers.some((l) => l.strokes.some((t) => t.kind === 'outer')))
      throw new PlanError(planFault('nothing-laid'))
    return { layers, left, tabs: tabs.map((p) => ({ x: p.x - x, y: p.y - y })) }
  })
}

function fits(solid: Solid, machine: Machine, s: PartSettings): void {
  const { min, max } = solid.boundingBox()
  const { bed, height } = machine
  const [w, d] = [((max[0] - min[0]) * s.scaleX) / 100, ((max[1] - min[1]) * s.scaleY) / 100]
  const tooWide =
    bed.shape === 'round' ? Math.hypot(w, d) > bed.width - 2 : w > bed.width - 2 || d > bed.depth - 2
  if (tooWide) throw new PlanError(planFault('part-too-wide'))
  if (((max[2] - min[2]) * s.scaleZ) / 100 > height - 1) throw new PlanError(planFault('part-too-tall'))
}
