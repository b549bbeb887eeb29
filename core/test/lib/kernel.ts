import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import Module from 'manifold-3d'
import type { Kernel } from '../../src/geometry'

/** The kernel for solids and polygons, loaded once for all tests of a file. */
export const kernelReady: Promise<Kernel> = Module({
  wasmBinary: readFileSync(join(__dirname, '../../../node_modules/manifold-3d/manifold.wasm')),
} as unknown as Parameters<typeof Module>[0]).then((k) => {
  k.setup()
  return k
})
