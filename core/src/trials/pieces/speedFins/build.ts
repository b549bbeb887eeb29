import { grow, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { bandsOf, ribs } from '../../shared/bands'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import { stepped, type Laid } from '../piece'

/** Fins at stepped outer-wall speeds or accelerations: a long face with two sharp corners, for gloss and ripples. */
export function speedFins(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const plate = 2
  const t = bandsOf(b, count, 7, plate, plan.extent)
  const c = b.centre
  const long = Math.min(60, b.machine.bed.width / 2)
  const body: Rect = { x0: c.x - long / 2, x1: c.x + long / 2, y0: c.y - 12, y1: c.y + 12 }
  const foot = grow(body, 2)
  fitsWithSkirt(b, foot, t.base + count * t.tall)
  b.run(
    t.layers,
    foot,
    (l) => {
      if (l.index < plate) return b.slab(foot, 2)
      const value = values[t.band(l)]
      b.use({ ...stepped(key, value), ...(key === 'outerAcceleration' && { innerAcceleration: value }) })
      b.walls(body, 2)
      ribs(b, body, count, t.band(l))
    },
    { slowDown: false, bases: [foot] },
  )
  return {
    view: 'front',
    cells: values.map((v, k) => ({
      id: `band-${k + 1}`,
      name: `Band ${k + 1}`,
      values: { [key]: v },
      marks: count - k,
      box: { ...body, y0: body.y0 - 1.5, z0: t.base + k * t.tall, z1: t.base + (k + 1) * t.tall },
    })),
  }
}
