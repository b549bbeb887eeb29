import type { Rect } from '../../geometry/shapes'
import type { Builder, Layer } from '../../planner/builder'
import type { Extent } from '../types'

/** Height of a band in a first look, against the usual. Common practice, no source. */
const QUICK_BAND = 0.6

/** Where each band of a tower begins and ends, and which band a layer belongs to. */
export function bandsOf(b: Builder, count: number, tall: number, plate: number, extent?: Extent) {
  const h = b.n('layerHeight')
  const each = Math.max(6, Math.round((tall * (extent === 'quick' ? QUICK_BAND : 1)) / h))
  const base = b.n('firstHeight') + (plate - 1) * h
  const layers = b.layers(base + count * each * h)
  const band = (l: Layer) =>
    l.index < plate ? -1 : Math.min(count - 1, Math.floor((l.index - plate) / each))
  const within = (l: Layer) => (l.index - plate) % each
  return { layers, each, base, band, within, tall: each * h, h }
}

/** Ribs on the front of a post: one fewer each band upwards, so that all of them stand on the bed. */
export function ribs(b: Builder, post: Rect, count: number, band: number): void {
  const w = b.width()
  const room = (post.x1 - post.x0 - 2 * w) / Math.max(1, count)
  const apart = Math.min(1.9, room)
  for (let k = 0; k < count - Math.max(0, band); k++) {
    const x = post.x0 + 1.5 * w + k * apart
    b.line([
      [x, post.y0 + w / 2],
      [x, post.y0 - 1.1],
    ])
  }
}
