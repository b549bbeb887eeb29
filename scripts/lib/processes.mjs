import { readFileSync } from 'node:fs'

const read = (path) => {
  try {
    return readFileSync(path, 'utf8')
  } catch {
    return null
  }
}

/**
 * What tells a process from any other, before or after it: its number, when it began, and since when the machine runs.
 * @returns null where there is no such process (any more)
 */
export function identity(pid) {
  if (!Number.isInteger(pid) || pid < 2) return null
  // its name stands in brackets and may hold anything
  const fields = read(`/proc/${pid}/stat`)?.split(') ').at(-1)?.split(' ')
  if (!fields || fields[0] === 'Z') return null
  const boot = read('/proc/sys/kernel/random/boot_id')?.trim()
  return `${pid} ${fields[19]} ${boot}`
}

/** Whether the process that was once noted is still there. */
export const isThere = (noted) => typeof noted === 'string' && identity(Number(noted.split(' ')[0])) === noted

const pause = (ms) => new Promise((r) => setTimeout(r, ms))

/** Ends a process that was noted, in good order if it will, by force after so many ms. */
export async function end(noted, patience = 10_000) {
  const send = (signal) => {
    try {
      if (isThere(noted)) process.kill(Number(noted.split(' ')[0]), signal)
    } catch {
      // it went of itself
    }
  }
  for (const signal of ['SIGTERM', 'SIGKILL']) {
    send(signal)
    for (const until = Date.now() + patience; isThere(noted) && Date.now() < until;) await pause(25)
  }
}
