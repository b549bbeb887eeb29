import { readdirSync, rmSync, watch } from 'node:fs'
import { join } from 'node:path'
import { root } from './run.mjs'

const SOURCE = 'web/src'
const OUT = '.cache/styles'
const isStyle = (name) => name.endsWith('.module.css')

async function typer() {
  const { default: creator } = await import('typed-css-modules')
  const types = new creator.default({ rootDir: root, searchDir: SOURCE, outDir: OUT, camelCase: true })
  return async (name) => (await types.create(join(root, SOURCE, name), undefined, true)).writeFile()
}

/**
 * Writes the types of the class names, so that a name that is not in its stylesheet does not compile.
 * They lie in .cache/styles, which web's tsconfig lays over web/src.
 */
export async function typeStyles() {
  rmSync(join(root, OUT), { recursive: true, force: true })
  const write = await typer()
  for (const name of readdirSync(join(root, SOURCE), { recursive: true }))
    if (isStyle(name)) await write(name)
}

/** The same, and again for a stylesheet that changes. */
export async function keepStylesTyped() {
  await typeStyles()
  const write = await typer()
  watch(join(root, SOURCE), { recursive: true }, (_, name) => {
    // one that was taken away has no types to write
    if (name && isStyle(name)) void write(name).catch(() => {})
  })
}
