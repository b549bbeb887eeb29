import { grow, rectangleAround, rectanglePoints, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type Cell, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/**
 * Size plate, after the vocabulary of ISO/ASTM 52902 (linear accuracy, circularity): bars of stepped length along both
 * axes, frames to measure inside, discs and bores.
 */
export function sizePlate(b: Builder, plan: PiecePlan): Laid {
  const lengths = stepValues(plan.steps)
  const thick = 7
  const gap = 4
  const layers = b.layers(5)
  const longest = Math.max(...lengths)
  const c = b.centre
  const n = lengths.length
  const block = n * (thick + gap)
  const inside = [8, 14, 20]
  const rounds = [6, 10, 16]
  const wide = longest + 8 + block
  const tall = Math.max(block + 30, longest + 4)
  const foot: Rect = { x0: c.x - wide / 2, x1: c.x + wide / 2, y0: c.y - tall / 2, y1: c.y + tall / 2 }
  fitsWithSkirt(b, foot, 5)
  const barX = (k: number): Rect => {
    const y = foot.y0 + k * (thick + gap)
    return { x0: foot.x0, x1: foot.x0 + lengths[k], y0: y, y1: y + thick }
  }
  const barY = (k: number): Rect => {
    const x = foot.x1 - block + k * (thick + gap) + gap
    return { x0: x, x1: x + thick, y0: foot.y0, y1: foot.y0 + lengths[k] }
  }
  // frames and rounds in a row behind the bars along x
  let x = foot.x0
  const y = foot.y0 + block + 14
  const frames = inside.map((s): Rect => {
    const r = { x0: x, x1: x + s + 6, y0: y - (s + 6) / 2, y1: y + (s + 6) / 2 }
    x += s + 6 + gap
    return r
  })
  const room = foot.x1 - block - gap
  const discs = rounds
    .map((d) => {
      const r = { cx: x + (d + 6) / 2, cy: y, d }
      x += d + 6 + gap
      return r
    })
    .filter((r) => r.cx + (r.d + 6) / 2 < room)
  const kept = frames.filter((r) => r.x1 < room)
  const z1 = layers.at(-1)!.z
  b.run(layers, foot, () => {
    for (let k = 0; k < n; k++) {
      b.slab(barX(k), 2)
      b.slab(barY(k), 2)
    }
    for (const r of kept) {
      const hole = grow(r, -3)
      b.walls(r, 2)
      const w = b.width()
      const s = b.spacing()
      // inside faces: beads stand outside of the drawn edge
      for (const k of [1, 0]) b.loop(rectanglePoints(grow(hole, w / 2 + k * s)), k ? 'inner' : 'outer')
    }
    for (const r of discs) {
      b.rings(r.cx, r.cy, r.d + 6, 2)
      b.rings(r.cx, r.cy, r.d, 2, true)
    }
  })
  const size = (
    id: string,
    name: string,
    box: Rect,
    nominal: number,
    measure: 'outside' | 'inside',
    axis: 'x' | 'y',
  ): Cell => ({
    id,
    name,
    values: { length: nominal },
    marks: 0,
    nominal: Number(nominal.toFixed(3)),
    measure,
    axis,
    box: { ...box, z0: 0, z1 },
  })
  return {
    view: 'above',
    cells: [
      ...lengths.map((l, k) => size(`x-${k + 1}`, `Bar ${l} along X`, barX(k), l, 'outside', 'x')),
      ...lengths.map((l, k) => size(`y-${k + 1}`, `Bar ${l} along Y`, barY(k), l, 'outside', 'y')),
      ...kept.flatMap((r, k) => [
        size(`frame-${k + 1}-x`, `Frame ${inside[k]}, inside along X`, r, inside[k], 'inside', 'x'),
        size(`frame-${k + 1}-y`, `Frame ${inside[k]}, inside along Y`, r, inside[k], 'inside', 'y'),
      ]),
      ...discs.flatMap((r, k) => {
        const rect = rectangleAround(r.cx, r.cy, r.d + 6, r.d + 6)
        return [
          size(`bore-${k + 1}`, `Bore ${r.d}`, rect, r.d, 'inside', 'x'),
          size(`disc-${k + 1}`, `Disc ${r.d + 6}`, rect, r.d + 6, 'outside', 'x'),
        ]
      }),
      {
        id: 'height',
        name: 'Height of a bar',
        values: { length: Number(z1.toFixed(3)) },
        marks: 0,
        nominal: Number(z1.toFixed(3)),
        measure: 'outside',
        axis: 'z',
        box: { ...barX(n - 1), z0: 0, z1 },
      },
    ],
  }
}
