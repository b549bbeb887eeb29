import { MoveKind, type Program } from '../gcode/program'

export interface LayerIndex {
  /** Layer of each move; −1 before the print and for purges. */
  layerOf: Int32Array
  /** Top of each layer, mm, lowest first. */
  z: number[]
  /** Thickness of each layer, mm. */
  height: number[]
  /** True when some layers rise continuously. */
  spiral: boolean
  /** True when plastic was laid at a greater height before the first layer. */
  purged: boolean
}

const SAME = 0.005

/** Plastic laid lower than this lies on no height that a layer could have, mm. */
const NO_HEIGHT = 0.02
/** A purge is laid with few moves. */
const MOST_PURGE_MOVES = 40

/** Whether the lowest height is a purge: laid before the next one and beside it, with a few moves. */
function purges(
  { x, y, kind }: Program,
  low: number,
  next: number,
  top: readonly number[],
  first: readonly number[],
  last: readonly number[],
): boolean {
  if (top[low] < NO_HEIGHT) return true
  if (last[low] >= first[next]) return false
  const own = { minX: Infinity, maxX: -Infinity, minY: Infinity, maxY: -Infinity }
  const part = { ...own }
  let moves = 0
  const grow = (box: typeof own, i: number) => {
    for (const k of [Math.max(0, i - 1), i]) {
      box.minX = Math.min(box.minX, x[k])
      box.maxX = Math.max(box.maxX, x[k])
      box.minY = Math.min(box.minY, y[k])
      box.maxY = Math.max(box.maxY, y[k])
    }
  }
  for (let i = first[low]; i <= last[low]; i++)
    if (kind[i] === MoveKind.Extrude && ++moves <= MOST_PURGE_MOVES) grow(own, i)
  if (moves > MOST_PURGE_MOVES) return false
  for (let i = first[next]; i <= last[next]; i++) if (kind[i] === MoveKind.Extrude) grow(part, i)
  return own.maxX < part.minX || own.minX > part.maxX || own.maxY < part.minY || own.minY > part.maxY
}

/**
 * Finds the layers of a program by where it lays plastic, never by comments. Travels and lifts belong to the
 * layer that was laid last; objects printed one after another share layers of equal height. Where Z rises
 * along the path, turns are cut into slices of the last flat layer's thickness.
 */
export function indexLayers(program: Program): LayerIndex {
  const { count, x, y, z, kind } = program
  const layerOf = new Int32Array(count).fill(-1)
  const keys = new Map<number, number>()
  const top: number[] = []
  const first: number[] = []
  const last: number[] = []
  let now = -1
  let spiral = false
  let flatZ = 0
  let flatHeight = 0.2
  const layerAt = (height: number): number => {
    const key = Math.round(height / (2 * SAME))
    const known = keys.get(key)
    if (known !== undefined) return known
    top.push(height)
    first.push(-1)
    last.push(-1)
    keys.set(key, top.length - 1)
    return top.length - 1
  }
  for (let i = 0; i < count; i++) {
    if (kind[i] === MoveKind.Extrude) {
      const px = i ? x[i - 1] : 0
      const py = i ? y[i - 1] : 0
      const pz = i ? z[i - 1] : 0
      if (Math.abs(x[i] - px) + Math.abs(y[i] - py) > 0.005) {
        if (Math.abs(z[i] - pz) < 0.0005) {
          if (now < 0 || Math.abs(top[now] - z[i]) > SAME) {
            if (z[i] > flatZ + SAME && flatZ > 0) flatHeight = Math.min(1, z[i] - flatZ)
            now = layerAt(z[i])
          }
          flatZ = z[i]
        } else {
          spiral = true
          const turn = Math.max(1, Math.ceil((z[i] - flatZ) / flatHeight - 1e-3))
          const at = flatZ + turn * flatHeight
          if (now < 0 || Math.abs(top[now] - at) > SAME) now = layerAt(at)
        }
        if (first[now] < 0) first[now] = i
        last[now] = i
      }
    }
    layerOf[i] = now
  }
  if (!top.length) return { layerOf, z: [], height: [], spiral, purged: false }
  const up = top.map((_, l) => l).sort((a, b) => top[a] - top[b])
  // what lies lowest may be no layer of the part: a line beside it, or plastic laid at no height at all
  let at = 0
  while (at + 1 < up.length && purges(program, up[at], up[at + 1], top, first, last)) at++
  let purged = at > 0
  const lowest = up[at]
  const below = new Set(up.slice(0, at))
  const keep: number[] = []
  for (let l = 0; l < top.length; l++) {
    if (below.has(l)) continue
    if (l !== lowest && last[l] < first[lowest]) purged = true
    else if (last[l] >= 0) keep.push(l)
  }
  keep.sort((a, b) => top[a] - top[b])
  if (!keep.length) keep.push(lowest)
  const renumber = new Int32Array(top.length).fill(-1)
  keep.forEach((l, i) => (renumber[l] = i))
  for (let i = 0; i < count; i++) if (layerOf[i] >= 0) layerOf[i] = renumber[layerOf[i]]
  const zs = keep.map((l) => top[l])
  return { layerOf, z: zs, height: zs.map((v, i) => v - (i ? zs[i - 1] : 0)), spiral, purged }
}
