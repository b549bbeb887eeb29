import { MoveKind, type Program } from '@verimend/core/gcode'
import { Grid, convexHull, distanceInside, type Place } from '@verimend/core/geometry'

/** A straight piece of a line, mm. */
export interface LaidPiece {
  ax: number
  ay: number
  bx: number
  by: number
  width: number
}

/** A corner of a body on the bed. */
export interface CornerOnBed extends Place {
  /** mm from the middle of its body. */
  reach: number
  /** How much more ground holds it than the body's own: a brim or a tab under it. */
  ground: number
}

/** What stands on the bed. */
export interface Standing {
  corners: CornerOnBed[]
  /** Whether a place belongs to a thin wall round it all, which is broken off before the part is looked at; null without one. */
  inWall: ((x: number, y: number) => boolean) | null
}

/** mm a cell, and cells a side at most. */
const CELL = 0.5
const MOST_CELLS = 900
/** Ground so far round a corner holds it, mm. From memory. */
const HELD_WITHIN = 10
/** mm; lines as they usually are. */
const LINE = 0.45
/** A wall against draughts is no thicker, mm. */
const THIN = 1.6

/** Marks what pieces cover. */
function cover(grid: Grid, pieces: readonly LaidPiece[], mark: (cell: number, piece: number) => void): void {
  pieces.forEach(({ ax, ay, bx, by, width }, k) => {
    const way = Math.hypot(bx - ax, by - ay)
    const steps = Math.max(1, Math.ceil((2 * way) / grid.cell))
    const across = Math.max(1, Math.ceil((2 * width) / grid.cell))
    const [nx, ny] = way > 0 ? [(by - ay) / way, (ax - bx) / way] : [0, 0]
    for (let i = 0; i <= steps; i++)
      for (let j = 0; j <= across; j++) {
        const aside = (j / across - 0.5) * width
        const t = i / steps
        const cell = grid.at(ax + (bx - ax) * t + nx * aside, ay + (by - ay) * t + ny * aside)
        if (cell >= 0) mark(cell, k)
      }
  })
}

/** The cells that hang together, each with the number of its body; −1 where nothing lies. */
function joined(grid: Grid, full: Uint8Array): { of: Int32Array; count: number } {
  const of = new Int32Array(grid.size).fill(-1)
  let count = 0
  for (let seed = 0; seed < grid.size; seed++) {
    if (!full[seed] || of[seed] >= 0) continue
    const open = [seed]
    of[seed] = count
    while (open.length) {
      const c = open.pop()!
      const [x, y] = [c % grid.nx, Math.floor(c / grid.nx)]
      for (let dy = -1; dy <= 1; dy++)
        for (let dx = -1; dx <= 1; dx++) {
          const [u, v] = [x + dx, y + dy]
          if (u < 0 || v < 0 || u >= grid.nx || v >= grid.ny) continue
          const n = v * grid.nx + u
          if (full[n] && of[n] < 0) {
            of[n] = count
            open.push(n)
          }
        }
    }
    count++
  }
  return { of, count }
}

/**
 * Bodies on the bed: what hangs together on the lowest layer and has something on it. What has nothing on it, as a skirt, is
 * none; a brim and tabs are ground of the body that they touch.
 * @param lowest pieces of the layer on the bed
 * @param above pieces of the next one; where there is none, the lowest layer is the body
 */
