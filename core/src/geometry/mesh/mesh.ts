/** Triangles in space: places, and three of their numbers for each face, counter-clockwise seen from outside. mm */
export interface Mesh {
  /** x, y, z of each place. */
  vertices: Float32Array
  triangles: Uint32Array
}

/** A block in space, mm. */
export interface Extent {
  min: readonly [number, number, number]
  max: readonly [number, number, number]
}

export const triangleCount = (mesh: Mesh): number => mesh.triangles.length / 3

/** The least block round a mesh; null for one without places. */
export function extentOf({ vertices }: Mesh): Extent | null {
  if (!vertices.length) return null
  const min: [number, number, number] = [Infinity, Infinity, Infinity]
  const max: [number, number, number] = [-Infinity, -Infinity, -Infinity]
  for (let i = 0; i < vertices.length; i += 3)
    for (let k = 0; k < 3; k++) {
      const v = vertices[i + k]
      if (v < min[k]) min[k] = v
      if (v > max[k]) max[k] = v
    }
  return { min, max }
}

export const sizeOf = ({ min, max }: Extent): [number, number, number] => [
  max[0] - min[0],
  max[1] - min[1],
  max[2] - min[2],
]

/**
 * Volume inside, mm³, by the divergence theorem; below zero when faces look inwards. Means nothing for an open mesh.
 */
export function volumeOf({ vertices: v, triangles: t }: Mesh): number {
  let sum = 0
  for (let i = 0; i < t.length; i += 3) {
    const [a, b, c] = [3 * t[i], 3 * t[i + 1], 3 * t[i + 2]]
    sum +=
      v[a] * (v[b + 1] * v[c + 2] - v[b + 2] * v[c + 1]) -
      v[a + 1] * (v[b] * v[c + 2] - v[b + 2] * v[c]) +
      v[a + 2] * (v[b] * v[c + 1] - v[b + 1] * v[c])
  }
  return sum / 6
}

/** Area of the surface, mm². */
export function surfaceOf(mesh: Mesh): number {
  let sum = 0
  for (let i = 0; i < triangleCount(mesh); i++) sum += faceOf(mesh, i).area
  return sum
}

export interface Face {
  /** Of length 1, outwards; nought for a face without area. */
  normal: readonly [number, number, number]
  /** mm² */
  area: number
}

/** Direction and area of a face. */
export function faceOf({ vertices: v, triangles: t }: Mesh, index: number): Face {
  const [a, b, c] = [3 * t[3 * index], 3 * t[3 * index + 1], 3 * t[3 * index + 2]]
  const [ux, uy, uz] = [v[b] - v[a], v[b + 1] - v[a + 1], v[b + 2] - v[a + 2]]
  const [wx, wy, wz] = [v[c] - v[a], v[c + 1] - v[a + 1], v[c + 2] - v[a + 2]]
  const [x, y, z] = [uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx]
  const length = Math.hypot(x, y, z)
  return length > 0
    ? { normal: [x / length, y / length, z / length], area: length / 2 }
    : { normal: [0, 0, 0], area: 0 }
}

/**
 * A change of place: rows of a 3 × 4 matrix, the last column is the shift.
 */
export type Placement = readonly [
  number, number, number, number,
  number, number, number, number,
  number, number, number, number,
] // prettier-ignore
export const AS_IT_IS: Placement = [1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]

/** First `inner`, then `outer`. */
export function after(outer: Placement, inner: Placement): Placement {
  const out: number[] = []
  for (let r = 0; r < 3; r++)
    for (let c = 0; c < 4; c++) {
      let s = c === 3 ? outer[4 * r + 3] : 0
      for (let k = 0; k < 3; k++) s += outer[4 * r + k] * inner[4 * k + c]
      out.push(s)
    }
  return out as unknown as Placement
}

