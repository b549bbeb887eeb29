import { rectangleAround } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, rowsOf } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** Plastic in a heap, mm³. */
const VOLUME = 220
const PITCH = 26
/** Height the plastic falls from, mm. */
const ABOVE = 30

/** Heaps fed into the air at stepped rates, to be weighed. */
export function meltRateRun(b: Builder, plan: PiecePlan): Laid {
  const values = stepValues(plan.steps)
  const rows = rowsOf(b, values.length, PITCH, 4)
  fitsWithSkirt(b, rows.foot, ABOVE + 10)
  b.run(b.layers(0), rows.foot, () => {
    if (b.isDry) return
    values.forEach((v, k) => {
      b.g.travel(...rows.at(k), ABOVE)
      b.g.purge(VOLUME, v)
      b.seconds += VOLUME / v
    })
  })
  return {
    view: 'above',
    cells: values.map((v, k) => ({
      id: `heap-${k + 1}`,
      name: `Heap ${k + 1}`,
      values: { meltRate: v },
      marks: 0,
      measure: 'grams',
      nominal: Number(((VOLUME * b.n('density')) / 1000).toFixed(4)),
      box: { ...rectangleAround(...rows.at(k), 18, 18), z0: 0, z1: ABOVE },
    })),
  }
}
