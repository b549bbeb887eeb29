// The checks that `npm test` makes, each counted and timed.
import { appendFileSync, existsSync, readFileSync, rmSync } from 'node:fs'
import { join, relative } from 'node:path'
import { buildStale } from './build.mjs'
import { needDebian, root, run } from './run.mjs'
import { say, step } from './say.mjs'
import { bundleTests, sourceOf } from './testBundle.mjs'

const bin = (name) => join(root, 'node_modules', '.bin', name)
export const RESULTS = join(root, 'test-results')
const LANES = 2

/** What came of all checks so far. */
export const outcome = { passed: 0, failed: 0, secondTry: [], times: [] }

const timed = async (what, work) => {
  const from = Date.now()
  try {
    return await work()
  } finally {
    outcome.times.push({ kind: 'stage', what, s: (Date.now() - from) / 1000 })
  }
}

/** One check that is a whole command. */
async function check(what, command, args) {
  const from = Date.now()
  try {
    await timed(what, () => run(command, args))
    outcome.passed++
    say(`· ${what} … ${((Date.now() - from) / 1000).toFixed(1)} s`)
  } catch (error) {
    outcome.failed++
    say(`· ${what} … failed`)
    say(error.message)
  }
}

/**
 * Runs tasks in lanes, in their order; one that needs another waits for it.
 * @param tasks what each is called, what it does, and the one that has to be done before
 */
async function inLanes(tasks) {
  const done = new Map()
  const waiting = [...tasks]
  const lane = async () => {
    for (let task = waiting.shift(); task; task = waiting.shift()) {
      const { name, after, work } = task
      done.set(name, Promise.resolve(after && done.get(after)).then(work))
      await done.get(name)
    }
  }
  await Promise.all(Array.from({ length: LANES }, lane))
}

/** The sources that all share are checked once; the others are checked against what they declare. */
const TYPES = [
  { name: 'Types of core, contract and stand-in', project: 'tsconfig.sources.json' },
  { name: 'Types of web', project: 'web' },
  { name: 'Types of server', project: 'server' },
  { name: 'Types of the tests of core, contract and stand-in', project: 'tsconfig.plain.json' },
  { name: 'Types of e2e', project: 'e2e' },
]
const typeTasks = () =>
  TYPES.map(({ name, project }, i) => ({
    name,
    after: i ? TYPES[0].name : 'Styles',
    work: () => check(name, bin('tsc'), ['-p', project]),
  }))
const styleTask = {
  name: 'Styles',
  work: async () => (await import('./styles.mjs')).typeStyles(),
}
const CODE = ['core/src', 'contract/src', 'server/src', 'standin/src', 'web/src', 'e2e', 'scripts']
/** @param files those that lint and format look at; everything when none are given */
const textTasks = (files) => {
  const of = (pattern) => files?.filter((file) => pattern.test(file)) ?? ['.']
  const [linted, formatted] = [of(/\.(tsx?|mjs|cjs)$/), of(/./)]
  return [
    {
      name: 'Lint',
      work: () => linted.length && check('Lint', bin('eslint'), ['--no-warn-ignored', ...linted]),
    },
    {
      name: 'Format',
      work: () =>
        formatted.length && check('Format', bin('prettier'), ['--check', '--ignore-unknown', ...formatted]),
    },
    {
      name: 'Floors and doors',
      work: () =>
        check('Floors and doors', bin('depcruise'), ['--config', '.dependency-cruiser.cjs', ...CODE]),
    },
  ]
}

export const types = () => inLanes([styleTask, ...typeTasks()])
export const text = (files) => inLanes(textTasks(files))

/** Everything that is read and not run, with the build in the same lanes. */
export async function whole({ files, build = true } = {}) {
  const [declared, web, ...otherTypes] = typeTasks()
  const [lint, ...otherText] = textTasks(files)
  await inLanes([
    styleTask,
    declared,
    lint,
    web,
    ...otherText,
    ...otherTypes,
    ...(build ? [{ name: 'Build', work: () => timed('Build', buildStale) }] : []),
  ])
}

const readJson = (path) => {
  try {
    return JSON.parse(readFileSync(path, 'utf8'))
  } catch {
    return null
  }
}

/**
 * The tests of core, contract, stand-in, web and server.
 * @param sources test files, as paths from the root
 * @param flags for Jest
 */