export function standingOn(lowest: readonly LaidPiece[], above: readonly LaidPiece[]): Standing {
  if (lowest.length < 3) return { corners: [], inWall: null }
  const box = { minX: Infinity, minY: Infinity, maxX: -Infinity, maxY: -Infinity }
  for (const { ax, ay, bx, by } of lowest) {
    box.minX = Math.min(box.minX, ax, bx)
    box.minY = Math.min(box.minY, ay, by)
    box.maxX = Math.max(box.maxX, ax, bx)
    box.maxY = Math.max(box.maxY, ay, by)
  }
  const grid = Grid.around(box, 2, CELL, MOST_CELLS)
  const full = new Uint8Array(grid.size)
  cover(grid, lowest, (cell) => (full[cell] = 1))
  const { of, count } = joined(grid, full)
  const tops = above.length ? above : lowest
  const places: Place[][] = Array.from({ length: count }, () => [])
  for (const { ax, ay, bx, by } of tops) {
    const body = of[Math.max(0, grid.at((ax + bx) / 2, (ay + by) / 2))]
    if (body >= 0) places[body].push({ x: ax, y: ay }, { x: bx, y: by })
  }
  const cells: number[][] = Array.from({ length: count }, () => [])
  of.forEach((body, c) => body >= 0 && cells[body].push(c))
  const centre = (c: number): Place => ({
    x: grid.minX + ((c % grid.nx) + 0.5) * grid.cell,
    y: grid.minY + (Math.floor(c / grid.nx) + 0.5) * grid.cell,
  })
  const bodies = places
    .map((own, k) => ({ hull: own.length > 2 ? convexHull(own) : [], cells: cells[k] }))
    .filter((b) => b.hull.length > 2)
  const goesRound = (b: (typeof bodies)[number], o: (typeof bodies)[number]) =>
    o !== b && o.hull.every((p) => distanceInside(b.hull, p) > 0)
  const around = (hull: readonly Place[]) =>
    hull.reduce((sum, p, i) => {
      const q = hull[(i + 1) % hull.length]
      return sum + Math.hypot(q.x - p.x, q.y - p.y)
    }, 0)
  const walls = new Set(
    bodies.filter(
      (b) => (b.cells.length * grid.cell ** 2) / around(b.hull) < THIN && bodies.some((o) => goesRound(b, o)),
    ),
  )
  const corners: CornerOnBed[] = []
  for (const b of bodies) {
    if (walls.has(b)) continue
    const middle = {
      x: b.hull.reduce((s, p) => s + p.x, 0) / b.hull.length,
      y: b.hull.reduce((s, p) => s + p.y, 0) / b.hull.length,
    }
    for (const p of cornersOf(b.hull)) {
      let own = 0
      let beyond = 0
      for (const c of b.cells) {
        const at = centre(c)
        if (Math.hypot(at.x - p.x, at.y - p.y) > HELD_WITHIN) continue
        // lines reach half their width past where they run
        if (distanceInside(b.hull, at) > -grid.cell) own++
        else beyond++
      }
      corners.push({
        ...p,
        reach: Math.hypot(p.x - middle.x, p.y - middle.y),
        ground: own ? 1 + beyond / own : 1,
      })
    }
  }
  const wallCells = new Uint8Array(grid.size)
  for (const b of walls) for (const c of b.cells) wallCells[c] = 1
  const inWall = (x: number, y: number) => wallCells[Math.max(0, grid.at(x, y))] === 1
  return { corners, inWall: walls.size ? inWall : null }
}

/** The corners of a hull that turn by 30° or more; of a round one, those farthest out to four sides. */
function cornersOf(hull: readonly Place[]): Place[] {
  const sharp = hull.filter((p, i) => {
    const a = hull[(i + hull.length - 1) % hull.length]
    const b = hull[(i + 1) % hull.length]
    const turn = Math.atan2(
      (p.x - a.x) * (b.y - p.y) - (p.y - a.y) * (b.x - p.x),
      (p.x - a.x) * (b.x - p.x) + (p.y - a.y) * (b.y - p.y),
    )
    return Math.abs(turn) > Math.PI / 6
  })
  if (sharp.length) return sharp
  const far = (ux: number, uy: number) =>
    hull.reduce((m, p) => (p.x * ux + p.y * uy > m.x * ux + m.y * uy ? p : m))
  return [far(1, 0), far(0, 1), far(-1, 0), far(0, -1)]
}

/** mm over the lowest layer within which the next one lies. */
const NEXT = 0.45

/** The moves of a program that lay a wall round the parts; null where there is none. */
export function wallMoves({ count, kind, x, y, z }: Program): Uint8Array | null {
  let bottom = Infinity
  const lays = (i: number) =>
    kind[i] === MoveKind.Extrude && Math.hypot(x[i] - x[i - 1], y[i] - y[i - 1]) > 1e-6
  for (let i = 1; i < count; i++) if (z[i] < bottom && lays(i)) bottom = z[i]
  const [lowest, above]: [LaidPiece[], LaidPiece[]] = [[], []]
  for (let i = 1; i < count; i++)
    if (z[i] < bottom + NEXT && lays(i))
      (z[i] < bottom + 0.02 ? lowest : above).push({
        ax: x[i - 1],
        ay: y[i - 1],
        bx: x[i],
        by: y[i],
        width: LINE,
      })
  if (!above.length) return null
  const { inWall } = standingOn(lowest, above)
  if (!inWall) return null
  const out = new Uint8Array(count)
  for (let i = 1; i < count; i++)
    if (lays(i) && inWall((x[i - 1] + x[i]) / 2, (y[i - 1] + y[i]) / 2)) out[i] = 1
  return out
}
