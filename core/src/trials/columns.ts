import type { SettingKey } from '../recipe/settings'
import { circle, grow, rectPoints, turned, type Builder, type Rect } from './builder'
import type { Laid } from './towers'
import { stepValues, type Cell, type PiecePlan } from './types'

/** Two posts with a gap to string across on every layer. */
export function stringPostsPiece(b: Builder, plan: PiecePlan): Laid {
  const apart = stepValues(plan.steps)[0]
  const side = 10
  const c = b.centre
  const layers = b.layers(10)
  const posts = [-1, 1].map((s): Rect => {
    const x = c.x + (s * apart) / 2
    return { x0: x - side / 2, x1: x + side / 2, y0: c.y - side / 2, y1: c.y + side / 2 }
  })
  const foot: Rect = { x0: posts[0].x0, x1: posts[1].x1, y0: posts[0].y0, y1: posts[0].y1 }
  b.fits(grow(foot, 6), 10)
  b.run(layers, foot, (l) => {
    for (const p of posts)
      if (l.index < 2) b.slab(p, 2)
      else b.walls(p, 2)
  })
  return {
    view: 'front',
    cells: [
      {
        id: 'gap',
        name: 'Between the posts',
        values: { span: apart },
        marks: 0,
        box: { ...foot, z0: 0, z1: layers.at(-1)!.z },
      },
    ],
  }
}

/** Square columns, each with its own pressure compensation: their corners are felt and looked at. */
export function cornerColumns(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const side = Math.max(12, count * 1.6 + 2)
  const { cells, at, foot } = row(b, count, side, 8, 14)
  const layers = b.layers(8)
  b.run(layers, foot, (l) => {
    values.forEach((v, k) => {
      const r = at(k)
      b.use({ [key as SettingKey]: v })
      if (l.index < 2) b.slab(r, 2)
      else b.walls(r, 2)
      pins(b, r, k + 1)
    })
  })
  return {
    view: 'above',
    cells: cells((k) => ({ [key]: values[k] }), layers.at(-1)!.z, 'Column'),
  }
}

/**
 * Columns for the seam: early stop along the row, wipe across it; a round one in front and a square one behind, starts
 * stacked in the lower half and scattered in the upper.
 */
export function seamColumns(b: Builder, plan: PiecePlan): Laid {
  const first = plan.steps
  const second = plan.across
  const a = stepValues(first)
  const c = second ? stepValues(second) : [null]
  const combos = c.flatMap((w) => a.map((e) => ({ e, w })))
  const side = 13
  const layers = b.layers(12)
  const perRow = Math.min(combos.length, Math.max(2, Math.floor((b.machine.bed.width * 0.62) / (side + 7))))
  const rows = Math.ceil(combos.length / perRow)
  const pitch = side + 7
  const deep = 2 * pitch
  const mid = b.centre
  const place = (k: number) => {
    const x = mid.x + ((k % perRow) - (Math.min(perRow, combos.length) - 1) / 2) * pitch
    const y = mid.y + ((rows - 1) / 2 - Math.floor(k / perRow)) * deep
    return { x, front: y - pitch / 2, back: y + pitch / 2 }
  }
  const foot: Rect = {
    x0: mid.x - (Math.min(perRow, combos.length) * pitch) / 2,
    x1: mid.x + (Math.min(perRow, combos.length) * pitch) / 2,
    y0: mid.y - (rows * deep) / 2,
    y1: mid.y + (rows * deep) / 2,
  }
  b.fits(grow(foot, 6), 12)
  const half = layers.length / 2
  b.run(layers, foot, (l) => {
    combos.forEach(({ e, w }, k) => {
      b.use({
        [first.key as SettingKey]: e,
        ...(w !== null && second && { [second.key as SettingKey]: w }),
      })
      const p = place(k)
      const scattered = l.index >= half
      const round = { cx: p.x, cy: p.front }
      const square: Rect = {
        x0: p.x - side / 2,
        x1: p.x + side / 2,
        y0: p.back - side / 2,
        y1: p.back + side / 2,
      }
      // the same scatter in every run: steps of the golden angle
      const turn = scattered ? (l.index * 0.381966) % 1 : 0.75
      const w1 = b.width()
      const s = b.spacing()
      const ring = circle(round.cx, round.cy, side - w1)
      const corners = rectPoints(grow(square, -w1 / 2))
      if (l.index < 2) {
        b.loop(circle(round.cx, round.cy, side - w1 - 2 * s), 'inner')
        b.loop(ring, 'outer')
        b.slab(square, 2)
        b.fill(
          {
            x0: round.cx - side / 3.2,
            x1: round.cx + side / 3.2,
            y0: round.cy - side / 3.2,
            y1: round.cy + side / 3.2,
          },
          'x',
        )
      } else {
        b.loop(circle(round.cx, round.cy, side - w1 - 2 * s), 'inner')
        b.loop(turned(ring, Math.round(turn * ring.length)), 'outer')
        b.loop(rectPoints(grow(square, -w1 / 2 - s)), 'inner')
        b.loop(turned(corners, scattered ? l.index : 0), 'outer')
      }
      pins(
        b,
        { x0: p.x - side / 2, x1: p.x + side / 2, y0: p.front - side / 2, y1: p.front + side / 2 },
        (k % perRow) + 1,
        1.9,
      )
    })
  })
  return {
    view: 'above',
    cells: combos.map(({ e, w }, k): Cell => {
      const p = place(k)
      return {
        id: `column-${k + 1}`,
        name: `Column ${k + 1}`,
        values: { [first.key]: e, ...(w !== null && second && { [second.key]: w }) },
        marks: (k % perRow) + 1,
        box: {
          x0: p.x - side / 2,
          x1: p.x + side / 2,
          y0: p.front - side / 2,
          y1: p.back + side / 2,
          z0: 0,
          z1: layers.at(-1)!.z,
        },
      }
    }),
  }
}

/** Low pins in front of a column: as many as its number. Three layers tall. */
function pins(b: Builder, r: Rect, count: number, apart = 1.6): void {
  if (b.layerIndex > 2) return
  for (let k = 0; k < count; k++)
    b.line([
      [r.x0 + 1 + k * apart, r.y0 - 2.2],
      [r.x0 + 1 + k * apart, r.y0 - 4],
    ])
}

function row(b: Builder, count: number, side: number, tall: number, gap: number) {
  const c = b.centre
  const pitch = side + gap
  const perRow = Math.min(count, Math.max(1, Math.floor((b.machine.bed.width * 0.66) / pitch)))
  const rows = Math.ceil(count / perRow)
  const at = (k: number): Rect => {
    const x = c.x + ((k % perRow) - (perRow - 1) / 2) * pitch
    const y = c.y + ((rows - 1) / 2 - Math.floor(k / perRow)) * pitch
    return { x0: x - side / 2, x1: x + side / 2, y0: y - side / 2, y1: y + side / 2 }
  }
  const foot: Rect = {
    x0: c.x - (perRow * pitch) / 2,
    x1: c.x + (perRow * pitch) / 2,
    y0: c.y - (rows * pitch) / 2,
    y1: c.y + (rows * pitch) / 2,
  }
  b.fits(grow(foot, 6), tall)
  const cells = (values: (k: number) => Cell['values'], top: number, name: string): Cell[] =>
    Array.from({ length: count }, (_, k) => ({
      id: `column-${k + 1}`,
      name: `${name} ${k + 1}`,
      values: values(k),
      marks: k + 1,
      box: { ...at(k), z0: 0, z1: top },
    }))
  return { at, foot, cells }
}
