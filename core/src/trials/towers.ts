import type { SettingKey } from '../recipe/settings'
import { grow, type Builder, type Layer, type Rect } from './builder'
import { stepValues, type Cell, type PiecePlan, type VariedKey } from './types'

/** What a generator gives back besides the lines it laid. */
export interface Laid {
  cells: Cell[]
  view: 'front' | 'above'
}

/** Where each band of a tower begins and ends, and which band a layer belongs to. */
function bandsOf(b: Builder, count: number, tall: number, plate: number) {
  const h = b.n('layerHeight')
  const each = Math.max(6, Math.round(tall / h))
  const base = b.n('firstHeight') + (plate - 1) * h
  const layers = b.layers(base + count * each * h)
  const band = (l: Layer) =>
    l.index < plate ? -1 : Math.min(count - 1, Math.floor((l.index - plate) / each))
  const within = (l: Layer) => (l.index - plate) % each
  return { layers, each, base, band, within, tall: each * h, h }
}

/** Ribs on the front of a post: one fewer each band upwards, so that all of them stand on the bed. */
function ribs(b: Builder, post: Rect, count: number, band: number): void {
  const w = b.width()
  const room = (post.x1 - post.x0 - 2 * w) / Math.max(1, count)
  const apart = Math.min(1.9, room)
  for (let k = 0; k < count - Math.max(0, band); k++) {
    const x = post.x0 + 1.5 * w + k * apart
    b.line([
      [x, post.y0 + w / 2],
      [x, post.y0 - 1.1],
    ])
  }
}

/**
 * Temperature or fan tower: each band has a fin leaning out by 50°, a gap to string across, a bridge at its top, a
 * slender column, and a thin wall to snap off.
 */
