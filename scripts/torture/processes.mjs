import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { root } from '../lib/run.mjs'

export const pause = (ms) => new Promise((r) => setTimeout(r, ms))
/** Runs a script beside this one, with what it says at hand. */
export const script = (name, ...args) =>
  spawn(process.execPath, [join(root, 'scripts', name), ...args], { stdio: ['ignore', 'pipe', 'pipe'] })
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
    const it = holds()
    if (it) return it
  }
  return null
}
