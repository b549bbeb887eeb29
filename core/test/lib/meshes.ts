import type { Mesh } from '../../src/geometry'

interface Listed {
  positions: [number, number, number][]
  cells: [number, number, number][]
}

/** Meshes in the public domain, from the registry. */
const listed = (name: 'bunny' | 'teapot'): Listed => jest.requireActual(name)

export function publicMesh(name: 'bunny' | 'teapot'): Mesh {
  const { positions, cells } = listed(name)
  return { vertices: Float32Array.from(positions.flat()), triangles: Uint32Array.from(cells.flat()) }
}