/** A mesh in another place; faces of a mirrored one still look outwards. */
export function placed({ vertices, triangles }: Mesh, m: Placement): Mesh {
  const out = new Float32Array(vertices.length)
  for (let i = 0; i < vertices.length; i += 3) {
    const [x, y, z] = [vertices[i], vertices[i + 1], vertices[i + 2]]
    out[i] = m[0] * x + m[1] * y + m[2] * z + m[3]
    out[i + 1] = m[4] * x + m[5] * y + m[6] * z + m[7]
    out[i + 2] = m[8] * x + m[9] * y + m[10] * z + m[11]
  }
  const turns =
    m[0] * (m[5] * m[10] - m[6] * m[9]) -
    m[1] * (m[4] * m[10] - m[6] * m[8]) +
    m[2] * (m[4] * m[9] - m[5] * m[8])
  return { vertices: out, triangles: turns < 0 ? flipped(triangles) : triangles }
}

/** Faces turned inside out. */
export function flipped(triangles: Uint32Array): Uint32Array {
  const out = triangles.slice()
  for (let i = 0; i < out.length; i += 3) [out[i + 1], out[i + 2]] = [out[i + 2], out[i + 1]]
  return out
}

/** Several meshes as one. */
export function joined(meshes: readonly Mesh[]): Mesh {
  const vertices = new Float32Array(meshes.reduce((s, m) => s + m.vertices.length, 0))
  const triangles = new Uint32Array(meshes.reduce((s, m) => s + m.triangles.length, 0))
  let v = 0
  let t = 0
  for (const m of meshes) {
    vertices.set(m.vertices, v)
    for (let i = 0; i < m.triangles.length; i++) triangles[t + i] = m.triangles[i] + v / 3
    v += m.vertices.length
    t += m.triangles.length
  }
  return { vertices, triangles }
}

/**
 * Corners of loose triangles as a mesh: places that are the same to the last digit become one.
 * @param corners nine numbers for each triangle
 */
export function welded(corners: Float32Array): Mesh {
  const count = corners.length / 3
  // open addressing; at most half full
  let size = 1
  while (size < 2 * count) size *= 2
  const slots = new Int32Array(size).fill(-1)
  // minus nought and nought are one place
  for (let i = 0; i < corners.length; i++) if (corners[i] === 0) corners[i] = 0
  const bits = new Int32Array(corners.buffer, corners.byteOffset, corners.length)
  const places = new Float32Array(corners.length)
  const placeBits = new Int32Array(places.buffer)
  const triangles = new Uint32Array(count)
  let made = 0
  for (let i = 0; i < count; i++) {
    const [a, b, c] = [bits[3 * i], bits[3 * i + 1], bits[3 * i + 2]]
    let h = (Math.imul(a, 73_856_093) ^ Math.imul(b, 19_349_663) ^ Math.imul(c, 83_492_791)) >>> 0
    h = (h ^ (h >>> 15)) & (size - 1)
    for (;;) {
      const p = slots[h]
      if (p < 0) {
        slots[h] = made
        placeBits[3 * made] = a
        placeBits[3 * made + 1] = b
        placeBits[3 * made + 2] = c
        triangles[i] = made++
        break
      }
      if (placeBits[3 * p] === a && placeBits[3 * p + 1] === b && placeBits[3 * p + 2] === c) {
        triangles[i] = p
        break
      }
      h = (h + 1) & (size - 1)
    }
  }
  return { vertices: places.slice(0, 3 * made), triangles }
}

/** A mesh whose places that are the same are one; faces that were only side by side hang together then. */
export function withPlacesJoined({ vertices, triangles }: Mesh): Mesh {
  const corners = new Float32Array(3 * triangles.length)
  for (let i = 0; i < triangles.length; i++) {
    corners[3 * i] = vertices[3 * triangles[i]]
    corners[3 * i + 1] = vertices[3 * triangles[i] + 1]
    corners[3 * i + 2] = vertices[3 * triangles[i] + 2]
  }
  return welded(corners)
}
