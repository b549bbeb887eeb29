import type { CrossSection, Manifold, ManifoldToplevel } from 'manifold-3d'

/**
 * The library for solids and polygons (WebAssembly). Whoever computes with it loads it as its surroundings allow (a worker
 * by an address, a test from a file) and hands it in.
 */
export type Kernel = ManifoldToplevel
/** A solid that is closed and has an inside. Lives in the kernel's memory: give it back with `delete()`. */
export type Solid = Manifold
/** Areas without overlaps. Lives in the kernel's memory: give it back with `delete()`. */
export type Area = CrossSection
/** Closed rings: outer ones counter-clockwise, holes clockwise; mm. */
export type Ring = (readonly [x: number, y: number])[]

/** Runs something with areas or solids that are given back afterwards, whatever happens. */
export function scoped<T>(work: (keep: <O extends { delete: () => void }>(object: O) => O) => T): T {
  const held: { delete: () => void }[] = []
  try {
    return work((object) => {
      held.push(object)
      return object
    })
  } finally {
    for (const object of held) object.delete()
  }
}

/**
 * Rings as an area; overlaps become one.
 * @param fill whether a ring within another one is a hole by its turning only, or whatever way it turns
 */
export const areaOf = (
  kernel: Kernel,
  rings: readonly Ring[],
  fill: 'Positive' | 'NonZero' = 'Positive',
): Area =>
  rings.length
    ? new kernel.CrossSection(rings as unknown as [number, number][][], fill)
    : kernel.CrossSection.square([0, 0])

/** Area of a ring, mm²; below zero for a hole. */
export function ringArea(ring: Ring): number {
  let sum = 0
  for (let i = 0; i < ring.length; i++) {
    const [ax, ay] = ring[i]
    const [bx, by] = ring[(i + 1) % ring.length]
    sum += ax * by - bx * ay
  }
  return sum / 2
}
