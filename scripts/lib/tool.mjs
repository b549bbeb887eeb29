import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { root } from './run.mjs'

/**
 * Runs one of the server's tools.
 * @param env how the database is reached
 * @returns what it tells
 * @throws with its sentence, where it has one
 */
export function tool(env, ...given) {
  return new Promise((resolve, reject) => {
    const child = spawn(
      process.execPath,
      ['--enable-source-maps', join(root, 'server/dist/tools.mjs'), ...given],
      {
        cwd: root,
        stdio: ['ignore', 'pipe', 'pipe'],
        env: { ...process.env, ...env },
      },
    )
    let told = ''
    let said = ''
    child.stdout.on('data', (d) => (told += d))
    child.stderr.on('data', (d) => (said += d))
    child.on('error', reject)
    child.on('close', (code) =>
      code === 0
        ? resolve(JSON.parse(told))
        : reject(new Error(said.trim() || `${given[0]} ended with ${code}`)),
    )
  })
}
