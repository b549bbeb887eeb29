import { beadWidth } from '../extrusion/bead'
import { MoveKind } from '../gcode/program'
import { weightedQuantile } from '../statistics/summary'
import type { Analysis } from './analysis'
import { Feature } from './features'
import { Grid } from '../geometry/grid'
import { Region } from './region'
import { lineSpacing } from './spacing'

export interface FirstLayer {
  /** Index of the part's lowest layer: above a raft where there is one. */
  layer: number
  height: number
  /** mm/s, the median by length */
  speed: number
  /** mm between neighbouring lines; null where too few run side by side. */
  spacing: number | null
  /** % of what exactly fills the space between the lines; null without a spacing. */
  flow: number | null
  /** mm a free bead of this feed would be wide. */
  width: number
  nozzle: number | null
  bed: number | null
  fan: number
  /** mm² of the part that lie on the bed */
  contact: number
  /** % of the part's outline on the first layer that no bead covers, and that two or more cover. */
  gaps: number
  overlaps: number
  /** Pieces of the part that start apart from each other. */
  islands: number
  /** mm² of the smallest of them. */
  smallestIsland: number
}

/** What the base of the part is like: heats, speed, feed, and how its beads cover it. */
export function readFirstLayer(a: Analysis, area: number): FirstLayer | null {
  const { program, timeline, index, featureOf, raftLayers, context } = a
  const { count, x, y, e, kind, speed, state, states } = program
  const layer = Math.min(raftLayers, index.z.length - 1)
  if (layer < 0) return null
  const speeds: number[] = []
  const lengths: number[] = []
  const sections: number[] = []
  let fanTime = 0
  let time = 0
  let heat: { nozzle: number | null; bed: number | null } | null = null
  for (let i = 0; i < count; i++) {
    if (index.layerOf[i] !== layer || kind[i] !== MoveKind.Extrude) continue
    if (featureOf[i] === Feature.Skirt || featureOf[i] === Feature.Brim) continue
    const d = i ? Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1]) : 0
    if (!(d > 0)) continue
    speeds.push(speed[i])
    lengths.push(d)
    sections.push((e[i] * area) / d)
    fanTime += states[state[i]].fan * timeline.seconds[i]
    time += timeline.seconds[i]
    heat ??= { nozzle: states[state[i]].nozzle, bed: states[state[i]].bed }
  }
  if (!lengths.length) return null
  const height = layer ? index.height[layer] : index.z[0]
  const section = weightedQuantile(sections, lengths, 0.5)
  const width = beadWidth(section, height)
  const spacing = lineSpacing(
    program,
    index.layerOf,
    layer,
    Math.max(2 * context.nozzleDiameter, 1.6 * width),
  )
  const cover = coverage(a, layer, area, height)
  return {
    layer,
    height: round(height, 3),
    speed: round(weightedQuantile(speeds, lengths, 0.5), 1),
    spacing: spacing === null ? null : round(spacing, 3),
    flow: spacing === null ? null : round(flowOf(section, spacing, height) * 100, 1),
    width: round(width, 3),
    nozzle: heat?.nozzle ?? null,
    bed: heat?.bed ?? null,
    fan: time ? round(fanTime / time, 3) : 0,
    ...cover,
  }
}

/** How near a spacing has to be to the bead's width to be meant as it. */
const FULL_WIDTH = 0.004

/**
 * What is fed against what the lines have room for. Where lines stand a whole bead apart the file spaces by width and
 * feeds as it means to: a bead has round ends and never fills its rectangle.
 */
function flowOf(section: number, spacing: number, height: number): number {
  const width = beadWidth(section, height)
  return Math.abs(spacing / width - 1) < FULL_WIDTH ? 1 : section / (spacing * height)
}

const round = (v: number, digits: number) => Number(v.toFixed(digits))

/**
 * Draws the beads of a layer to their true width on a raster and counts what is covered not at all, once, and
 * more often, inside the part's outline; pieces of the covered area that hang together are islands.
 */
