import { grow, type Builder, type Rect } from './builder'
import type { Laid } from './towers'
import { stepValues, type Cell, type PiecePlan } from './types'

/** A box of so many walls, open at the top, to be measured with calipers; and strips of solid fill at stepped flows. */
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
  b.fits(grow(foot, 6), 12)
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
        if (l.first)
          for (let m = 0; m <= k; m++)
            b.line([
              [r.x0 + 1 + m * 1.5, r.y0 - 2.5],
              [r.x0 + 1 + m * 1.5, r.y0 - 4.5],
            ])
      })
  })
  return {
    view: 'above',
    cells: [
      {
        id: 'box',
        name: `Box of ${walls} ${walls === 1 ? 'wall' : 'walls'}`,
        values: { flow: b.recipeValue('flow') },
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

/** Bars over gaps of stepped width, on a comb of pillars. */
export function bridgeComb(b: Builder, plan: PiecePlan): Laid {
  const spans = stepValues(plan.steps)
  const pillar = 6
  const deep = 8
  const layers = b.layers(9)
  const bridge = layers.length - 3
  const widest = Math.max(...spans)
  const c = b.centre
  const pitch = deep + 6
  const lane = (k: number) => {
    const y = c.y + ((spans.length - 1) / 2 - k) * pitch
    const left: Rect = {
      x0: c.x - spans[k] / 2 - pillar,
      x1: c.x - spans[k] / 2,
      y0: y - deep / 2,
      y1: y + deep / 2,
    }
    const right: Rect = { x0: c.x + spans[k] / 2, x1: c.x + spans[k] / 2 + pillar, y0: left.y0, y1: left.y1 }
    return { left, right }
  }
  const foot: Rect = {
    x0: c.x - widest / 2 - pillar - 8,
    x1: c.x + widest / 2 + pillar,
    y0: c.y - (spans.length * pitch) / 2,
    y1: c.y + (spans.length * pitch) / 2,
  }
  b.fits(grow(foot, 6), 9)
  b.run(layers, foot, (l) => {
    spans.forEach((_, k) => {
      const { left, right } = lane(k)
      for (const p of [left, right])
        if (l.index < 2) b.slab(p, 2)
        else b.walls(p, 2)
      if (l.index < 3)
        for (let m = 0; m <= k; m++)
          b.line([
            [left.x0 - 2 - m * 1.4, left.y0 + 2],
            [left.x0 - 2 - m * 1.4, left.y1 - 2],
          ])
      if (l.index >= bridge) {
        const w = b.width()
        const over: Rect = { x0: left.x1 - 3 * w, x1: right.x0 + 3 * w, y0: left.y0 + 1, y1: left.y1 - 1 }
        b.fan(b.n('fanBridge'))
        b.fill(over, 'x', l.index === bridge ? 'bridge' : 'solid')
        b.overAir({ ...over, z0: l.z - l.h, z1: l.z })
        b.fan(b.n('fan'))
      }
    })
  })
  return {
    view: 'above',
    cells: spans.map((span, k) => {
      const { left, right } = lane(k)
      return {
        id: `bridge-${k + 1}`,
        name: `Bridge ${k + 1}`,
        values: { span },
        marks: k + 1,
        box: { x0: left.x0, x1: right.x1, y0: left.y0, y1: left.y1, z0: 0, z1: layers.at(-1)!.z },
      }
    }),
  }
}

/** Pins in sockets with stepped gaps, printed in place. */
export function jointLadder(b: Builder, plan: PiecePlan): Laid {
  const gaps = stepValues(plan.steps)
  const pin = 8
  const wall = 4
  const layers = b.layers(8)
  const c = b.centre
  const outer = (g: number) => pin + 2 * g + 2 * wall
  const pitch = outer(Math.max(...gaps)) + 8
  const perRow = Math.min(gaps.length, Math.max(1, Math.floor((b.machine.bed.width * 0.66) / pitch)))
  const rows = Math.ceil(gaps.length / perRow)
  const at = (k: number): [number, number] => [
    c.x + ((k % perRow) - (perRow - 1) / 2) * pitch,
    c.y + ((rows - 1) / 2 - Math.floor(k / perRow)) * pitch,
  ]
  const foot: Rect = {
    x0: c.x - (perRow * pitch) / 2,
    x1: c.x + (perRow * pitch) / 2,
    y0: c.y - (rows * pitch) / 2,
    y1: c.y + (rows * pitch) / 2,
  }
  b.fits(grow(foot, 6), 8)
  b.run(layers, foot, (l) => {
    gaps.forEach((g, k) => {
      const [x, y] = at(k)
      b.rings(x, y, pin, 3)
      b.rings(x, y, pin + 2 * g, 2, true)
      b.rings(x, y, outer(g), 2)
      if (l.index < 3)
        for (let m = 0; m <= k; m++)
          b.line([
            [x - outer(g) / 2 + m * 1.4, y - outer(g) / 2 - 1.4],
            [x - outer(g) / 2 + m * 1.4, y - outer(g) / 2 - 3.4],
          ])
    })
  })
  return {
    view: 'above',
    cells: gaps.map((g, k) => {
      const [x, y] = at(k)
      const r = outer(g) / 2
      return {
        id: `joint-${k + 1}`,
        name: `Joint ${k + 1}`,
        values: { gap: g },
        marks: k + 1,
        box: { x0: x - r, x1: x + r, y0: y - r, y1: y + r, z0: 0, z1: layers.at(-1)!.z },
      }
    }),
  }
}

/**
 * Size plate, after the vocabulary of ISO/ASTM 52902 (linear accuracy, circularity): bars of stepped length along both
 * axes, frames to measure inside, discs and bores.
 */
export function sizePlate(b: Builder, plan: PiecePlan): Laid {
  const lengths = stepValues(plan.steps)
  const thick = 7
  const gap = 4
  const layers = b.layers(5)
  const longest = Math.max(...lengths)
  const c = b.centre
  const n = lengths.length
  const block = n * (thick + gap)
  const inside = [8, 14, 20]
  const rounds = [6, 10, 16]
  const wide = longest + 8 + block
  const tall = Math.max(block + 30, longest + 4)
  const foot: Rect = { x0: c.x - wide / 2, x1: c.x + wide / 2, y0: c.y - tall / 2, y1: c.y + tall / 2 }
  b.fits(grow(foot, 6), 5)
  const barX = (k: number): Rect => {
    const y = foot.y0 + k * (thick + gap)
    return { x0: foot.x0, x1: foot.x0 + lengths[k], y0: y, y1: y + thick }
  }
  const barY = (k: number): Rect => {
    const x = foot.x1 - block + k * (thick + gap) + gap
    return { x0: x, x1: x + thick, y0: foot.y0, y1: foot.y0 + lengths[k] }
  }
  // frames and rounds in a row behind the bars along x
  let x = foot.x0
  const y = foot.y0 + block + 14
  const frames = inside.map((s): Rect => {
    const r = { x0: x, x1: x + s + 6, y0: y - (s + 6) / 2, y1: y + (s + 6) / 2 }
    x += s + 6 + gap
    return r
  })
  const room = foot.x1 - block - gap
  const discs = rounds
    .map((d) => {
      const r = { cx: x + (d + 6) / 2, cy: y, d }
      x += d + 6 + gap
      return r
    })
    .filter((r) => r.cx + (r.d + 6) / 2 < room)
  const kept = frames.filter((r) => r.x1 < room)
  const z1 = layers.at(-1)!.z
  b.run(layers, foot, () => {
    for (let k = 0; k < n; k++) {
      b.slab(barX(k), 2)
      b.slab(barY(k), 2)
    }
    for (const r of kept) {
      const hole = grow(r, -3)
      b.walls(r, 2)
      const w = b.width()
      const s = b.spacing()
      // inside faces: beads stand outside of the drawn edge
      for (const k of [1, 0])
        b.loop(
          [
            [hole.x0 - w / 2 - k * s, hole.y0 - w / 2 - k * s],
            [hole.x1 + w / 2 + k * s, hole.y0 - w / 2 - k * s],
            [hole.x1 + w / 2 + k * s, hole.y1 + w / 2 + k * s],
            [hole.x0 - w / 2 - k * s, hole.y1 + w / 2 + k * s],
          ],
          k ? 'inner' : 'outer',
        )
    }
    for (const r of discs) {
      b.rings(r.cx, r.cy, r.d + 6, 2)
      b.rings(r.cx, r.cy, r.d, 2, true)
    }
  })
  const size = (
    id: string,
    name: string,
    box: Rect,
    nominal: number,
    measure: 'outside' | 'inside',
    axis: 'x' | 'y',
  ): Cell => ({
    id,
    name,
    values: { length: nominal },
    marks: 0,
    nominal: Number(nominal.toFixed(3)),
    measure,
    axis,
    box: { ...box, z0: 0, z1 },
  })
  return {
    view: 'above',
    cells: [
      ...lengths.map((l, k) => size(`x-${k + 1}`, `Bar ${l} along X`, barX(k), l, 'outside', 'x')),
      ...lengths.map((l, k) => size(`y-${k + 1}`, `Bar ${l} along Y`, barY(k), l, 'outside', 'y')),
      ...kept.flatMap((r, k) => [
        size(`frame-${k + 1}-x`, `Frame ${inside[k]}, inside along X`, r, inside[k], 'inside', 'x'),
        size(`frame-${k + 1}-y`, `Frame ${inside[k]}, inside along Y`, r, inside[k], 'inside', 'y'),
      ]),
      ...discs.flatMap((r, k) => {
        const rect = {
          x0: r.cx - r.d / 2 - 3,
          x1: r.cx + r.d / 2 + 3,
          y0: r.cy - r.d / 2 - 3,
          y1: r.cy + r.d / 2 + 3,
        }
        return [
          size(`bore-${k + 1}`, `Bore ${r.d}`, rect, r.d, 'inside', 'x'),
          size(`disc-${k + 1}`, `Disc ${r.d + 6}`, rect, r.d + 6, 'outside', 'x'),
        ]
      }),
      {
        id: 'height',
        name: 'Height of a bar',
        values: { length: Number(z1.toFixed(3)) },
        marks: 0,
        nominal: Number(z1.toFixed(3)),
        measure: 'outside',
        axis: 'z',
        box: { ...barX(n - 1), z0: 0, z1 },
      },
    ],
  }
}
