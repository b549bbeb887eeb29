import { writeSync } from 'node:fs'

/**
 * Where the log goes: line by line to a file that is open already. What cannot be written (a full disk, a pipe nobody reads) is
 * dropped: a log never holds up what it is about.
 */
export const logTo = (descriptor: number) => ({
  write(line: string): void {
    try {
      writeSync(descriptor, line)
    } catch {
      // there is nowhere to say so
    }
  },
})
