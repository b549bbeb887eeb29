#!/usr/bin/env node
// All checks, or those of one file. Last line: N passed, N failed.
import { mkdirSync, rmSync } from 'node:fs'
import { needPackages } from './lib/packages.mjs'
import { say, sinceStart } from './lib/say.mjs'

const HELP = `npm test                          everything
npm test -- --times               everything, and where the minutes went; --write keeps that in docs/tests.md
npm test -- --changed             what can come out differently since the last commit
npm test -- --changed=COMMIT      the same, since a commit
npm test -- core/test/findings    one file, or all whose path holds these words
npm test -- e2e/paths             one journey
npm test -- core/test/findings -t "name of a test"
npm test -- types | text          types only; lint, format and dependencies only`

const args = process.argv.slice(2)
const own = {
  times: args.includes('--times'),
  write: args.includes('--write'),
  changed: args.find((a) => /^--changed(=|$)/.test(a)),
}
const given = args.filter((a) => a !== '--times' && a !== '--write' && a !== own.changed)
const [what] = given
if (what === '--help' || what === '-h') {
  say(HELP)
  process.exit(0)
}

/** What can come out differently, in the order in which one wants to know it. */
async function changed(since) {
  const { changedFiles, testsOfChange } = await import('./lib/changed.mjs')
  const { reachedBy } = await import('./lib/testBundle.mjs')
  const files = changedFiles(since)
  say(`${files.length} files differ from ${since ?? 'the last commit'}.`)
  const tests = testsOfChange(await reachedBy(), files)
  const specs = files.filter((file) => /^e2e\/[^/]+\.spec\.ts$/.test(file))
  await checks.whole({ files, build: false })
  if (tests.length) await checks.jest(tests)
  if (specs.length) await checks.journeys(specs)
  else say('No journey was changed itself, so none was run; npm test runs them all.')
}

const start = Date.now()
let checks = null
try {
  await needPackages()
  checks = await import('./lib/checks.mjs')
  const { outcome, journeys, jest, types, text, whole, RESULTS } = checks
  rmSync(RESULTS, { recursive: true, force: true })
  mkdirSync(RESULTS, { recursive: true })
  const { allTests } = await import('./lib/testBundle.mjs')
  if (own.changed) await changed(own.changed.split('=')[1])
  else if (what === 'types') await types()
  else if (what === 'text') await text()
  else if (what?.startsWith('e2e')) await journeys(given)
  else if (what)
    await jest(
      allTests().filter((path) => path.includes(what)),
      given.slice(1),
    )
  else {
    await whole()
    await jest(allTests())
    await journeys()
  }
  if (own.times) {
    const { timesTables } = await import('./lib/times.mjs')
    const tables = timesTables(outcome.times, (Date.now() - start) / 1000).join('\n\n')
    say(`\n${tables}\n`)
    if (own.write) await (await import('./lib/page.mjs')).renewSection('docs/tests.md', 'times', tables)
  }
  if (outcome.secondTry.length)
    say(`Passed only at a second try:\n${outcome.secondTry.map((name) => `  ${name}`).join('\n')}`)
} catch (error) {
  if (checks) checks.outcome.failed++
  say(error.message)
}
const { passed, failed } = checks?.outcome ?? { passed: 0, failed: 1 }
say(`That took ${sinceStart()}.`)
say(`${passed} passed, ${failed} failed`)
process.exit(failed || !passed ? 1 : 0)
