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
    sources: ['core/src', 'contract/src', 'server/src', 'package-lock.json', 'scripts/lib/build.mjs'],
    stamp: 'server/dist/.built',
    async make() {
      const { rolldown } = await import('rolldown')
      const bundle = await rolldown({
        input: join(root, 'server/src/main.ts'),
        platform: 'node',
        tsconfig: join(root, 'server/tsconfig.json'),
        external: (id) =>
          !id.startsWith('.') &&
          !id.startsWith('/') &&
          !id.startsWith('@verimend/') &&
          !id.startsWith('@oxc-project/'),
        resolve: {
          alias: {
            '@verimend/core': join(root, 'core/src/index.ts'),
            '@verimend/contract': join(root, 'contract/src/index.ts'),
          },
        },
        logLevel: 'warn',
      })
      await bundle.write({
        file: join(root, 'server/dist/main.mjs'),
        format: 'esm',
        sourcemap: true,
        keepNames: true,
      })
      await bundle.close()
    },
  },
  web: {
    sources: [
      'core/src',
      'contract/src',
      'web/src',
      'web/public',
      'web/index.html',
      'web/vite.config.ts',
      'package-lock.json',
    ],
    stamp: 'web/dist/.built',
    async make() {
      const { build } = await import('vite')
      await build({ root: join(root, 'web'), logLevel: 'warn', configFile: join(root, 'web/vite.config.ts') })
    },
  },
}

/** Builds what is stale; says nothing when nothing is. */
export async function buildStale(names = Object.keys(parts)) {
  for (const name of names) {
    const part = parts[name]
    const stamp = join(root, part.stamp)
    const now = fingerprint(part.sources)
    if (existsSync(stamp) && readFileSync(stamp, 'utf8') === now) continue
    await step(`Building the ${name}`, part.make)
    mkdirSync(join(stamp, '..'), { recursive: true })
    writeFileSync(stamp, now)
  }
}