export function heatTower(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const plate = 3
  const t = bandsOf(b, count, 9, plate)
  const c = b.centre
  const post = { w: Math.max(9, count * 1.6 + 2), d: 9, gap: 22 }
  const left: Rect = {
    x0: c.x - post.gap / 2 - post.w,
    x1: c.x - post.gap / 2,
    y0: c.y - post.d / 2,
    y1: c.y + post.d / 2,
  }
  const right: Rect = { x0: c.x + post.gap / 2, x1: c.x + post.gap / 2 + post.w, y0: left.y0, y1: left.y1 }
  const column: Rect = { x0: c.x - 2, x1: c.x + 2, y0: c.y + 15, y1: c.y + 19 }
  const snap = { length: 13, from: right.x1 }
  const reach = 5
  const foot: Rect = {
    x0: left.x0 - reach - 1,
    x1: right.x1 + snap.length + 1,
    y0: left.y0 - 2,
    y1: column.y1 + 1,
  }
  b.fits(grow(foot, 6), t.base + count * t.tall)
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
    { ownFan: true, ownHeat: !isFan },
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

/** Retraction tower: two posts far apart, one length each band; with a second factor, a row of posts for each. */
export function retractionTower(b: Builder, plan: PiecePlan): Laid {
  const { count } = plan.steps
  const values = stepValues(plan.steps)
  const rows = plan.across ? stepValues(plan.across) : [null]
  const plate = 2
  const t = bandsOf(b, count, 5, plate)
  const c = b.centre
  const w = Math.max(8, count * 1.6 + 2)
  const gap = 38
  const deep = 8
  const pitch = 18
  const row = (k: number) => {
    const y = c.y + (k - (rows.length - 1) / 2) * pitch
    return [-1, 1].map((side): Rect => {
      const x = c.x + (side * (gap + w)) / 2
      return { x0: x - w / 2, x1: x + w / 2, y0: y - deep / 2, y1: y + deep / 2 }
    })
  }
  const all = rows.map((_, k) => row(k))
  const foot: Rect = {
    x0: all[0][0].x0 - 2,
    x1: all[0][1].x1 + 2,
    y0: all[0][0].y0 - 3,
    y1: all[rows.length - 1][0].y1 + 2,
  }
  b.fits(grow(foot, 6), t.base + count * t.tall)
  b.use({ retract: true })
  b.run(t.layers, foot, (l) => {
    const band = t.band(l)
    if (l.index < plate) return b.slab(foot, 2)
    all.forEach(([p, q], k) => {
      b.use({
        retractLength: values[band],
        ...(rows[k] !== null && plan.across && { [plan.across.key as SettingKey]: rows[k] }),
      })
      // outer and inner walls apart: the gap is crossed three times a layer
      const inner = -(b.width() / 2 + b.spacing())
      b.walls(p, 1)
      b.walls(q, 1)
      ribs(b, q, count, band)
      for (const post of [p, q]) b.loop(rectOf(grow(post, inner)), 'inner')
    })
  })
  return {
    view: 'front',
    cells: values.flatMap((v, k) =>
      rows.map((r, j) => ({
        id: rows.length > 1 ? `band-${k + 1}-${j + 1}` : `band-${k + 1}`,
        name: rows.length > 1 ? `Band ${k + 1}, row ${j + 1}` : `Band ${k + 1}`,
        values: {
          retractLength: v,
          ...(r !== null && plan.across && { [plan.across.key]: r }),
        } as Partial<Record<VariedKey, number>>,
        marks: count - k,
        box: {
          x0: all[j][0].x0,
          x1: all[j][1].x1,
          y0: all[j][0].y0 - 1.5,
          y1: all[j][0].y1,
          z0: t.base + k * t.tall,
          z1: t.base + (k + 1) * t.tall,
        },
      })),
    ),
  }
}

const rectOf = (r: Rect): [number, number][] => [
  [r.x0, r.y0],
  [r.x1, r.y0],
  [r.x1, r.y1],
  [r.x0, r.y1],
]

/** Fins at stepped outer-wall speeds or accelerations: a long face with two sharp corners, for gloss and ripples. */
export function speedFins(b: Builder, plan: PiecePlan): Laid {
  const { count, key } = plan.steps
  const values = stepValues(plan.steps)
  const plate = 2
  const t = bandsOf(b, count, 7, plate)
  const c = b.centre
  const long = Math.min(60, b.machine.bed.width / 2)
  const body: Rect = { x0: c.x - long / 2, x1: c.x + long / 2, y0: c.y - 12, y1: c.y + 12 }
  const foot = grow(body, 2)
  b.fits(grow(foot, 6), t.base + count * t.tall)
  b.run(
    t.layers,
    foot,
    (l) => {
      if (l.index < plate) return b.slab(foot, 2)
      b.use({ [key as SettingKey]: values[t.band(l)] })
      b.walls(body, 2)
      ribs(b, body, count, t.band(l))
    },
    { slowDown: false },
  )
  return {
    view: 'front',
    cells: values.map((v, k) => ({
      id: `band-${k + 1}`,
      name: `Band ${k + 1}`,
      values: { [key]: v },
      marks: count - k,
      box: { ...body, y0: body.y0 - 1.5, z0: t.base + k * t.tall, z1: t.base + (k + 1) * t.tall },
    })),
  }
}

/** The same column twice: two at a time in the lower half, one alone in the upper. */
export function layerTimePair(b: Builder, plan: PiecePlan): Laid {
  const plate = 2
  const t = bandsOf(b, 2, 12, plate)
  const c = b.centre
  const side = 9
  const columns = [-1, 1].map((s): Rect => {
    const x = c.x + s * 16
    return { x0: x - side / 2, x1: x + side / 2, y0: c.y - side / 2, y1: c.y + side / 2 }
  })
  const foot: Rect = {
    x0: columns[0].x0 - 2,
    x1: columns[1].x1 + 2,
    y0: c.y - side / 2 - 2,
    y1: c.y + side / 2 + 2,
  }
  b.fits(grow(foot, 6), t.base + 2 * t.tall)
  const counts = stepValues(plan.steps)
  b.run(
    t.layers,
    foot,
    (l) => {
      if (l.index < plate) return b.slab(foot, 2)
      const both = t.band(l) === 0
      columns.forEach((r, k) => {
        if (k === 0 || both) b.slab(r, 2)
      })
    },
    { slowDown: false },
  )
  return {
    view: 'front',
    cells: [2, 1].map((posts, k) => ({
      id: `band-${k + 1}`,
      name: posts === 2 ? 'Two at a time (lower half)' : 'Alone (upper half)',
      values: { posts: counts[k] ?? posts },
      marks: 0,
      box: { ...columns[0], z0: t.base + k * t.tall, z1: t.base + (k + 1) * t.tall },
    })),
  }
}
