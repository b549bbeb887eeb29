import {
  copyFileSync,
  fstatSync,
  ftruncateSync,
  existsSync,
  readlinkSync,
  renameSync,
  writeSync,
} from 'node:fs'

/** Bytes after which a log begins anew, and how many older ones stay. */
const LONG = 10_000_000
const KEPT = 3

/** Lays what a log holds aside, and lets it begin anew; whoever has it open goes on writing into it. */
function beginAnew(descriptor: number): void {
  const path = readlinkSync(`/proc/self/fd/${descriptor}`)
  for (let n = KEPT - 1; n > 0; n--)
    if (existsSync(`${path}.${n}`)) renameSync(`${path}.${n}`, `${path}.${n + 1}`)
  copyFileSync(path, `${path}.1`)
  ftruncateSync(descriptor, 0)
}

/**
 * Where the log goes: line by line to a file that is open already, at its end. What cannot be written (a full disk, a pipe nobody
 * reads) is dropped: a log never holds up what it is about. A file that has grown long is laid aside.
 */
export function logTo(descriptor: number, long = LONG) {
  let size = Infinity
  const look = () => {
    const file = fstatSync(descriptor)
    size = file.isFile() ? file.size : -Infinity
  }
  return {
    write(line: string): void {
      try {
        if (size === Infinity) look()
        writeSync(descriptor, line)
        size += line.length
        if (size < long) return
        beginAnew(descriptor)
        size = 0
      } catch {
        // there is nowhere to say so
      }
    },
  }
}
