import { spawn, spawnSync } from 'node:child_process'
import { fileURLToPath } from 'node:url'
import { dirname, join } from 'node:path'

export const root = join(dirname(fileURLToPath(import.meta.url)), '..', '..')

/** Runs a command to its end; rejects with what it printed when it fails. */
export function run(command, args, options = {}) {
  return new Promise((resolve, reject) => {
    const child = spawn(command, args, { cwd: root, stdio: ['ignore', 'pipe', 'pipe'], ...options })
    let out = ''
    const keep = (d) => {
      out += d
      if (out.length > 400_000) out = out.slice(-200_000)
      if (options.show) process.stdout.write(d)
    }
    child.stdout?.on('data', keep)
    child.stderr?.on('data', keep)
    child.on('error', reject)
    child.on('close', (code) =>
      code === 0
        ? resolve(out)
        : reject(
            Object.assign(
              new Error(`${command} ${args.join(' ')} ended with ${code}\n${out.slice(-20_000)}`),
              {
                out,
                code,
              },
            ),
          ),
    )
  })
}

export const has = (command) =>
  spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0

/** How long another installation on this machine is waited for, s. */
const APT_WAIT_S = 300

/** Installs a Debian package when the command is missing; says the one command to type where it may not. */
export async function needDebian(command, debianPackage, why) {
  if (has(command)) return
  if (process.getuid?.() !== 0)
    throw new Error(
      `Verimend needs ${why}. Type this once, then start again:\n\n  sudo apt-get install -y ${debianPackage}\n`,
    )
  const apt = (...args) =>
    run('apt-get', ['-o', `DPkg::Lock::Timeout=${APT_WAIT_S}`, ...args], {
      env: { ...process.env, DEBIAN_FRONTEND: 'noninteractive' },
    })
  const install = () => apt('install', '-y', '-qq', '--no-install-recommends', debianPackage)
  await whenUnlocked(async () => {
    try {
      await install()
    } catch {
      await apt('update', '-qq')
      await install()
    }
  })
}

/** Runs it again while somebody else holds a lock of apt that has no waiting of its own. */
async function whenUnlocked(work) {
  for (const until = Date.now() + APT_WAIT_S * 1000; ;) {
    try {
      return await work()
    } catch (error) {
      if (!/Could not get lock|Unable to lock/.test(error.message) || Date.now() > until) throw error
      await new Promise((r) => setTimeout(r, 2000))
    }
  }
}
