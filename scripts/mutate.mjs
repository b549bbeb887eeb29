#!/usr/bin/env node
// Changes the code in one place at a time and looks whether a test notices.
import { existsSync, mkdirSync, readFileSync, readdirSync, rmSync, statSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { needPackages } from './lib/packages.mjs'
import { root, run } from './lib/run.mjs'
import { say } from './lib/say.mjs'

const HELP = `npm run mutate -- core/src/measurement           a room: minutes to hours
npm run mutate -- core/src/measurement/bed.ts    a file
npm run mutate -- core/src/measurement --write   and renews its line in docs/mutants.md`

const PAGE = join(root, 'docs/mutants.md')
const OUT = join(root, '.cache', 'mutants')
/** Seconds that a test may take longer than without a change, before it counts as one that never ends. */
const PATIENCE_S = 10

const given = process.argv.slice(2)
const write = given.includes('--write')
const [what, ...more] = given.filter((word) => word !== '--write')
if (!what || more.length || !/^core\/src\/\w+/.test(what) || !existsSync(join(root, what))) {
  say(HELP)
  process.exit(what ? 1 : 0)
}

/** Source files at a path, from the root. */
const filesOf = (path) =>
  statSync(join(root, path)).isDirectory()
    ? readdirSync(join(root, path), { recursive: true })
        .filter((name) => name.endsWith('.ts'))
        .map((name) => `${path}/${name}`)
    : [path]

await needPackages()
const { allTests, reachedBy } = await import('./lib/testBundle.mjs')
const { testsOfChange } = await import('./lib/changed.mjs')
const mutated = filesOf(what)
const room = what.split('/')[2]
// those that ask the room itself: what others notice of it by the way takes hours to find out
const tests = testsOfChange(
  await reachedBy(allTests().filter((path) => path.startsWith('core/'))),
  mutated,
).filter((path) => readFileSync(join(root, path), 'utf8').includes(`src/${room}'`))
if (!tests.length) {
  say(`No test reaches ${what}.`)
  process.exit(1)
}
say(`${mutated.length} files, ${tests.length} test files that reach them.`)
rmSync(OUT, { recursive: true, force: true })
mkdirSync(OUT, { recursive: true })
const report = join(OUT, 'report.json')
writeFileSync(
  join(OUT, 'config.json'),
  JSON.stringify({
    mutate: mutated,
    testRunner: 'jest',
    jest: {
      projectType: 'custom',
      enableFindRelatedTests: false,
      config: {
        rootDir: '.cache/tests/core',
        testEnvironment: 'node',
        testMatch: ['<rootDir>/test/**/*.test.cjs'],
        transform: {},
        testTimeout: 120_000,
      },
    },
    // each mutant lies in the bundle beside all others, and is switched on by its number
    buildCommand: `node scripts/lib/testBundle.mjs ${tests.join(' ')}`,
    coverageAnalysis: 'perTest',
    // a change of what is worked out when a module is loaded would need every test again
    ignoreStatic: true,
    ignorePatterns: ['.cache', 'data*', 'docs/screenshots', '**/dist', 'test-results', 'web/public'],
    tempDirName: '.cache/mutants/sandbox',
    timeoutMS: PATIENCE_S * 1000,
    concurrency: 2,
    reporters: ['json', 'progress-append-only'],
    jsonReporter: { fileName: report },
  }),
)
await run(join(root, 'node_modules/.bin/stryker'), ['run', join(OUT, 'config.json')], {
  stdio: 'inherit',
  env: { ...process.env, CI: 'true' },
})

const { files } = JSON.parse(readFileSync(report, 'utf8'))
const mutants = Object.entries(files).flatMap(([file, { mutants }]) =>
  mutants.map((mutant) => ({ file, ...mutant })),
)
const noticed = mutants.filter(({ status }) => status === 'Killed' || status === 'Timeout')
const valid = mutants.filter(({ status }) => !['CompileError', 'RuntimeError', 'Ignored'].includes(status))
for (const { file, location, mutatorName, replacement, status } of mutants)
  if (status === 'Survived' || status === 'NoCoverage') {
    const told = (replacement ?? '').replace(/\s+/g, ' ').slice(0, 80)
    say(`${file}:${location.start.line}:${location.start.column} ${mutatorName} ${told}`)
  }
const share = Math.round((1000 * noticed.length) / valid.length) / 10
say(`\n${basename(what)}: ${noticed.length} of ${valid.length} changes noticed, ${share} %`)

if (write) {
  const day = new Date().toISOString().slice(0, 10)
  const row = `| \`${what}\` | ${valid.length} | ${noticed.length} | ${share} % | ${day} |`
  const lines = readFileSync(PAGE, 'utf8').split('\n')
  const at = lines.findIndex((line) => line.startsWith(`| \`${what}\` |`))
  if (at >= 0) lines[at] = row
  else lines.splice(lines.findLastIndex((line) => line.startsWith('|')) + 1, 0, row)
  writeFileSync(PAGE, lines.join('\n'))
}
