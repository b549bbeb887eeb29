import { rectangleAround } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, perBed, pins, rowsOf } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import { stepped, type Laid } from '../piece'

/** Square columns, each with its own pressure compensation: their corners are felt and looked at. */
export function cornerColumns(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const side = Math.max(12, count * 1.6 + 2)
  const tall = 8
  const pitch = side + 14
  const rows = rowsOf(b, count, pitch, perBed(b, pitch))
  fitsWithSkirt(b, rows.foot, tall)
  const column = (k: number) => rectangleAround(...rows.at(k), side, side)
  const layers = b.layers(tall)
  b.run(layers, rows.foot, (l) => {
    values.forEach((v, k) => {
      b.use(stepped(key, v))
      if (l.index < 2) b.slab(column(k), 2)
      else b.walls(column(k), 2)
      pins(b, column(k), k + 1)
    })
  })
  return {
    view: 'above',
    cells: values.map((v, k) => ({
      id: `column-${k + 1}`,
      name: `Column ${k + 1}`,
      values: { [key]: v },
      marks: k + 1,
      box: { ...column(k), z0: 0, z1: layers[layers.length - 1].z },
    })),
  }
}
