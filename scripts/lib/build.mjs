import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './run.mjs'
import { step } from './say.mjs'

/** A fingerprint of source files by path, size and content. */
function fingerprint(places) {
  const hash = createHash('sha256').update(process.version)
  const walk = (path) => {
    if (!existsSync(path)) return
    if (statSync(path).isDirectory()) {
      for (const name of readdirSync(path).sort())
        if (name !== 'dist' && name !== 'node_modules') walk(join(path, name))
    } else hash.update(path.slice(root.length)).update(readFileSync(path))
  }
  for (const p of places) walk(join(root, p))
  return hash.digest('hex')
}

const parts = {
  server: {
    out: 'server/dist',
    sources: ['core/src', 'contract/src', 'server/src', 'package-lock.json', 'scripts/lib/build.mjs'],
    async make(out) {
      const { rolldown } = await import('rolldown')
      const bundle = await rolldown({
        input: {
          main: join(root, 'server/src/main.ts'),
          // what the threads run
          worker: join(root, 'server/src/compute/worker.ts'),
        },
        platform: 'node',
        tsconfig: join(root, 'server/tsconfig.json'),
        external: (id) =>
          !id.startsWith('.') &&
          !id.startsWith('/') &&
          !id.startsWith('@verimend/') &&
          !id.startsWith('@oxc-project/'),
        logLevel: 'warn',
      })
      await bundle.write({
        dir: out,
        entryFileNames: '[name].mjs',
        chunkFileNames: '[name]-[hash].mjs',
        format: 'esm',
        sourcemap: true,
        keepNames: true,
      })
      await bundle.close()
    },
  },
  standin: {
    out: 'standin/dist',
    sources: ['core/src', 'standin/src', 'package-lock.json', 'scripts/lib/build.mjs'],
    async make(out) {
      const { rolldown } = await import('rolldown')
      const bundle = await rolldown({
        input: {
          main: join(root, 'standin/src/process/main.ts'),
          // what the thread runs
          worker: join(root, 'standin/src/process/worker.ts'),
        },
        platform: 'node',
        tsconfig: join(root, 'standin/tsconfig.json'),
        external: (id) => !id.startsWith('.') && !id.startsWith('/') && !id.startsWith('@verimend/'),
        logLevel: 'warn',
      })
      await bundle.write({
        dir: out,
        entryFileNames: '[name].mjs',
        chunkFileNames: '[name]-[hash].mjs',
        format: 'esm',
        sourcemap: true,
        keepNames: true,
      })
      await bundle.close()
    },
  },
  web: {
    out: 'web/dist',
    sources: [
      'core/src',
      'contract/src',
      'web/src',
      'web/public',
      'web/index.html',
      'web/vite',
      'web/vite.config.ts',
      'package-lock.json',
    ],
    async make() {
      const { build } = await import('vite')
      await build({
        root: join(root, 'web'),
        logLevel: 'error',
        configFile: join(root, 'web/vite.config.ts'),
      })
    },
  },
}

/**
 * Builds what is stale; says nothing when nothing is.
 * @param names which parts
 * @param elsewhere a folder of its own for what is built, so that what runs from the usual one is left alone
 */
export async function buildStale(names = Object.keys(parts), elsewhere) {
  for (const name of names) {
    const part = parts[name]
    const out = elsewhere ? join(root, elsewhere, name) : join(root, part.out)
    const stamp = join(out, '.built')
    const now = fingerprint(part.sources)
    if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) continue
    await step(`Building the ${name}`, () => part.make(out))
    mkdirSync(out, { recursive: true })
    writeFileSync(stamp, now)
  }
}
