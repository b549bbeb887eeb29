// Tests as a few files each, instead of hundreds of modules that every test file finds, transforms and loads again.
import { existsSync, readdirSync, rmSync } from 'node:fs'
import { isBuiltin } from 'node:module'
import { dirname, join, relative, sep } from 'node:path'
import { pathToFileURL } from 'node:url'
import { liesBeside } from './packages.mjs'
import { root } from './run.mjs'

const BUNDLES = join(root, '.cache', 'tests')
const TEST = /\.test\.tsx?$/

/** Projects that are bundled together, and what is special about them. */
const GROUPS = [
  { name: 'plain', projects: ['core', 'contract', 'standin'], tsconfig: 'tsconfig.plain.json' },
  {
    name: 'web',
    projects: ['web'],
    tsconfig: 'web/tsconfig.json',
    platform: 'browser',
    more: () => ['web/test/setup.ts', ...inFolder('web/src/workers', (name) => name.endsWith('.worker.ts'))],
    // a page without workers does the same work itself
    instead: { 'web/src/workers/compute.ts': 'web/test/compute.ts' },
  },
  {
    name: 'server',
    projects: ['server'],
    tsconfig: 'server/tsconfig.json',
    // helpers of the compiler, and what comes as modules only, belong into the bundle
    outside: (id) =>
      !/^(\.|\/|@verimend\/|@oxc-project\/|manifold-3d$|three)/.test(id) && !liesBeside('server', id),
  },
]
/** Packages with files of their own beside them, and those that Jest has to give. */
const external = (id) => isBuiltin(id) || /^(sharp|jsdom|rolldown|bunny|teapot|@jest\/.*)$/.test(id)

const inFolder = (folder, holds) =>
  readdirSync(join(root, folder), { recursive: true })
    .filter(holds)
    .map((name) => [folder, ...name.split(sep)].join('/'))
    .sort()

/** Every test file, as a path from the root of the project. */
export const allTests = () =>
  GROUPS.flatMap(({ projects }) =>
    projects.flatMap((project) => inFolder(`${project}/test`, (name) => TEST.test(name))),
  )

/** The test file that a bundle was made from, as a path from the root of the project. */
export function sourceOf(bundle) {
  const path = relative(BUNDLES, bundle)
    .replaceAll(sep, '/')
    .replace(/\.cjs$/, '')
  return existsSync(join(root, `${path}.ts`)) ? `${path}.ts` : `${path}.tsx`
}

/** Each module goes on knowing where it lies. */
const places = {
  name: 'places',
  transform: {
    filter: {
      id: /^[^\0]*\/(core|contract|standin|web|server)\/.*\.tsx?$/,
      code: /__dirname|import\.meta\.url/,
    },
    handler: (code, id) => ({
      code: code
        .replaceAll(/\b__dirname\b/g, JSON.stringify(dirname(id)))
        .replaceAll(/\bimport\.meta\.url\b/g, JSON.stringify(pathToFileURL(id).href)),
      // lines stay where they are
      map: null,
    }),
  },
}
/** A stylesheet is its class names, the address of a file its name. */
const notCode = {
  name: 'not-code',
  resolveId: { filter: { id: /\?url$/ }, handler: (id) => `\0${id}` },
  load: {
    filter: { id: /\.css$|\?url$/ },
    handler: (id) => ({
      code: id.endsWith('.css')
        ? 'export default new Proxy({}, { get: (_, name) => name })'
        : `export default ${JSON.stringify(id.slice(1))}`,
      moduleType: 'js',
    }),
  },
}
/** Other modules in place of some. */
const replaced = (instead) => ({
  name: 'replaced',
  async resolveId(source, importer, options) {
    if (!importer || !source.startsWith('.')) return null
    const found = await this.resolve(source, importer, { ...options, skipSelf: true })
    const other = found && instead[relative(root, found.id).replaceAll(sep, '/')]
    return other ? join(root, other) : found
  },
})
/** Bundles test files of all groups; what is made is handed on, and written where it is to be. */
async function bundles(sources, write) {
  const { rolldown } = await import('rolldown')
  const all = []
  for (const { name, projects, tsconfig, platform = 'node', more, instead, outside = external } of GROUPS) {
    const own = sources.filter((path) => projects.includes(path.split('/')[0]))
    if (!own.length) continue
    const made = await rolldown({
      input: Object.fromEntries(
        [...own, ...(more?.() ?? [])].map((path) => [path.replace(/\.tsx?$/, ''), join(root, path)]),
      ),
      platform,
      tsconfig: join(root, tsconfig),
      external: outside,
      plugins: [...(instead ? [replaced(instead)] : []), places, notCode],
      // what packages say of themselves; what is missing fails when it is loaded
      logLevel: 'silent',
    })
    const options = {
      dir: BUNDLES,
      entryFileNames: '[name].cjs',
      chunkFileNames: `chunks/${name}/[name]-[hash].cjs`,
      format: 'cjs',
      dynamicImportInCjs: false,
      sourcemap: write,
      keepNames: true,
    }
    all.push(await (write ? made.write(options) : made.generate(options)))
    await made.close()
  }
  return all
}

/**
 * Bundles test files for Jest, in place of those that were bundled before.
 * @param sources paths from the root of the project; those of one group share what they import
 */
export async function bundleTests(sources = allTests()) {
  rmSync(BUNDLES, { recursive: true, force: true })
  await bundles(sources, true)
}

/**
 * For each test file the modules of ours that it reaches, itself among them, as paths from the root.
 * @returns also what a group needs besides its tests
 */
export async function reachedBy(sources = allTests()) {
  const made = await bundles(sources, false)
  return new Map(made.flatMap(({ output }) => [...reaches(output)]))
}

/** For each entry the modules of ours in it and in all it imports. */
function* reaches(output) {
  const chunks = new Map(output.filter((o) => o.type === 'chunk').map((chunk) => [chunk.fileName, chunk]))
  for (const entry of chunks.values()) {
    if (!entry.isEntry) continue
    const files = new Set([entry.fileName])
    for (const file of files)
      for (const next of [...chunks.get(file).imports, ...chunks.get(file).dynamicImports])
        if (chunks.has(next)) files.add(next)
    const modules = [...files].flatMap((file) => chunks.get(file).moduleIds)
    const own = modules
      .map((id) => relative(root, id).replaceAll(sep, '/'))
      .filter((path) => !path.startsWith('..') && !path.includes('node_modules'))
    yield [relative(root, entry.facadeModuleId).replaceAll(sep, '/'), own]
  }
}

// named on the command line, for a copy of the checkout
if (process.argv[1] === import.meta.filename) await bundleTests(process.argv.slice(2))
