import type { Mesh } from './mesh'

/** How the faces of a mesh hang together. */
export interface Topology {
  /** Edges with a face on one side only. */
  open: number
  /** Edges whose two faces look opposite ways. */
  turned: number
  /** Edges with more than two faces. */
  crowded: number
  /** For each side of each face the side it meets, as 3·face + side; −1 where none or many. */
  across: Int32Array
}

/**
 * Matches the sides of faces that share an edge. Side k of a face runs from its corner k to its corner k + 1.
 */
export function topologyOf({ triangles: t, vertices }: Mesh): Topology {
  const sides = t.length
  const places = vertices.length / 3
  const from = (s: number) => t[s]
  const to = (s: number) => t[s % 3 === 2 ? s - 2 : s + 1]
  // each side by the lower and the higher of its corners; sorted by both, sides of an edge lie together
  const low = new Uint32Array(sides)
  const high = new Uint32Array(sides)
  for (let s = 0; s < sides; s++) {
    const [a, b] = [from(s), to(s)]
    low[s] = a < b ? a : b
    high[s] = a < b ? b : a
  }
  const order = counted(counted(null, high, places), low, places)
  const across = new Int32Array(sides).fill(-1)
  let open = 0
  let turned = 0
  let crowded = 0
  for (let i = 0; i < sides;) {
    let j = i + 1
    while (j < sides && low[order[j]] === low[order[i]] && high[order[j]] === high[order[i]]) j++
    if (j - i === 1) open++
    else if (j - i > 2) crowded++
    else {
      const [p, q] = [order[i], order[i + 1]]
      across[p] = q
      across[q] = p
      if (from(p) === from(q)) turned++
    }
    i = j
  }
  return { open, turned, crowded, across }
}

/** Indices in the order of their keys, those of one key as they were: a counting sort. */
function counted(order: Uint32Array | null, keys: Uint32Array, most: number): Uint32Array {
  const count = keys.length
  const starts = new Uint32Array(most + 1)
  for (let i = 0; i < count; i++) starts[keys[i] + 1]++
  for (let k = 0; k < most; k++) starts[k + 1] += starts[k]
  const out = new Uint32Array(count)
  for (let i = 0; i < count; i++) {
    const at = order ? order[i] : i
    out[starts[keys[at]]++] = at
  }
  return out
}

/** Faces that hang together by edges, numbered; faces of a number are one shell. */
export function shellsOf({ triangles }: Mesh, { across }: Topology): { shell: Int32Array; count: number } {
  const faces = triangles.length / 3
  const shell = new Int32Array(faces).fill(-1)
  const todo: number[] = []
  let count = 0
  for (let f = 0; f < faces; f++) {
    if (shell[f] >= 0) continue
    shell[f] = count
    todo.push(f)
    while (todo.length) {
      const g = todo.pop()!
      for (let k = 0; k < 3; k++) {
        const side = across[3 * g + k]
        if (side < 0) continue
        const h = Math.floor(side / 3)
        if (shell[h] >= 0) continue
        shell[h] = count
        todo.push(h)
      }
    }
    count++
  }
  return { shell, count }
}
