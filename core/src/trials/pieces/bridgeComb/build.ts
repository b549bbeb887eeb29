import type { Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** Bars over gaps of stepped width, on a comb of pillars. */
export function bridgeComb(b: Builder, plan: PiecePlan): Laid {
  const spans = stepValues(plan.steps)
  const pillar = 6
  const deep = 8
  const layers = b.layers(9)
  const bridge = layers.length - 3
  const widest = Math.max(...spans)
  const c = b.centre
  const pitch = deep + 6
  const lane = (k: number) => {
    const y = c.y + ((spans.length - 1) / 2 - k) * pitch
    const left: Rect = {
      x0: c.x - spans[k] / 2 - pillar,
      x1: c.x - spans[k] / 2,
      y0: y - deep / 2,
      y1: y + deep / 2,
    }
    const right: Rect = { x0: c.x + spans[k] / 2, x1: c.x + spans[k] / 2 + pillar, y0: left.y0, y1: left.y1 }
    return { left, right }
  }
  const foot: Rect = {
    x0: c.x - widest / 2 - pillar - 8,
    x1: c.x + widest / 2 + pillar,
    y0: c.y - (spans.length * pitch) / 2,
    y1: c.y + (spans.length * pitch) / 2,
  }
  fitsWithSkirt(b, foot, 9)
  b.run(layers, foot, (l) => {
    spans.forEach((_, k) => {
      const { left, right } = lane(k)
      for (const p of [left, right])
        if (l.index < 2) b.slab(p, 2)
        else b.walls(p, 2)
      if (l.index < 3)
        for (let m = 0; m <= k; m++)
          b.line([
            [left.x0 - 2 - m * 1.4, left.y0 + 2],
            [left.x0 - 2 - m * 1.4, left.y1 - 2],
          ])
      if (l.index >= bridge) {
        const w = b.width()
        const over: Rect = { x0: left.x1 - 3 * w, x1: right.x0 + 3 * w, y0: left.y0 + 1, y1: left.y1 - 1 }
        b.fan(b.n('fanBridge'))
        b.fill(over, 'x', l.index === bridge ? 'bridge' : 'solid')
        b.overAir({ ...over, z0: l.z - l.h, z1: l.z })
        b.fan(b.n('fan'))
      }
    })
  })
  return {
    view: 'above',
    cells: spans.map((span, k) => {
      const { left, right } = lane(k)
      return {
        id: `bridge-${k + 1}`,
        name: `Bridge ${k + 1}`,
        values: { span },
        marks: k + 1,
        box: { x0: left.x0, x1: right.x1, y0: left.y0, y1: left.y1, z0: 0, z1: layers.at(-1)!.z },
      }
    }),
  }
}
