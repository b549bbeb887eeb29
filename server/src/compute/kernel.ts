import { readFileSync } from 'node:fs'
import { createRequire } from 'node:module'
import type { Kernel } from '@verimend/core/geometry'

/** Loads the kernel for solids and polygons; it takes a moment and some memory, so only where it is needed. */
export async function loadKernel(): Promise<Kernel> {
  const { default: Module } = await import('manifold-3d')
  const wasmBinary = readFileSync(createRequire(import.meta.url).resolve('manifold-3d/manifold.wasm'))
  const kernel = await Module({ wasmBinary } as unknown as Parameters<typeof Module>[0])
  kernel.setup()
  return kernel
}
