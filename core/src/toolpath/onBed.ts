import type { FirstLayer } from './firstLayer'

/** The first layer, where it lies on the bed: over a raft it is laid on lines with gaps, thicker and with less. */
export const onBed = (r: {
  base: { raftLayers: number }
  firstLayer: FirstLayer | null
}): FirstLayer | null => (r.base.raftLayers ? null : r.firstLayer)
