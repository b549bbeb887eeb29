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
            Object.assign(new Error(`${command} ${args.join(' ')} ended with ${code}\n${out.slice(-1500)}`), {
              out,
              code,
            }),
          ),
    )
  })
}

export const has = (command) =>
  spawnSync('sh', ['-c', `command -v ${command}`], { stdio: 'ignore' }).status === 0

/** Installs a Debian package when the command is missing; says the one command to type where it may not. */
export async function needDebian(command, debianPackage, why) {
  if (has(command)) return
  if (process.getuid?.() !== 0)
    throw new Error(
      `Verimend needs ${why}. Type this once, then start again:\n\n  sudo apt-get install -y ${debianPackage}\n`,
    )
  const env = { ...process.env, DEBIAN_FRONTEND: 'noninteractive' }
  try {
    await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', debianPackage], { env })
  } catch {
    await run('apt-get', ['update', '-qq'], { env })
    await run('apt-get', ['install', '-y', '-qq', '--no-install-recommends', debianPackage], { env })
  }
}
