import { rectangleAround } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, perBed, rowsOf, ticks } from '../../shared/rows'
import { stepValues, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

const PIN = 8
const WALL = 4
const TALL = 8

/** Pins in sockets with stepped gaps, printed in place. */
export function jointLadder(b: Builder, plan: PiecePlan): Laid {
  const gaps = stepValues(plan.steps)
  const layers = b.layers(TALL)
  const outer = (gap: number) => PIN + 2 * gap + 2 * WALL
  const pitch = outer(Math.max(...gaps)) + 8
  const rows = rowsOf(b, gaps.length, pitch, perBed(b, pitch))
  fitsWithSkirt(b, rows.foot, TALL)
  b.run(layers, rows.foot, (l) => {
    gaps.forEach((gap, k) => {
      const [x, y] = rows.at(k)
      const r = outer(gap) / 2
      b.rings(x, y, PIN, 3)
      b.rings(x, y, PIN + 2 * gap, 2, true)
      b.rings(x, y, outer(gap), 2)
      if (l.index < 3) ticks(b, x - r, y - r - 3.4, k + 1, 1.4, 2)
    })
  })
  return {
    view: 'above',
    cells: gaps.map((gap, k) => ({
      id: `joint-${k + 1}`,
      name: `Joint ${k + 1}`,
      values: { gap },
      marks: k + 1,
      box: {
        ...rectangleAround(...rows.at(k), outer(gap), outer(gap)),
        z0: 0,
        z1: layers[layers.length - 1].z,
      },
    })),
  }
}
