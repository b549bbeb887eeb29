import { readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, run } from './run.mjs'

/**
 * Renews what stands between `<!-- name -->` and `<!-- /name -->` on a page, and lays the page out.
 * @param page path from the repository's root
 */
export async function renewSection(page, name, text) {
  const file = join(root, page)
  const [open, close] = [`<!-- ${name} -->`, `<!-- /${name} -->`]
  const [before, rest] = readFileSync(file, 'utf8').split(open)
  const after = rest?.split(close)[1]
  if (after === undefined) throw new Error(`${page} has no section ${name}.`)
  writeFileSync(file, `${before}${open}\n\n${text.trim()}\n\n${close}${after}`)
  await run(join(root, 'node_modules/.bin/prettier'), ['--write', file])
}
