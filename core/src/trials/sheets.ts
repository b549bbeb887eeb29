import type { SettingKey } from '../recipe/settings'
import { grow, type Builder, type Rect } from './builder'
import type { Laid } from './towers'
import { stepValues, type PiecePlan } from './types'

/** Short ticks beside a place that tell it from the others: as many as its number. */
function ticks(b: Builder, x: number, y: number, count: number): void {
  for (let k = 0; k < count; k++)
    b.line([
      [x + k * 1.6, y],
      [x + k * 1.6, y + 3],
    ])
}

/** One layer: patches of lines side by side at stepped gaps, flows or widths, with a long line and corners round them. */
export function firstLayerSheet(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const columns = Math.ceil(Math.sqrt(count))
  const rows = Math.ceil(count / columns)
  const { bed } = b.machine
  const room = Math.min(bed.width, bed.depth) * (bed.shape === 'round' ? 0.62 : 0.8)
  const side = Math.min(26, (room - 12) / columns - 7)
  if (side < 10) throw new RangeError('This piece is too large for the bed: take fewer steps.')
  const pitch = side + 7
  const c = b.centre
  const foot: Rect = {
    x0: c.x - (columns * pitch) / 2,
    x1: c.x + (columns * pitch) / 2,
    y0: c.y - (rows * pitch) / 2,
    y1: c.y + (rows * pitch) / 2,
  }
  b.fits(grow(foot, 6), 1)
  const patch = (k: number): Rect => {
    const x = foot.x0 + (k % columns) * pitch + 3
    const y = foot.y0 + (rows - 1 - Math.floor(k / columns)) * pitch + 5.5
    return { x0: x, x1: x + side, y0: y, y1: y + side }
  }
  b.run(b.layers(0), foot, () => {
    // long lines and sharp corners, at the recipe's own values
    b.loop(
      [
        [foot.x0, foot.y0],
        [foot.x1, foot.y0],
        [foot.x1, foot.y1],
        [foot.x0, foot.y1],
      ],
      'outer',
    )
    values.forEach((v, k) => {
      const r = patch(k)
      b.use({ [key as SettingKey]: v })
      b.fill(r, 'y')
      b.use({ [key as SettingKey]: b.recipeValue(key as SettingKey) })
      ticks(b, r.x0, r.y0 - 4.2, k + 1)
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
  b.fits(grow(foot, 6), 1)
  const slow = Math.min(20, b.n('firstSpeed'))
  const fast = Math.min(b.machine.limits.speed, Math.max(60, b.n('outerSpeed')))
  const x = [0, 0.25, 0.75, 1].map((t) => c.x - long / 2 + t * long)
  b.run(b.layers(0), foot, () => {
    // a frame to lift it all off by
    b.loop(
      [
        [foot.x0, foot.y0],
        [foot.x1, foot.y0],
        [foot.x1, foot.y1],
        [foot.x0, foot.y1],
      ],
      'outer',
    )
    values.forEach((v, k) => {
      const y = foot.y1 - (k + 0.5) * apart
      b.use({ pressureCompensation: v })
      b.line(
        [
          [x[0], y],
          [x[1], y],
        ],
        'outer',
        { speed: slow },
      )
      b.line(
        [
          [x[1], y],
          [x[2], y],
        ],
        'outer',
        { speed: fast, near: 0.01 },
      )
      b.line(
        [
          [x[2], y],
          [x[3], y],
        ],
        'outer',
        { speed: slow, near: 0.01 },
      )
      for (let m = 0; m <= k; m++)
        b.line([
          [foot.x0 + 2 + m * 1.4, y - 1.2],
          [foot.x0 + 2 + m * 1.4, y + 1.2],
        ])
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

/** Blobs fed into the air at stepped rates, one heap each, to be weighed. */
export function meltRun(b: Builder, plan: PiecePlan): Laid {
  const { count } = plan.steps
  const values = stepValues(plan.steps)
  const volume = 220
  const columns = Math.min(count, 4)
  const rows = Math.ceil(count / columns)
  const pitch = 26
  const c = b.centre
  const spot = (k: number): [number, number] => [
    c.x + ((k % columns) - (columns - 1) / 2) * pitch,
    c.y + ((rows - 1) / 2 - Math.floor(k / columns)) * pitch,
  ]
  const foot: Rect = {
    x0: c.x - (columns * pitch) / 2,
    x1: c.x + (columns * pitch) / 2,
    y0: c.y - (rows * pitch) / 2,
    y1: c.y + (rows * pitch) / 2,
  }
  b.fits(grow(foot, 6), 40)
  b.run(b.layers(0), foot, () => {
    if (b.isDry) return
    values.forEach((v, k) => {
      b.g.travel(...spot(k), 30)
      b.g.purge(volume, v)
      b.seconds += volume / v
    })
  })
  return {
    view: 'above',
    cells: values.map((v, k) => {
      const [x, y] = spot(k)
      return {
        id: `heap-${k + 1}`,
        name: `Heap ${k + 1}`,
        values: { meltRate: v },
        marks: 0,
        measure: 'grams',
        nominal: Number(((volume * b.n('density')) / 1000).toFixed(4)),
        box: { x0: x - 9, x1: x + 9, y0: y - 9, y1: y + 9, z0: 0, z1: 30 },
      }
    }),
  }
}
