import { grow, rectanglePoints, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { bandsOf, ribs } from '../../shared/bands'
import { fitsWithSkirt } from '../../shared/rows'
import { stepValues, type Cell, type PiecePlan } from '../../types'
import { stepped, type Laid } from '../piece'

/** Retraction tower: two posts far apart, one length each band; with a second factor, a row of posts for each. */
export function retractionTower(b: Builder, plan: PiecePlan): Laid {
  const { count } = plan.steps
  const values = stepValues(plan.steps)
  const rows = plan.across ? stepValues(plan.across) : [null]
  const plate = 2
  const t = bandsOf(b, count, 5, plate, plan.extent)
  const c = b.centre
  const w = Math.max(8, count * 1.6 + 2)
  const gap = 38
  const deep = b.stout ? 12 : 8
  const pitch = 18
  const row = (k: number) => {
    const y = c.y + (k - (rows.length - 1) / 2) * pitch
    return [-1, 1].map((side): Rect => {
      const x = c.x + (side * (gap + w)) / 2
      return { x0: x - w / 2, x1: x + w / 2, y0: y - deep / 2, y1: y + deep / 2 }
    })
  }
  const all = rows.map((_, k) => row(k))
  const foot: Rect = {
    x0: all[0][0].x0 - 2,
    x1: all[0][1].x1 + 2,
    y0: all[0][0].y0 - 3,
    y1: all[rows.length - 1][0].y1 + 2,
  }
  fitsWithSkirt(b, foot, t.base + count * t.tall)
  b.use({ retract: true })
  b.run(
    t.layers,
    foot,
    (l) => {
      const band = t.band(l)
      if (l.index < plate) return b.slab(foot, 2)
      all.forEach(([p, q], k) => {
        b.use({
          retractLength: values[band],
          ...(rows[k] !== null && plan.across && stepped(plan.across.key, rows[k])),
        })
        // outer and inner walls apart: the gap is crossed three times a layer
        const inner = -(b.width() / 2 + b.spacing())
        b.walls(p, 1)
        b.walls(q, 1)
        ribs(b, q, count, band)
        for (const post of [p, q]) b.loop(rectanglePoints(grow(post, inner)), 'inner')
      })
    },
    { bases: [foot] },
  )
  return {
    view: 'front',
    cells: values.flatMap((v, k) =>
      rows.map((r, j) => ({
        id: rows.length > 1 ? `band-${k + 1}-${j + 1}` : `band-${k + 1}`,
        name: rows.length > 1 ? `Band ${k + 1}, row ${j + 1}` : `Band ${k + 1}`,
        values: {
          retractLength: v,
          ...(r !== null && plan.across && { [plan.across.key]: r }),
        } as Cell['values'],
        marks: count - k,
        box: {
          x0: all[j][0].x0,
          x1: all[j][1].x1,
          y0: all[j][0].y0 - 1.5,
          y1: all[j][0].y1,
          z0: t.base + k * t.tall,
          z1: t.base + (k + 1) * t.tall,
        },
      })),
    ),
  }
}
