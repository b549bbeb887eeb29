import { areaOf, type Kernel } from '../geometry/kernel'
import { solidSpacing } from '../extrusion/bead'
import type { Machine } from '../machine/machine'
import { hatch, toAndFro } from './fill'
import { isOuter } from './regions'
import { ringsOf, type Keep, type Slice } from './slicing'
import type { PartSettings } from './settings'
import { SOLID_ANGLES, type StrokeLayer } from './strokes'

/** Height of a raft's bottom layers, as a share of the nozzle. Common practice, no source. */
const BOTTOM_SHARE = 0.7

/** Heights of a raft: its layers, and where the part's first layer begins, mm. */
export interface RaftHeights {
  bottom: number
  top: number
  /** Top of the raft, and of the air over it. */
  ends: number
  begins: number
}

export function raftHeights(s: PartSettings, nozzle: number): RaftHeights {
  const bottom = Math.max(s.firstHeight, Number((BOTTOM_SHARE * nozzle).toFixed(2)))
  const ends = Number((s.raftBottomLayers * bottom + s.raftTopLayers * s.layerHeight).toFixed(4))
  return { bottom, top: s.layerHeight, ends, begins: Number((ends + s.raftGap).toFixed(4)) }
}

/**
 * Lays a raft under a part: wide lines that hold the bed, then layers the part stands on; its uppermost lines cross those of
 * the part's first layer.
 * @param slices the part's own, from its first layer on
 */
export function raftLayers(
  kernel: Kernel,
  slices: readonly Slice[],
  machine: Machine,
  s: PartSettings,
  keep: Keep,
): StrokeLayer[] {
  const heights = raftHeights(s, machine.nozzle.diameter)
  const edges = ringsOf(slices[0].area).filter(isOuter)
  const foot = keep(areaOf(kernel, edges))
  const rings = ringsOf(keep(foot.offset(s.raftMargin, 'Round', 2, 48)))
  const layers: StrokeLayer[] = []
  const count = s.raftBottomLayers + s.raftTopLayers
  for (let i = 0; i < count; i++) {
    const isBottom = i < s.raftBottomLayers
    const width = isBottom ? s.raftBottomWidth : s.raftTopWidth
    const h = isBottom ? heights.bottom : heights.top
    const density = isBottom ? s.raftDensity : s.raftTopDensity
    // counted from the uppermost layer, which crosses the part
    const angle = SOLID_ANGLES[0] - s.raftCrossing + 90 * ((count - 1 - i) % 2)
    const spacing = (solidSpacing(width, h) * 100) / density
    const inner = ringsOf(keep(keep(areaOf(kernel, rings)).offset(-width / 2, 'Round', 2, 48)))
    const before = layers.at(-1)?.z ?? 0
    layers.push({
      index: i,
      z: Number((before + h).toFixed(4)),
      h,
      strokes: toAndFro(hatch(inner, angle, spacing), 1.6 * spacing, inner).map((points) => ({
        kind: isBottom ? 'raft-bottom' : 'raft-top',
        points,
        closed: false,
        width,
        share: 1,
        small: false,
      })),
    })
  }
  return layers
}
