import { grow, rectangleAround, rectanglePoints, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type Cell, type PiecePlan } from '../../types'
import type { SizeAxis } from '../../../measurement/types'
import type { Laid } from '../piece'

/** Heights of the stair, mm, and the side of the square. */
const STAIR = [5, 8, 12]
const SQUARE = 30

/**
 * Size plate, after the vocabulary of ISO/ASTM 52902 (linear accuracy, circularity): bars of stepped length along both
 * axes, frames to measure inside, discs and bores, a stair of heights, a square with its diagonals, and the base of the longest
 * bars beside their upper part. It is laid as it is drawn, whatever corrections the recipe has: what it shows is the whole
 * of them.
 */
export function sizePlate(b: Builder, plan: PiecePlan): Laid {
  const lengths = stepValues(plan.steps)
  const thick = 7
  const gap = 4
  const layers = b.layers(STAIR[STAIR.length - 1])
  const low = (z: number, top: number) => z <= top + 1e-6
  const longest = Math.max(...lengths)
  const c = b.centre
  const n = lengths.length
  const block = n * (thick + gap)
  const inside = [8, 14, 20]
  const rounds = [6, 10, 16]
  const wide = longest + 8 + block
  const tall = Math.max(block + 32 + SQUARE, longest + 4)
  const foot: Rect = { x0: c.x - wide / 2, x1: c.x + wide / 2, y0: c.y - tall / 2, y1: c.y + tall / 2 }
  fitsWithSkirt(b, foot, STAIR[STAIR.length - 1])
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
  // a square behind the frames, and beside it blocks of stepped height
  const backY = y + 17
  const square: Rect = { x0: foot.x0, x1: foot.x0 + SQUARE, y0: backY, y1: backY + SQUARE }
  const stair = STAIR.map((_, k): Rect => ({
    x0: square.x1 + 6 + k * 15,
    x1: square.x1 + 6 + k * 15 + 10,
    y0: backY,
    y1: backY + 10,
  })).filter((r) => r.x1 < room + gap)
  // the top of the layer that a height ends on
  const topOf = (height: number) => layers.filter((l) => low(l.z, height + b.n('layerHeight') / 2)).at(-1)!.z
  const z1 = topOf(STAIR[0])
  b.run(layers, foot, (l) => {
    stair.forEach((r, k) => {
      if (low(l.z, topOf(STAIR[k]))) b.slab(r, 2)
    })
    if (!low(l.z, z1)) return
    b.walls(square, 2)
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
    axis: SizeAxis,
    more: Partial<Cell> = {},
  ): Cell => ({
    id,
    name,
    values: { length: nominal },
    marks: 0,
    nominal: Number(nominal.toFixed(3)),
    measure,
    axis,
    box: { ...box, z0: 0, z1 },
    ...more,
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
          size(`bore-${k + 1}`, `Bore ${r.d}`, rect, r.d, 'inside', 'x', { round: true }),
          size(`disc-${k + 1}`, `Disc ${r.d + 6}`, rect, r.d + 6, 'outside', 'x', { round: true }),
        ]
      }),
      size('base-x', `Bar ${longest} along X, at the bed`, barX(n - 1), longest, 'outside', 'x', {
        base: true,
      }),
      size('base-y', `Bar ${longest} along Y, at the bed`, barY(n - 1), longest, 'outside', 'y', {
        base: true,
      }),
      ...(['d1', 'd2'] as const).map((axis) =>
        size(
          `square-${axis}`,
          `Square, corner to corner ${axis === 'd1' ? 'at 45°' : 'at 135°'}`,
          square,
          SQUARE * Math.SQRT2,
          'outside',
          axis,
        ),
      ),
      ...stair.map((r, k) => {
        const top = topOf(STAIR[k])
        return size(`height-${k + 1}`, `Block ${STAIR[k]} high`, r, top, 'outside', 'z', {
          box: { ...r, z0: 0, z1: top },
        })
      }),
    ],
  }
}
