import { flipped, volumeOf, type Mesh } from './mesh'
import { shellsOf, topologyOf } from './topology'

/** What was found wrong with a mesh and put right. */
export interface MendedMesh {
  mesh: Mesh
  /** Faces without area, or with two corners in one place. */
  withoutArea: number
  /** Faces that lie on another one. */
  doubled: number
  /** Faces that looked the other way than their neighbours. */
  turned: number
  /** Everything looked inwards. */
  insideOut: boolean
  /** Holes that were closed, and the edges round them. */
  holes: number
  holeEdges: number
  /** Edges that are open still. */
  open: number
  /** Edges of more than two faces that are left. */
  crowded: number
  shells: number
}

/** Longest rim of a hole that is closed, edges. */
const LONGEST_RIM = 2000

/**
 * Puts right what can be without guessing a shape: faces without area and doubled ones go, neighbours look the same way,
 * the whole looks outwards, holes are closed by a fan from their middle.
 */
export function mendMesh(given: Mesh): MendedMesh {
  const { mesh: lean, withoutArea, doubled } = withoutSpare(given)
  const { mesh: even, turned } = alike(lean)
  const { mesh: closed, holes, holeEdges } = withHolesClosed(even)
  const insideOut = volumeOf(closed) < 0
  const mesh = insideOut ? { ...closed, triangles: flipped(closed.triangles) } : closed
  const after = topologyOf(mesh)
  return {
    mesh,
    withoutArea,
    doubled,
    turned,
    insideOut,
    holes,
    holeEdges,
    open: after.open,
    crowded: after.crowded,
    shells: shellsOf(mesh, after).count,
  }
}

/** Faces with two corners in one place go; of faces on the same corners one is left, of a pair back to back none. */
function withoutSpare({ vertices, triangles: t }: Mesh): {
  mesh: Mesh
  withoutArea: number
  doubled: number
} {
  const faces = t.length / 3
  // each face begins at its lowest corner; those that begin at one place hang on a chain
  const second = new Uint32Array(faces)
  const third = new Uint32Array(faces)
  const chain = new Int32Array(faces).fill(-1)
  const newest = new Int32Array(vertices.length / 3).fill(-1)
  const stays = new Uint8Array(faces)
  let withoutArea = 0
  let doubled = 0
  for (let f = 0; f < faces; f++) {
    let [a, b, c] = [t[3 * f], t[3 * f + 1], t[3 * f + 2]]
    if (a === b || b === c || c === a) {
      withoutArea++
      continue
    }
    if (b < a && b < c) [a, b, c] = [b, c, a]
    else if (c < a && c < b) [a, b, c] = [c, a, b]
    let other = newest[a]
    while (
      other >= 0 &&
      !(
        stays[other] &&
        ((second[other] === b && third[other] === c) || (second[other] === c && third[other] === b))
      )
    )
      other = chain[other]
    if (other >= 0) {
      const back = second[other] === c
      // two faces back to back hold nothing between them
      if (back) stays[other] = 0
      doubled += back ? 2 : 1
      continue
    }
    second[f] = b
    third[f] = c
    chain[f] = newest[a]
    newest[a] = f
    stays[f] = 1
  }
  if (!withoutArea && !doubled) return { mesh: { vertices, triangles: t }, withoutArea, doubled }
  return {
    mesh: { vertices, triangles: t.filter((_, i) => stays[Math.floor(i / 3)]) },
    withoutArea,
    doubled,
  }
}

/** Neighbours made to look the same way: in each shell the side that most of its faces have stays. */
function alike(mesh: Mesh): { mesh: Mesh; turned: number } {
  const topology = topologyOf(mesh)
  if (!topology.turned) return { mesh, turned: 0 }
  const t = mesh.triangles
  const faces = t.length / 3
  const flip = new Int8Array(faces).fill(-1)
  const { across } = topology
  const from = (s: number) => t[s]
  let turned = 0
  for (let f = 0; f < faces; f++) {
    if (flip[f] >= 0) continue
    flip[f] = 0
    const shell = [f]
    for (let k = 0; k < shell.length; k++) {
      const g = shell[k]
      for (let j = 0; j < 3; j++) {
        const side = across[3 * g + j]
        if (side < 0) continue
        const h = Math.floor(side / 3)
        if (flip[h] >= 0) continue
        // a shared edge has to be run through in opposite ways
        const same = from(3 * g + j) === from(side)
        flip[h] = (same ? 1 - flip[g] : flip[g]) as 0 | 1
        shell.push(h)
      }
    }
    const other = shell.reduce((s, g) => s + flip[g], 0)
    const most = other * 2 > shell.length ? 1 : 0
    for (const g of shell) flip[g] = flip[g] === most ? 0 : 1
    turned += most ? shell.length - other : other
  }
  const out = t.slice()
  for (let f = 0; f < faces; f++)
    if (flip[f]) [out[3 * f + 1], out[3 * f + 2]] = [out[3 * f + 2], out[3 * f + 1]]
  return { mesh: { vertices: mesh.vertices, triangles: out }, turned }
}

/** Holes closed by a fan from the middle of their rim. */
function withHolesClosed(mesh: Mesh): { mesh: Mesh; holes: number; holeEdges: number } {
  const topology = topologyOf(mesh)
  if (!topology.open) return { mesh, holes: 0, holeEdges: 0 }
  const t = mesh.triangles
  const { across } = topology
  const before = (side: number) => (side % 3 === 0 ? side + 2 : side - 1)
  /** The open side that ends where this one begins: round the place, from face to face. */
  const onRim = (side: number): number => {
    let at = before(side)
    for (let turns = 0; across[at] >= 0 && turns < LONGEST_RIM; turns++) at = before(across[at])
    return at
  }
  const done = new Uint8Array(t.length)
  const vertices: number[] = []
  const faces: number[] = []
  const first = mesh.vertices.length / 3
  let holes = 0
  let holeEdges = 0
  for (let start = 0; start < t.length; start++) {
    if (across[start] >= 0 || done[start]) continue
    // against the way of the open sides: as a face in the hole would run
    const rim: number[] = []
    let side = start
    do {
      done[side] = 1
      rim.push(t[side % 3 === 2 ? side - 2 : side + 1])
      side = onRim(side)
    } while (side !== start && across[side] < 0 && !done[side] && rim.length <= LONGEST_RIM)
    if (side !== start || rim.length < 3) continue
    holes++
    holeEdges += rim.length
    if (rim.length === 3) {
      faces.push(rim[0], rim[1], rim[2])
      continue
    }
    const middle = first + vertices.length / 3
    for (let k = 0; k < 3; k++)
      vertices.push(rim.reduce((s, v) => s + mesh.vertices[3 * v + k], 0) / rim.length)
    rim.forEach((v, i) => faces.push(v, rim[(i + 1) % rim.length], middle))
  }
  if (!holes) return { mesh, holes, holeEdges }
  const all = new Float32Array(mesh.vertices.length + vertices.length)
  all.set(mesh.vertices)
  all.set(vertices, mesh.vertices.length)
  const triangles = new Uint32Array(t.length + faces.length)
  triangles.set(t)
  triangles.set(faces, t.length)
  return { mesh: { vertices: all, triangles }, holes, holeEdges }
}
