import { circlePoints, grow, rectangleAround, rectanglePoints, startedAt } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, pins, rowsOf } from '../../shared/rows'
import { stepValues, type Cell, type PiecePlan } from '../../types'
import { stepped, type Laid } from '../piece'

const SIDE = 13
const TALL = 12
/** The same scatter in every run: steps of the golden angle, in turns. */
const GOLDEN = 0.381966

/**
 * Columns for the seam: early stop along the row, wipe across it; a round one in front and a square one behind, starts
 * stacked in the lower half and scattered in the upper.
 */
export function seamColumns(b: Builder, plan: PiecePlan): Laid {
  const { steps, across } = plan
  const firsts = stepValues(steps)
  const seconds = across ? stepValues(across) : [null]
  const combos = seconds.flatMap((second) => firsts.map((first) => ({ first, second })))
  const pitch = SIDE + 7
  const most = Math.max(2, Math.floor((b.machine.bed.width * 0.62) / pitch))
  const rows = rowsOf(b, combos.length, pitch, most, 2 * pitch)
  fitsWithSkirt(b, rows.foot, TALL)
  const round = (k: number): readonly [number, number] => [rows.at(k)[0], rows.at(k)[1] - pitch / 2]
  const front = (k: number) => rectangleAround(...round(k), SIDE, SIDE)
  const square = (k: number) => rectangleAround(rows.at(k)[0], rows.at(k)[1] + pitch / 2, SIDE, SIDE)
  const layers = b.layers(TALL)
  const half = layers.length / 2
  b.run(layers, rows.foot, (l) => {
    combos.forEach(({ first, second }, k) => {
      b.use({
        ...stepped(steps.key, first),
        ...(second !== null && across && stepped(across.key, second)),
      })
      const scattered = l.index >= half
      const w = b.width()
      const s = b.spacing()
      const [x, y] = round(k)
      const ring = circlePoints(x, y, SIDE - w)
      b.loop(circlePoints(x, y, SIDE - w - 2 * s), 'inner')
      if (l.index < 2) {
        b.loop(ring, 'outer')
        b.slab(square(k), 2)
        b.fill(rectangleAround(x, y, SIDE / 1.6, SIDE / 1.6), 'x')
      } else {
        const turn = scattered ? (l.index * GOLDEN) % 1 : 0.75
        b.loop(startedAt(ring, Math.round(turn * ring.length)), 'outer')
        b.loop(rectanglePoints(grow(square(k), -w / 2 - s)), 'inner')
        b.loop(startedAt(rectanglePoints(grow(square(k), -w / 2)), scattered ? l.index : 0), 'outer')
      }
      pins(b, front(k), (k % rows.perRow) + 1, 1.9)
    })
  })
  return {
    view: 'above',
    cells: combos.map(({ first, second }, k): Cell => ({
      id: `column-${k + 1}`,
      name: `Column ${k + 1}`,
      values: { [steps.key]: first, ...(second !== null && across && { [across.key]: second }) },
      marks: (k % rows.perRow) + 1,
      box: { ...front(k), y1: square(k).y1, z0: 0, z1: layers[layers.length - 1].z },
    })),
  }
}
