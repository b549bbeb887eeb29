import { scoped, type Kernel, type Solid } from '../kernel'
import { mendMesh, type MendedMesh } from './mend'
import { flipped, withPlacesJoined, type Mesh } from './mesh'

/** A mesh as a solid, with what had to be put right; null where it has no inside even so. */
export interface MadeSolid {
  solid: Solid | null
  mended: MendedMesh
}

/** The kernel's own try: places that lie next to each other become one. @returns null where it is still open */
function whole(kernel: Kernel, { vertices, triangles }: Mesh): Solid | null {
  const mesh = new kernel.Mesh({ numProp: 3, vertProperties: vertices, triVerts: triangles })
  mesh.merge()
  try {
    const solid = new kernel.Manifold(mesh)
    if (solid.status() === 'NoError' && !solid.isEmpty()) return solid
    solid.delete()
  } catch {
    // the kernel says "not manifold" by throwing
  }
  return null
}

/** Shells that cross become one, shells that look inwards hollows in what they lie in; what stands apart stays apart. */
function merged(kernel: Kernel, solid: Solid): Solid {
  return scoped((keep) => {
    keep(solid)
    const shells = solid.decompose().map(keep)
    const outer = shells.filter((s) => s.volume() > 0)
    const hollows = shells.filter((s) => s.volume() < 0)
    const body = kernel.Manifold.union(outer)
    if (!hollows.length) return body
    keep(body)
    const inside = hollows.flatMap((s) => {
      const { vertices, triangles } = meshOf(s)
      const filled = whole(kernel, { vertices, triangles: flipped(triangles) })
      return filled ? [keep(filled)] : []
    })
    return body.subtract(keep(kernel.Manifold.union(inside)))
  })
}

/**
 * Makes a solid of a mesh: as it is where it is whole, else mended first. Whoever asks gives it back with `delete()`.
 */
export function solidOf(kernel: Kernel, mesh: Mesh): MadeSolid {
  const mended = mendMesh(withPlacesJoined(mesh))
  const solid = whole(kernel, mended.mesh)
  return { solid: solid && mended.shells > 1 ? merged(kernel, solid) : solid, mended }
}

/** A solid's surface as a mesh. */
export function meshOf(solid: Solid): Mesh {
  const { vertProperties, triVerts, numProp } = solid.getMesh()
  if (numProp === 3) return { vertices: vertProperties, triangles: triVerts }
  const vertices = new Float32Array((vertProperties.length / numProp) * 3)
  for (let i = 0, o = 0; i < vertProperties.length; i += numProp, o += 3)
    vertices.set(vertProperties.subarray(i, i + 3), o)
  return { vertices, triangles: triVerts }
}
