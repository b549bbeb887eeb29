import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readdirSync, readFileSync, statSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { liesBeside } from './packages.mjs'
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

/** A program for Node and what its threads run, each with what it needs of ours; packages stay outside. */
async function bundle(part, entries, out, inside = () => false) {
  const { rolldown } = await import('rolldown')
  const made = await rolldown({
    input: Object.fromEntries(
      Object.entries(entries).map(([name, source]) => [name, join(root, part, 'src', source)]),
    ),
    platform: 'node',
    tsconfig: join(root, part, 'tsconfig.json'),
    external: (id) =>
      !id.startsWith('.') &&
      !id.startsWith('/') &&
      !id.startsWith('@verimend/') &&
      !inside(id) &&
      // what is built may lie elsewhere
      !liesBeside(part, id),
    logLevel: 'warn',
  })
  await made.write({
    dir: out,
    entryFileNames: '[name].mjs',
    chunkFileNames: '[name]-[hash].mjs',
    format: 'esm',
    sourcemap: true,
    keepNames: true,
  })
  await made.close()
}

const parts = {
  server: {
    out: 'server/dist',
    sources: ['core/src', 'contract/src', 'server/src', 'package-lock.json', 'scripts/lib/build.mjs'],
    // helpers of the compiler belong into what it made
    make: (out) =>
      bundle('server', { main: 'main.ts', worker: 'compute/worker.ts', tools: 'tools.ts' }, out, (id) =>
        id.startsWith('@oxc-project/'),
      ),
  },
  standin: {
    out: 'standin/dist',
    sources: ['core/src', 'standin/src', 'package-lock.json', 'scripts/lib/build.mjs'],
    make: (out) => bundle('standin', { main: 'process/main.ts', worker: 'process/worker.ts' }, out),
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
      'scripts/lib/packed.mjs',
    ],
    async make() {
      const { build } = await import('vite')
      // it sets this for the whole process, and so for all that is started from it later
      const { NODE_ENV } = process.env
      try {
        await build({
          root: join(root, 'web'),
          logLevel: 'error',
          configFile: join(root, 'web/vite.config.ts'),
        })
      } finally {
        if (NODE_ENV === undefined) delete process.env.NODE_ENV
        else process.env.NODE_ENV = NODE_ENV
      }
      const { packed } = await import('./packed.mjs')
      await packed(join(root, 'web/dist/assets'))
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
