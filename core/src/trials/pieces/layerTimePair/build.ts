import type { Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { bandsOf } from '../../shared/bands'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** The same column twice: two at a time in the lower half, one alone in the upper. */
export function layerTimePair(b: Builder, plan: PiecePlan): Laid {
  const plate = 2
  const t = bandsOf(b, 2, 12, plate)
  const c = b.centre
  const side = 9
  const columns = [-1, 1].map((s): Rect => {
    const x = c.x + s * 16
    return { x0: x - side / 2, x1: x + side / 2, y0: c.y - side / 2, y1: c.y + side / 2 }
  })
  const foot: Rect = {
    x0: columns[0].x0 - 2,
    x1: columns[1].x1 + 2,
    y0: c.y - side / 2 - 2,
    y1: c.y + side / 2 + 2,
  }
  fitsWithSkirt(b, foot, t.base + 2 * t.tall)
  const counts = stepValues(plan.steps)
  b.run(
    t.layers,
    foot,
    (l) => {
      if (l.index < plate) return b.slab(foot, 2)
      const both = t.band(l) === 0
      columns.forEach((r, k) => {
        if (k === 0 || both) b.slab(r, 2)
      })
    },
    { slowDown: false, bases: [foot] },
  )
  return {
    view: 'front',
    cells: [2, 1].map((posts, k) => ({
      id: `band-${k + 1}`,
      name: posts === 2 ? 'Two at a time (lower half)' : 'Alone (upper half)',
      values: { posts: counts[k] ?? posts },
      marks: 0,
      box: { ...columns[0], z0: t.base + k * t.tall, z1: t.base + (k + 1) * t.tall },
    })),
  }
}
