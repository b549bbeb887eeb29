import { spawn } from 'node:child_process'
import { readFileSync } from 'node:fs'
import { join } from 'node:path'
import { root } from '../lib/run.mjs'

export const pause = (ms) => new Promise((r) => setTimeout(r, ms))
/** Runs a script with some more in its environment, with what it says at hand. */
export const scriptWith = (env, name, ...args) =>
  spawn(process.execPath, [join(root, 'scripts', name), ...args], {
    stdio: ['ignore', 'pipe', 'pipe'],
    env: { ...process.env, ...env },
  })
/** Runs a script beside this one, with what it says at hand. */
export const script = (name, ...args) => scriptWith({}, name, ...args)
export const exitOf = (child) =>
  new Promise((r) => ((child.exitCode ?? child.signalCode) !== null ? r() : child.once('exit', r)))
/** @returns whether there was somebody to be told */
export const kill = (pid, signal = 'SIGKILL') => {
  try {
    if (pid) process.kill(pid, signal)
    return !!pid
  } catch {
    return false
  }
}
/** Waits until something is there. @returns it, or null after so many ms */
export async function until(holds, patience) {
  for (const end = Date.now() + patience; Date.now() < end; await pause(15)) {
    const it = await holds()
    if (it) return it
  }
  return null
}

/** Numbers of the processes that one has started; none where it is gone. */
export const childrenOf = (pid) => {
  try {
    return readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8')
      .trim()
      .split(' ')
      .filter(Boolean)
      .map(Number)
  } catch {
    return []
  }
}
/** What a process was started with, words ended by a null. */
export const lineOf = (pid) => {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8')
  } catch {
    return ''
  }
}
