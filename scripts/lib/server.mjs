import { spawn } from 'node:child_process'
import { closeSync, openSync } from 'node:fs'
import { join } from 'node:path'
import { keepPrivate } from './folder.mjs'
import { root } from './run.mjs'

/**
 * Starts the server and waits until it listens.
 * @param program the built server, from the root of the project
 * @param env what it is told besides this process's own environment
 * @param log file its words go to, which outlives whoever started it; inherited when none is given
 * @param started told its number as soon as it runs
 * @returns its process, the port it listens on, and the addresses under which others find it
 * @throws when it ends, or says why it cannot start, before it listens
 */
export function startServer({ program, env, log, started }) {
  return new Promise((resolve, reject) => {
    const words = log ? openSync(log, 'a', 0o600) : 'inherit'
    if (log) keepPrivate(log)
    const child = spawn(process.execPath, ['--enable-source-maps', join(root, program)], {
      cwd: root,
      // its own group: Ctrl-C reaches the starter only, which then ends it in good order
      detached: true,
      stdio: ['ignore', words, words, 'ipc'],
      env: { ...process.env, ...env },
    })
    if (log) closeSync(words)
    started?.(child)
    child.on('message', (m) => {
      if (m.listening) resolve({ child, port: m.listening, addresses: m.addresses ?? [] })
      if (m.failed)
        reject(
          new Error(
            m.failed.includes('EADDRINUSE')
              ? `Port ${env.VERIMEND_PORT ?? env.VERIMEND_STANDIN_PORT} is taken; choose another with --port.`
              : m.failed,
          ),
        )
    })
    child.on('exit', (code, signal) => reject(new Error(`The server ended (${signal ?? code}).`)))
  })
}

/** Ends a server in good order, and by force after a while. */
export async function stopServer(child) {
  if (!child || child.exitCode !== null || child.signalCode !== null) return
  const gone = new Promise((r) => child.once('exit', r))
  child.kill('SIGTERM')
  const late = setTimeout(() => child.kill('SIGKILL'), 8000)
  await gone
  clearTimeout(late)
}

/**
 * Starts the simulated machines, and waits until they answer.
 * @param folder where they keep what they print
 * @param port the one they had before; 0 at first
 * @param built another folder of what was built
 */
export async function startStandin({ folder, port, token, log, built, started }) {
  return startServer({
    program: built ? `${built}/standin/main.mjs` : 'standin/dist/main.mjs',
    env: {
      VERIMEND_STANDIN_PORT: String(port),
      VERIMEND_STANDIN_DATA: join(folder, 'standin'),
      VERIMEND_STANDIN_TOKEN: token,
    },
    log,
    started,
  })
}
