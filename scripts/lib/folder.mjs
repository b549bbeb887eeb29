import { existsSync, mkdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'

const alive = (pid, script) => {
  try {
    process.kill(pid, 0)
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8').includes(script)
  } catch (error) {
    return error.code === 'EPERM'
  }
}

/**
 * Takes a data folder for this process, so that two never work on one database.
 * @param script the file that takes it, as it stands on the command line
 * @returns `taken`, with how to tell the port, that it is about to go, and how to let go; or `other`, who has it
 */
export function takeFolder(folder, script, port) {
  const lock = join(folder, 'running.json')
  mkdirSync(folder, { recursive: true, mode: 0o700 })
  const write = (port, { flag = 'w', leaving } = {}) =>
    writeFileSync(lock, JSON.stringify({ pid: process.pid, port, leaving }), { flag })
  for (let tries = 0; tries < 2; tries++) {
    try {
      write(port, { flag: 'wx' })
      return {
        taken: {
          tell: (port) => write(port),
          leave: (port) => write(port, { leaving: true }),
          release: () => rmSync(lock, { force: true }),
        },
      }
    } catch (error) {
      if (error.code !== 'EEXIST') throw error
    }
    let other = {}
    try {
      other = JSON.parse(readFileSync(lock, 'utf8')) ?? {}
    } catch {
      // a lock that was being written when its owner was killed
    }
    if (other.pid && other.pid !== process.pid && alive(other.pid, script)) return { other }
    rmSync(lock, { force: true })
  }
  throw new Error(`The data folder ${folder} cannot be taken.`)
}

/** A name for a new data folder beside one that is there. */
export function besides(folder) {
  if (!existsSync(folder)) return folder
  const day = new Date().toISOString().slice(0, 10)
  let n = 1
  while (existsSync(`${folder}-${day}-${n}`)) n++
  return `${folder}-${day}-${n}`
}
