#!/usr/bin/env node
// All checks. Last line: N passed, N failed.
import { mkdirSync, readFileSync, rmSync } from 'node:fs'
import { join } from 'node:path'
import { needDebian, root, run } from './lib/run.mjs'
import { needPackages } from './lib/packages.mjs'
import { say, step } from './lib/say.mjs'

const bin = (name) => join(root, 'node_modules', '.bin', name)
const results = join(root, 'test-results')
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

async function jest() {
  const file = join(results, 'jest.json')
  let out = ''
  await step('Unit and server tests', () =>
    run(bin('jest'), ['--forceExit', '--maxWorkers=2', '--json', `--outputFile=${file}`]).catch(
      (error) => (out = error.message),
    ),
  )
  const report = readJson(file)
  if (!report) {
    failed++
    say(out)
    return
  }
  passed += report.numPassedTests
  failed += report.numFailedTests + report.numRuntimeErrorTestSuites
  for (const suite of report.testResults) if (suite.status === 'failed') say(suite.message)
}

async function journeys() {
  const file = join(results, 'e2e.json')
  let out = ''
  await step('Browser journeys and the crash test', () =>
    run(bin('playwright'), ['test', '-c', 'e2e', ...process.argv.slice(2)]).catch(
      (error) => (out = error.message),
    ),
  )
  const report = readJson(file)
  if (!report) {
    failed++
    say(out)
    return
  }
  passed += report.stats.expected + report.stats.flaky
  failed += report.stats.unexpected + report.errors.length
  if (report.stats.unexpected) say(out)
}

rmSync(results, { recursive: true, force: true })
mkdirSync(results, { recursive: true })
try {
  await needPackages()
  await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  await needDebian('chromium', 'chromium', 'Chromium for the browser journeys')
  // two lanes: types in one, everything about the text in the other
  const types = async () => {
    for (const part of ['core', 'contract', 'server', 'web', 'e2e'])
      await check(`Types of ${part}`, bin('tsc'), ['-p', part])
  }
  const text = async () => {
    await check('Lint', bin('eslint'), ['.'])
    await check('Format', bin('prettier'), ['--check', '.'])
    await check('Dependency rules', bin('depcruise'), [
      '--config',
      '.dependency-cruiser.cjs',
      'core/src',
      'contract/src',
      'server/src',
      'web/src',
    ])
  }
  await Promise.all([types(), text()])
  await jest()
  const { buildStale } = await import('./lib/build.mjs')
  await buildStale()
  await journeys()
} catch (error) {
  failed++
  say(error.message)
}
say(`${passed} passed, ${failed} failed`)
process.exit(failed || !passed ? 1 : 0)
