import { execFileSync } from 'node:child_process'
import { mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { startApplication, Writer } from './application.mjs'
import { pause } from './processes.mjs'

const WRITES = 400

/**
 * A disk that is really full: what is written is refused in a sentence, what is there is read, and with room again it goes on, with
 * nothing of what was confirmed missing. Needs the right to mount.
 * @param place folder that the disk is mounted in
 * @returns what came of it, and whether it was as it should be
 */
export async function fullDisk(place) {
  const disk = join(place, 'full')
  mkdirSync(disk)
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=240m', 'tmpfs', disk], { stdio: 'ignore' })
  } catch {
    return { fair: true, said: 'A full disk was not tried: this account may not mount one.' }
  }
  const application = await startApplication(join(disk, 'data'))
  try {
    const writer = await Writer.of(application)
    const { bavail, bsize } = statfsSync(disk)
    writeFileSync(join(disk, 'ballast'), Buffer.alloc(bavail * bsize - 40_000))
    for (let n = 0; n < WRITES; n++) await writer.write()
    const { told, answers } = writer
    const refused = Object.keys(told).every((s) => ['200', '201', '507', '503'].includes(s)) && told[507] > 0
    const read = (await application.ask('GET', 'cases')).status
    rmSync(join(disk, 'ballast'))
    await pause(1000)
    const again = await writer.write()
    const missing = await writer.missing()
    return {
      fair: refused && read === 200 && again === 200 && !missing,
      said: `A disk filled to the last byte: ${told[507] ?? 0} of ${WRITES} writes refused for want of room (${answers}), reading answered ${read}; with room again writing answered ${again} without a start anew, ${missing} of ${writer.kept.size} confirmed cases missing.`,
    }
  } finally {
    await application.stop()
    execFileSync('umount', ['-l', disk])
  }
}
