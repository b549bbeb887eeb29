import type { Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** Two posts with a gap to string across on every layer. */
export function stringPosts(b: Builder, plan: PiecePlan): Laid {
  const apart = stepValues(plan.steps)[0]
  const side = b.stout ? 14 : 10
  const c = b.centre
  const layers = b.layers(10)
  const posts = [-1, 1].map((s): Rect => {
    const x = c.x + (s * apart) / 2
    return { x0: x - side / 2, x1: x + side / 2, y0: c.y - side / 2, y1: c.y + side / 2 }
  })
  const foot: Rect = { x0: posts[0].x0, x1: posts[1].x1, y0: posts[0].y0, y1: posts[0].y1 }
  fitsWithSkirt(b, foot, 10)
  b.run(
    layers,
    foot,
    (l) => {
      for (const p of posts)
        if (l.index < 2) b.slab(p, 2)
        else b.walls(p, 2)
    },
    { bases: posts },
  )
  return {
    view: 'front',
    cells: [
      {
        id: 'gap',
        name: 'Between the posts',
        values: { span: apart },
        marks: 0,
        box: { ...foot, z0: 0, z1: layers.at(-1)!.z },
      },
    ],
  }
}
