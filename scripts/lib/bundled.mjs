import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { root, run } from './run.mjs'

/**
 * Bundles a program that is written on core and runs it.
 * @param source from the root of the project
 * @param options packages that are not taken into it, the MB it may hold, and whether what it says is kept and handed back
 */
export async function bundled(source, name, args = [], { external = [], heap, keep = false } = {}) {
  const { rolldown } = await import('rolldown')
  const bundle = await rolldown({
    input: join(root, source),
    platform: 'node',
    // what lies beside them belongs to them
    external: ['manifold-3d', 'sharp', ...external],
  })
  mkdirSync(join(root, '.cache'), { recursive: true })
  const file = join(root, `.cache/${name}.mjs`)
  await bundle.write({ file, format: 'esm' })
  const given = [...(heap ? [`--max-old-space-size=${heap}`] : []), file, ...args]
  return run(process.execPath, given, keep ? { stdio: ['ignore', 'pipe', 'inherit'] } : { stdio: 'inherit' })
}
