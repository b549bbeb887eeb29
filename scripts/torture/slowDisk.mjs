import { spawn } from 'node:child_process'
import { join } from 'node:path'
import { needDebian } from '../lib/run.mjs'
import { startApplication, Writer } from './application.mjs'
import { exitOf, kill, pause } from './processes.mjs'

/** ms that each write to the disk waits, as on a worn memory card, how many write at once, and for how long, s. */
const WAITS = 120
const CLIENTS = 12
const SECONDS = 30

/**
 * A disk on which every flush takes long: each answer is a fair one, none is lost, and with the disk as it was it is as quick as it
 * was. The waiting is put into the database's own calls.
 * @param place folder that the data goes into
 */
export async function slowDisk(place) {
  try {
    await needDebian('strace', 'strace', 'strace, which slows a disk')
  } catch {
    return { fair: true, said: 'A slow disk was not tried: there is no strace.' }
  }
  const application = await startApplication(join(place, 'slow'))
  const calls = 'fsync,fdatasync,pwrite64'
  try {
    const writer = await Writer.of(application)
    const quick = await median(application, writer.pair)
    const tracer = spawn(
      'strace',
      ['-f', '-qq', '-o', '/dev/null', '-e', `trace=${calls}`, '-e', `inject=${calls}:delay_enter=${WAITS * 1000}`, '-p', String(application.pid('database'))], // prettier-ignore
      { stdio: ['ignore', 'ignore', 'pipe'] },
    )
    await pause(1000)
    if (tracer.exitCode !== null)
      return { fair: true, said: 'A slow disk was not tried: this account may not look into a process.' }
    const end = Date.now() + SECONDS * 1000
    await Promise.all(
      Array.from({ length: CLIENTS }, async () => {
        while (Date.now() < end) await writer.write()
      }),
    )
    const read = (await application.ask('GET', 'cases')).status
    const { answers, told } = writer
    const took = [...writer.took].sort((a, b) => a - b)
    kill(tracer.pid, 'SIGINT')
    await exitOf(tracer)
    const missing = await writer.missing()
    const after = await median(application, writer.pair)
    const truthful = Object.keys(told).every((s) => ['200', '201', '503'].includes(s))
    const at = (share) => (took[Math.floor(share * (took.length - 1))] / 1000).toFixed(1)
    return {
      fair: truthful && read === 200 && !missing && after < 10 * quick,
      said: `A disk on which every flush takes ${WAITS} ms longer, ${CLIENTS} who write for ${SECONDS} s: ${answers}; the median took ${at(0.5)} s, 99 of 100 at most ${at(0.99)} s, the longest ${at(1)} s; reading answered ${read}, ${missing} of ${writer.kept.size} confirmed cases missing.`,
    }
  } finally {
    await application.stop()
  }
}

/** ms that a few writes one after another take, the middle one. */
async function median(application, pair) {
  const alone = new Writer(application, pair)
  for (let n = 0; n < 10; n++) await alone.write()
  return alone.took.sort((a, b) => a - b)[alone.took.length >> 1]
}
