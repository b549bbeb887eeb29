import type { Rect } from '../../../geometry/shapes'
import type { Builder } from '../../../planner/builder'
import { fitsWithSkirt, ticks } from '../../shared/rows'
import { stepValues, type Cell, type PiecePlan } from '../../types'
import type { Laid } from '../piece'

/** A box of so many walls, open at the top, to be measured with calipers; and strips of solid layers at stepped flows. */
export function flowBox(b: Builder, plan: PiecePlan): Laid {
  const values = stepValues(plan.steps)
  const walls = Math.round(plan.across ? plan.across.from : 2)
  const side = 30
  const strip = { w: 9, d: 20 }
  const c = b.centre
  const wide = side + 12 + values.length * (strip.w + 3)
  const box: Rect = { x0: c.x - wide / 2, x1: c.x - wide / 2 + side, y0: c.y - side / 2, y1: c.y + side / 2 }
  const strips = values.map((_, k): Rect => {
    const x = box.x1 + 12 + k * (strip.w + 3)
    return { x0: x, x1: x + strip.w, y0: c.y - strip.d / 2, y1: c.y + strip.d / 2 }
  })
  const foot: Rect = { x0: box.x0, x1: strips.at(-1)?.x1 ?? box.x1, y0: box.y0, y1: box.y1 }
  fitsWithSkirt(b, foot, 12)
  const layers = b.layers(12)
  const padLayers = 6
  let nominal = 0
  b.run(layers, foot, (l) => {
    b.walls(box, walls, l.index % 4)
    if (!l.first) nominal = b.width() + (walls - 1) * b.spacing()
    if (l.index < padLayers)
      strips.forEach((r, k) => {
        b.use({ flowSolid: values[k] })
        b.slab(r, 1)
        // ticks on the first layer in front of each strip
        if (l.first) ticks(b, r.x0 + 1, r.y0 - 4.5, k + 1, 1.5, 2)
      })
  })
  return {
    view: 'above',
    cells: [
      {
        id: 'box',
        name: `Box of ${walls} ${walls === 1 ? 'wall' : 'walls'}`,
        values: { flow: b.given.flow },
        marks: 0,
        measure: 'wall',
        nominal: Number(nominal.toFixed(4)),
        box: { ...box, z0: 0, z1: layers.at(-1)!.z },
      },
      ...strips.map((r, k): Cell => ({
        id: `strip-${k + 1}`,
        name: `Strip ${k + 1}`,
        values: { flowSolid: values[k] },
        marks: k + 1,
        box: { ...r, z0: 0, z1: layers[Math.min(padLayers, layers.length) - 1].z },
      })),
    ],
  }
}
