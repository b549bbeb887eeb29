import { spawnSync } from 'node:child_process'
import { existsSync } from 'node:fs'
import { join } from 'node:path'
import { root } from './run.mjs'

/** What git says, a line each; throws what it says instead when it fails. */
function git(...args) {
  const { status, stdout, stderr } = spawnSync('git', args, { cwd: root, encoding: 'utf8' })
  if (status !== 0) throw new Error(stderr.trim())
  return stdout.split('\n').filter(Boolean)
}

/**
 * Files that differ from a commit, new ones included and those that are gone left out, as paths from the root.
 * @param since a commit; the last one when none is given
 */
export const changedFiles = (since = 'HEAD') =>
  [
    ...new Set([
      ...git('diff', '--name-only', since, '--'),
      ...git('ls-files', '--others', '--exclude-standard'),
    ]),
  ].filter((path) => existsSync(join(root, path)))

/** What decides how everything is tested: when it changes, every test can change. */
const EVERYTHING =
  /^(package(-lock)?\.json|jest\.config\.mjs|scripts\/lib\/testBundle\.mjs)$|(^|\/)package\.json$/

/**
 * Test files that can come out differently, from those that reach a changed file.
 * @param reached what each test file reaches, as `reachedBy` says
 * @param changed paths from the root
 */
export function testsOfChange(reached, changed) {
  const all = [...reached.keys()].filter((path) => /\.test\.tsx?$/.test(path))
  if (changed.some((path) => EVERYTHING.test(path))) return all
  const files = new Set(changed)
  // what a test reads and does not import lies beside it, or is named after a folder of its own
  const beside = (path) =>
    changed.some((file) => file.startsWith(`${path.split('/')[0]}/test/`) && !/\.tsx?$/.test(file))
  return all.filter((path) => beside(path) || reached.get(path).some((module) => files.has(module)))
}
