import type { Rect } from '../../geometry/shapes'
import type { Builder } from '../../planner/builder'
import type { Laid } from '../pieces/piece'
import { stepValues, type PiecePlan } from '../types'
import { bandsOf, ribs } from './bands'
import { fitsWithSkirt } from './rows'

/**
 * Temperature or fan tower: each band has a fin leaning out by 50°, a gap to string across, a bridge at its top, a
 * slender column, and a thin wall to snap off.
 */
export function heatTower(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const plate = 3
  const t = bandsOf(b, count, 9, plate, plan.extent)
  const c = b.centre
  const post = { w: Math.max(b.stout ? 13 : 9, count * 1.6 + 2), d: b.stout ? 13 : 9, gap: 22 }
  const slender = b.stout ? 4 : 2
  const left: Rect = {
    x0: c.x - post.gap / 2 - post.w,
    x1: c.x - post.gap / 2,
    y0: c.y - post.d / 2,
    y1: c.y + post.d / 2,
  }
  const right: Rect = { x0: c.x + post.gap / 2, x1: c.x + post.gap / 2 + post.w, y0: left.y0, y1: left.y1 }
  const column: Rect = { x0: c.x - slender, x1: c.x + slender, y0: c.y + 15, y1: c.y + 15 + 2 * slender }
  const snap = { length: 13, from: right.x1 }
  const reach = 5
  const foot: Rect = {
    x0: left.x0 - reach - 1,
    x1: right.x1 + snap.length + 1,
    y0: left.y0 - 2,
    y1: column.y1 + 1,
  }
  fitsWithSkirt(b, foot, t.base + count * t.tall)
  const lean = Math.tan((50 * Math.PI) / 180)
  const isFan = key === 'fan'
  b.run(
    t.layers,
    foot,
    (l) => {
      const band = t.band(l)
      if (band >= 0) {
        if (isFan) b.use({ fan: values[band], fanBridge: values[band], fanOverhang: values[band] })
        else if (l.index > 0 && t.within(l) === 0) b.heat(values[band])
      }
      if (l.index < plate) {
        b.fan(b.n('fan'))
        b.slab(foot, 2)
        return
      }
      b.fan(isFan ? values[band] : b.n('fan'))
      const top = t.within(l) >= t.each - 3
      b.walls(left, 2)
      // the fin grows out of the post's left face and ends where the next band begins
      const out = Math.min(reach, (t.within(l) + 1) * t.h * lean)
      const w = b.width()
      b.line([
        [left.x0 + w / 2, left.y0 + w / 2 + 1],
        [left.x0 - out + w / 2, left.y0 + w / 2 + 1],
        [left.x0 - out + w / 2, left.y1 - w / 2 - 1],
        [left.x0 + w / 2, left.y1 - w / 2 - 1],
      ])
      if (out > 0)
        b.overAir({ x0: left.x0 - reach - 1, x1: left.x0 + 1, y0: left.y0, y1: left.y1, z0: t.base, z1: l.z })
      b.walls(right, 2)
      ribs(b, right, count, band)
      b.walls(
        {
          x0: snap.from - w / 2,
          x1: snap.from + snap.length,
          y0: c.y - b.spacing() / 2 - w / 2,
          y1: c.y + b.spacing() / 2 + w / 2,
        },
        1,
      )
      b.walls(column, 2)
      if (top) {
        const over: Rect = { x0: left.x1 - 2 * w, x1: right.x0 + 2 * w, y0: c.y - 2, y1: c.y + 2 }
        if (!isFan) b.fan(b.n('fanBridge'))
        b.fill(over, 'x', t.within(l) === t.each - 3 ? 'bridge' : 'solid')
        b.overAir({ ...over, z0: l.z - t.h, z1: l.z })
      }
    },
    { ownFan: true, ownHeat: !isFan, bases: [foot] },
  )
  return {
    view: 'front',
    cells: values.map((v, k) => ({
      id: `band-${k + 1}`,
      name: `Band ${k + 1}`,
      values: { [key]: v },
      marks: count - k,
      box: {
        x0: foot.x0,
        x1: foot.x1,
        y0: foot.y0,
        y1: foot.y1,
        z0: t.base + k * t.tall,
        z1: t.base + (k + 1) * t.tall,
      },
    })),
  }
}
