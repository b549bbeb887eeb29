import {
  cpSync,
  existsSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { tmpdir } from 'node:os'
import { join, relative, sep } from 'node:path'

const root = join(import.meta.dirname, '..', '..')
const LEFT_OUT = new Set([
  'node_modules',
  '.git',
  '.cache',
  'dist',
  'data',
  'data-dev',
  'test-results',
  'screenshots',
])
const PARTS = ['core', 'contract', 'server', 'standin', 'web', 'e2e']

/** A folder of links to what another one holds. */
function linked(from: string, to: string, except: string[] = []): void {
  mkdirSync(to, { recursive: true })
  for (const name of readdirSync(from))
    if (!except.includes(name)) symlinkSync(join(from, name), join(to, name))
}

/** A copy of this checkout that can be changed while others work in it; packages are shared, our own parts are the copy’s. */
export function scratchCheckout(): string {
  const folder = mkdtempSync(join(tmpdir(), 'verimend-checkout-'))
  cpSync(root, folder, {
    recursive: true,
    filter: (path) => !LEFT_OUT.has(relative(root, path).split(sep).at(-1)!),
  })
  linked(join(root, 'node_modules'), join(folder, 'node_modules'), ['@verimend', '.cache', '.vite'])
  mkdirSync(join(folder, 'node_modules', '@verimend'))
  for (const part of PARTS) {
    symlinkSync(join(folder, part), join(folder, 'node_modules', '@verimend', part))
    const own = join(root, part, 'node_modules')
    if (existsSync(own)) linked(own, join(folder, part, 'node_modules'), ['.vite'])
  }
  return folder
}

/** Changes words in a file of a checkout. */
export function change(checkout: string, file: string, from: string, to: string): void {
  const path = join(checkout, file)
  const text = readFileSync(path, 'utf8')
  if (!text.includes(from)) throw new Error(`There is no “${from}” in ${file}.`)
  writeFileSync(path, text.replaceAll(from, to))
}
