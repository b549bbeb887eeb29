import { rectanglePoints, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, ticks } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** Lines of one layer, slow, fast and slow again, each with its own pressure compensation. */
export function pressureLines(b: Builder, plan: PiecePlan): Laid {
  const { count } = plan.steps
  const values = stepValues(plan.steps)
  const { bed } = b.machine
  const long = Math.min(120, bed.width * (bed.shape === 'round' ? 0.6 : 0.75))
  const apart = 5
  const c = b.centre
  const foot: Rect = {
    x0: c.x - long / 2 - 16,
    x1: c.x + long / 2,
    y0: c.y - (count * apart) / 2,
    y1: c.y + (count * apart) / 2,
  }
  fitsWithSkirt(b, foot, 1)
  const slow = Math.min(20, b.n('firstSpeed'))
  const fast = Math.min(b.machine.limits.speed, Math.max(60, b.n('outerSpeed')))
  const x = [0, 0.25, 0.75, 1].map((t) => c.x - long / 2 + t * long)
  b.run(b.layers(0), foot, () => {
    // a frame to lift it all off by
    b.loop(rectanglePoints(foot), 'outer')
    values.forEach((v, k) => {
      const y = foot.y1 - (k + 0.5) * apart
      b.use({ pressureCompensation: v })
      const stretch = (from: number, speed: number) =>
        b.line(
          [
            [x[from], y],
            [x[from + 1], y],
          ],
          'outer',
          { speed, ...(from > 0 && { near: 0.01 }) },
        )
      stretch(0, slow)
      stretch(1, fast)
      stretch(2, slow)
      ticks(b, foot.x0 + 2, y - 1.2, k + 1, 1.4, 2.4)
    })
  })
  return {
    view: 'above',
    cells: values.map((v, k) => {
      const y = foot.y1 - (k + 0.5) * apart
      return {
        id: `line-${k + 1}`,
        name: `Line ${k + 1}`,
        values: { pressureCompensation: v },
        marks: k + 1,
        box: { x0: x[0], x1: x[3], y0: y - 1, y1: y + 1, z0: 0, z1: b.n('firstHeight') },
      }
    }),
  }
}