export async function jest(sources, flags = []) {
  if (!sources.length) {
    outcome.failed++
    say('No test file has such a path.')
    return
  }
  await timed('Bundling of tests', () => bundleTests(sources))
  if (sources.some((path) => path.startsWith('server/'))) {
    await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
    await buildStale(['server'])
  }
  const [report, cpu] = [join(RESULTS, 'jest.json'), join(RESULTS, 'cpu.jsonl')]
  rmSync(report, { force: true })
  let out = ''
  await step(`Tests of core, contract, server, stand-in and web (${sources.length} files)`, () =>
    timed('Unit tests', () =>
      run(
        bin('jest'),
        [`--maxWorkers=${LANES}`, '--forceExit', '--json', `--outputFile=${report}`, ...flags],
        {
          env: { ...process.env, VERIMEND_CPU_FILE: cpu },
        },
      ).catch((error) => (out = error.message)),
    ),
  )
  const result = readJson(report)
  if (!result?.numTotalTestSuites) {
    outcome.failed++
    say(out || 'No test was found.')
    return
  }
  outcome.passed += result.numPassedTests
  outcome.failed += result.numFailedTests + result.numRuntimeErrorTestSuites
  const suites = new Map(result.testResults.map((suite) => [suite.name, suite]))
  for (const { name, status, message, assertionResults } of suites.values()) {
    if (status === 'failed') say(`\n${sourceOf(name)}\n${message}`)
    for (const { title, invocations } of assertionResults)
      if (invocations > 1) outcome.secondTry.push(`${sourceOf(name)}: ${title}`)
  }
  if (existsSync(cpu))
    for (const line of readFileSync(cpu, 'utf8').trim().split('\n')) {
      const { path, s } = JSON.parse(line)
      const { startTime, endTime } = suites.get(path) ?? {}
      outcome.times.push({ kind: 'unit', what: sourceOf(path), s: (endTime - startTime) / 1000, cpu: s })
    }
}

/** All tests of a Playwright report, with the file they are in. */
function* specsOf(suite, file = suite.file) {
  for (const spec of suite.specs ?? []) yield { file, ...spec }
  for (const inner of suite.suites ?? []) yield* specsOf(inner, inner.file ?? file)
}

/** The journeys in a browser, and what is tried on the application as a whole. */
export async function journeys(args = []) {
  await needDebian('mariadbd', 'mariadb-server', 'the MariaDB server')
  await needDebian('chromium-headless-shell', 'chromium-headless-shell', 'Chromium for the browser journeys')
  await timed('Build', buildStale)
  const file = join(RESULTS, 'e2e.json')
  rmSync(file, { force: true })
  let out = ''
  await step('Browser journeys and the crash test', () =>
    timed('Journeys', () =>
      run(bin('playwright'), ['test', '-c', 'e2e', ...args]).catch((error) => (out = error.message)),
    ),
  )
  const report = readJson(file)
  if (!report) {
    outcome.failed++
    say(out)
    return
  }
  const { expected, flaky, unexpected } = report.stats
  outcome.passed += expected + flaky
  outcome.failed += unexpected + report.errors.length
  for (const { file, title, tests } of report.suites.flatMap((suite) => [...specsOf(suite)]))
    for (const { status, results } of tests) {
      const s = results.reduce((sum, { duration }) => sum + duration, 0) / 1000
      outcome.times.push({ kind: 'journey', what: `${file}: ${title}`, s })
      if (status === 'flaky') outcome.secondTry.push(`e2e/${relative('.', file)}: ${title}`)
    }
  if (unexpected || report.errors.length) say(out)
  const pages = unexpected || flaky ? pagesOfFailed(report) : ''
  if (pages) say(pages)
}

/** Longest that is told of a page on which a journey failed, lines. */
const PAGE_LINES = 60

/** What stood on the page where a journey failed, as the browser keeps it. */
function pagesOfFailed(report) {
  return report.suites
    .flatMap((suite) => [...specsOf(suite)])
    .flatMap(({ title, tests }) =>
      tests.flatMap(({ status, results }) =>
        status === 'expected'
          ? []
          : results.flatMap(({ attachments }) =>
              attachments
                .filter(({ name, path }) => name === 'error-context' && existsSync(path))
                .flatMap(({ path }) => {
                  const [, page] = /^```yaml\n(.*?)^```/ms.exec(readFileSync(path, 'utf8')) ?? []
                  if (!page) return []
                  return `On the page of "${title}":\n${page.split('\n').slice(0, PAGE_LINES).join('\n')}`
                }),
            ),
      ),
    )
    .join('\n')
}

export function keepTimes() {
  for (const line of outcome.times) appendFileSync(join(RESULTS, 'times.jsonl'), `${JSON.stringify(line)}\n`)
}
