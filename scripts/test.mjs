#!/usr/bin/env node
// All checks, or those of one file. Last line: N passed, N failed.
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { needPackages } from './lib/packages.mjs'
import { needDebian, root, run } from './lib/run.mjs'
import { say, step } from './lib/say.mjs'

const HELP = `npm test                          everything
npm test -- core/test/findings    one file, or all whose path holds these words
npm test -- e2e/paths             one journey
npm test -- core/test/findings -t "name of a test"
npm test -- types | text          types only; lint, format and dependencies only`

const bin = (name) => join(root, 'node_modules', '.bin', name)
const results = join(root, 'test-results')
/** What is typed alike is checked in one go: core is in all of it. */
const PARTS = {
  'core, contract and stand-in': 'tsconfig.plain.json',
  server: 'server',
  web: 'web',
  e2e: 'e2e',
}
let passed = 0
let failed = 0

/** One check that is a whole command. */
async function check(text, command, args) {
  try {
    const from = Date.now()
    await run(command, args)
    say(`· ${text} … ${((Date.now() - from) / 1000).toFixed(1)} s`)
    passed++
  } catch (error) {
    failed++
    say(`· ${text} … failed`)
    say(error.message)
  }
}
const readJson = (path) => {
  try {
    return JSON.parse(readFileSync(path, 'utf8'))
  } catch {
    return null
  }
}

async function types() {
  const { typeStyles } = await import('./lib/styles.mjs')
  await typeStyles()
  for (const [part, project] of Object.entries(PARTS))
    await check(`Types of ${part}`, bin('tsc'), ['-p', project])
}

async function text() {
  await check('Lint', bin('eslint'), ['.'])
  await check('Format', bin('prettier'), ['--check', '.'])
  await check('Floors and doors', bin('depcruise'), [
    '--config',
    '.dependency-cruiser.cjs',
    ...['core/src', 'contract/src', 'server/src', 'standin/src', 'web/src', 'e2e', 'scripts'],
  ])
}

async function jest(args = []) {
  const file = join(results, 'jest.json')
  let out = ''
  await step('Tests of core, contract, server, stand-in and web', () =>
    run(bin('jest'), ['--maxWorkers=2', '--json', `--outputFile=${file}`, ...args]).catch(
      (error) => (out = error.message),
    ),
  )
  const report = readJson(file)
  if (!report || !report.numTotalTestSuites) {
    failed++
    say(out || 'No test file has such a path.')
    return
  }
  passed += report.numPassedTests
  failed += report.numFailedTests + report.numRuntimeErrorTestSuites
  for (const suite of report.testResults)
    if (suite.status === 'failed') say(`\n${suite.name.slice(root.length + 1)}\n${suite.message}`)
}

async function journeys(args = []) {
  const { buildStale } = await import('./lib/build.mjs')
  await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  await needDebian('chromium', 'chromium', 'Chromium for the browser journeys')
  await buildStale()
  const file = join(results, 'e2e.json')
  let out = ''
  await step('Browser journeys and the crash test', () =>
    run(bin('playwright'), ['test', '-c', 'e2e', ...args]).catch((error) => (out = error.message)),
  )
  const report = readJson(file)
  if (!report) {
    failed++
    say(out)
    return
  }
  passed += report.stats.expected + report.stats.flaky
  failed += report.stats.unexpected + report.errors.length
  if (report.stats.unexpected || report.errors.length) say(out)
}

const args = process.argv.slice(2)
const [what] = args
if (what === '--help' || what === '-h') {
  say(HELP)
  process.exit(0)
}
rmSync(results, { recursive: true, force: true })
mkdirSync(results, { recursive: true })
try {
  await needPackages()
  if (what === 'types') await types()
  else if (what === 'text') await text()
  else if (what?.startsWith('e2e')) await journeys(args)
  else {
    await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
    if (what) await jest(args)
    else {
      // two lanes: types in one, everything about the text in the other
      await Promise.all([types(), text()])
      await jest()
      await journeys()
    }
  }
} catch (error) {
  failed++
  say(error.message)
}
say(`${passed} passed, ${failed} failed`)
process.exit(failed || !passed ? 1 : 0)
