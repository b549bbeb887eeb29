import { mkdirSync } from 'node:fs'
import { join } from 'node:path'
import { root, run } from './run.mjs'

/** Bundles a program that is written on core and runs it. @param source from the root of the project */
export async function bundled(source, name, args = []) {
  const { rolldown } = await import('rolldown')
  const bundle = await rolldown({
    input: join(root, source),
    platform: 'node',
    // what lies beside them belongs to them
    external: ['manifold-3d', 'sharp'],
  })
  mkdirSync(join(root, '.cache'), { recursive: true })
  const file = join(root, `.cache/${name}.mjs`)
  await bundle.write({ file, format: 'esm' })
  await run(process.execPath, [file, ...args], { stdio: 'inherit' })
}