function coverage(a: Analysis, layer: number, area: number, height: number) {
  const { program, order, first, stretches, context } = a
  const { x, y, e } = program
  const own = []
  for (let k = first[layer]; k < first[layer + 1]; k++) {
    const s = stretches[order[k]]
    if (s.feature !== Feature.Skirt && s.feature !== Feature.Brim) own.push(s)
  }
  const none = { contact: 0, gaps: 0, overlaps: 0, islands: 0, smallestIsland: 0 }
  if (!own.length) return none
  const box = {
    minX: Math.min(...own.slice(0, 20_000).map((s) => s.minX)),
    minY: Math.min(...own.slice(0, 20_000).map((s) => s.minY)),
    maxX: Math.max(...own.slice(0, 20_000).map((s) => s.maxX)),
    maxY: Math.max(...own.slice(0, 20_000).map((s) => s.maxY)),
  }
  const grid = Grid.around(box, 1, 0.1, 1200)
  const times = new Uint8Array(grid.size)
  const newest = new Int32Array(grid.size).fill(-1)
  const half = grid.cell / 2
  const slack = Math.max(half, 0.06 * context.nozzleDiameter)
  let line = 0
  // what the lines take by themselves, and what the raster made of them: it rounds widths to whole cells
  let drawn = 0
  let painted = 0
  for (const s of own) {
    for (let i = s.from; i <= s.to; i++) {
      const ax = i ? x[i - 1] : 0
      const ay = i ? y[i - 1] : 0
      const dx = x[i] - ax
      const dy = y[i] - ay
      const d = Math.sqrt(dx * dx + dy * dy)
      if (d < 1e-6) continue
      line++
      const r = Math.min(2, beadWidth((e[i] * area) / d, height) / 2)
      drawn += 2 * r * d
      // the flanks of a bead are round: what lies within the slack of its edge belongs to the neighbour as well
      const inner = Math.max(half, r - slack)
      const r0 = Math.max(0, Math.floor((Math.min(ay, y[i]) - r - grid.minY) / grid.cell))
      const r1 = Math.min(grid.ny - 1, Math.ceil((Math.max(ay, y[i]) + r - grid.minY) / grid.cell))
      const ux = dx / d
      const uy = dy / d
      for (let row = r0; row <= r1; row++) {
        const py = grid.minY + (row + 0.5) * grid.cell - ay
        // where this row lies within the bead's width and between its ends
        let low = Math.min(0, dx) - r
        let high = Math.max(0, dx) + r
        if (uy > 1e-9 || uy < -1e-9) {
          const p = (py * ux - r) / uy
          const q = (py * ux + r) / uy
          low = Math.max(low, Math.min(p, q))
          high = Math.min(high, Math.max(p, q))
        }
        if (ux > 1e-9 || ux < -1e-9) {
          const p = -(py * uy) / ux
          const q = (d - py * uy) / ux
          low = Math.max(low, Math.min(p, q))
          high = Math.min(high, Math.max(p, q))
        }
        const c0 = Math.max(0, Math.ceil((ax + low - grid.minX) / grid.cell - 0.5))
        const c1 = Math.min(grid.nx - 1, Math.floor((ax + high - grid.minX) / grid.cell - 0.5))
        for (let col = c0; col <= c1; col++) {
          const px = grid.minX + (col + 0.5) * grid.cell - ax
          const t = px * ux + py * uy
          const off = Math.abs(px * uy - py * ux)
          if (t < 0 || t > d || off > r) continue
          const c = row * grid.nx + col
          painted++
          if (times[c] === 0) times[c] = 1
          // a second line over the heart of this cell, not its own neighbour in the path
          if (off <= inner) {
            if (newest[c] >= 0 && line - newest[c] > 1) times[c] = 2
            newest[c] = line
          }
        }
      }
    }
  }
  const region = new Region(grid)
  region.fill(
    program,
    own.filter((s) => s.closed && s.boundary),
  )
  // what a hollow part leaves open is no gap between lines
  const filled = own.some((s) => s.feature === Feature.Solid || s.feature === Feature.Infill)
  let covered = 0
  let outline = 0
  let gaps = 0
  let overlaps = 0
  for (let c = 0; c < grid.size; c++) {
    if (times[c]) covered++
    if (!region.mask[c]) continue
    outline++
    if (!times[c]) gaps++
    else if (times[c] > 1) overlaps++
  }
  const islands = piecesOf(times, grid, Math.max(4, Math.round(1 / (grid.cell * grid.cell))))
  const cell2 = painted ? drawn / painted : grid.cell * grid.cell
  return {
    contact: round(covered * cell2, 1),
    gaps: outline && filled ? round((gaps / outline) * 100, 1) : 0,
    overlaps: outline ? round((overlaps / outline) * 100, 1) : 0,
    islands: islands.length,
    smallestIsland: islands.length ? round(Math.min(...islands) * cell2, 1) : 0,
  }
}

/** Sizes, in cells, of the pieces of a raster that hang together; specks under `least` cells are none. */
function piecesOf(mask: Uint8Array, grid: Grid, least: number): number[] {
  const seen = new Uint8Array(mask.length)
  const sizes: number[] = []
  const stack: number[] = []
  for (let c = 0; c < mask.length; c++) {
    if (!mask[c] || seen[c]) continue
    let size = 0
    stack.push(c)
    seen[c] = 1
    while (stack.length) {
      const q = stack.pop()!
      size++
      const col = q % grid.nx
      for (const n of [q - grid.nx, q + grid.nx, col > 0 ? q - 1 : -1, col < grid.nx - 1 ? q + 1 : -1])
        if (n >= 0 && n < mask.length && mask[n] && !seen[n]) {
          seen[n] = 1
          stack.push(n)
        }
    }
    if (size >= least) sizes.push(size)
  }
  return sizes
}
