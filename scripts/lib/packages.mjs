import { createHash } from 'node:crypto'
import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { identity, isThere } from './processes.mjs'
import { root, run } from './run.mjs'
import { step } from './say.mjs'

const stamp = join(root, 'node_modules', '.verimend-installed')
/** Who is installing, or was when it was ended half way. */
const mark = join(root, '.cache', 'installing')
const whoInstalls = () => (existsSync(mark) ? readFileSync(mark, 'utf8') : null)
const pause = (ms) => new Promise((r) => setTimeout(r, ms))

/** Installs the npm packages when they are missing or another lock file was used; what was ended half way begins anew. */
export async function needPackages() {
  const wanted = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex')
  for (let who = whoInstalls(); who !== null && isThere(who); who = whoInstalls()) await pause(500)
  if (whoInstalls() !== null) rmSync(join(root, 'node_modules'), { recursive: true, force: true })
  else if (existsSync(stamp) && readFileSync(stamp, 'utf8') === wanted) return
  mkdirSync(join(root, '.cache'), { recursive: true })
  writeFileSync(mark, identity(process.pid))
  await step('Installing packages (a few minutes the first time)', () =>
    run('npm', ['install', '--no-save', '--no-audit', '--no-fund', '--ignore-scripts']),
  )
  mkdirSync(join(root, 'node_modules'), { recursive: true })
  writeFileSync(stamp, wanted)
  rmSync(mark, { force: true })
}

/** Whether a package lies beside one part alone: from elsewhere another one of its name is found, or none. */
export const liesBeside = (part, name) => existsSync(join(root, part, 'node_modules', ...name.split('/')))
