import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { root, run } from './run.mjs'
import { step } from './say.mjs'

const stamp = join(root, 'node_modules', '.verimend-installed')

/** Installs the npm packages when they are missing or another lock file was used. */
export async function needPackages() {
  const wanted = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  await step('Installing packages (a few minutes the first time)', () =>
    run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--ignore-scripts']),
  )
  mkdirSync(join(root, 'node_modules'), { recursive: true })
  writeFileSync(stamp, wanted)
}
