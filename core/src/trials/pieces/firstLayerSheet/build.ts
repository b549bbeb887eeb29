import type { PrintSettings } from '../../../gcode/printSettings'
import { rectangleAround, rectanglePoints, type Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { PlanError, planFault } from '../../../planner/planError'
import { fitsWithSkirt, ticks } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import { stepped, type Laid } from '../piece'

/** Smallest patch that can be judged, mm. */
const LEAST_SIDE = 10

/** One layer: patches of lines side by side at stepped gaps, flows or widths, with a long line and corners round them. */
export function firstLayerSheet(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const columns = Math.ceil(Math.sqrt(count))
  const rows = Math.ceil(count / columns)
  const { bed } = b.machine
  const room = Math.min(bed.width, bed.depth) * (bed.shape === 'round' ? 0.62 : 0.8)
  const side = Math.min(26, (room - 12) / columns - 7)
  if (side < LEAST_SIDE) throw new PlanError(planFault('part-too-wide'))
  const pitch = side + 7
  const c = b.centre
  const foot = rectangleAround(c.x, c.y, columns * pitch, rows * pitch)
  fitsWithSkirt(b, foot, 1)
  const patch = (k: number): Rect => {
    const x = foot.x0 + (k % columns) * pitch + 3
    const y = foot.y0 + (rows - 1 - Math.floor(k / columns)) * pitch + 5.5
    return { x0: x, x1: x + side, y0: y, y1: y + side }
  }
  const own = Number(b.given[key as keyof PrintSettings])
  b.run(b.layers(0), foot, () => {
    // long lines and sharp corners, at the recipe's own values
    b.loop(rectanglePoints(foot), 'outer')
    values.forEach((v, k) => {
      const r = patch(k)
      b.use(stepped(key, v))
      b.fill(r, 'y')
      b.use(stepped(key, own))
      ticks(b, r.x0, r.y0 - 4.2, k + 1, 1.6, 3)
    })
  })
  return {
    view: 'above',
    cells: values.map((v, k) => ({
      id: `patch-${k + 1}`,
      name: `Patch ${k + 1}`,
      values: { [key]: v },
      marks: k + 1,
      box: { ...patch(k), z0: 0, z1: b.n('firstHeight') },
    })),
  }
}
