import { execFileSync } from 'node:child_process'
import { existsSync, mkdirSync, writeFileSync } from 'node:fs'
import { basename, join } from 'node:path'
import { startApplication, Writer } from './application.mjs'
import { pause } from './processes.mjs'

/** MB of the disk. */
const SIZE = 600
const run = (command, ...args) =>
  execFileSync(command, args, { encoding: 'utf8', stdio: ['ignore', 'pipe', 'ignore'] }).trim()

/**
 * A disk that turns read-only while it is written to, as Linux does with one that has made an error: nothing that was confirmed is
 * lost, every answer is a fair one, and after the disk is mended the next start needs no hand. The disk is a file with ext4 on it.
 * Needs the right to mount.
 * @param place folder that the disk is mounted in
 */
export async function readOnlyDisk(place) {
  const [image, disk] = [join(place, 'disk.img'), join(place, 'read-only')]
  mkdirSync(disk)
  const mount = () => run('mount', '-o', 'loop,errors=remount-ro', image, disk)
  let device
  try {
    run('truncate', '-s', `${SIZE}M`, image)
    run('mkfs.ext4', '-q', '-F', image)
    mount()
    device = basename(run('findmnt', '-n', '-o', 'SOURCE', disk))
    if (!existsSync(`/sys/fs/ext4/${device}/trigger_fs_error`)) throw new Error('no such door')
  } catch {
    return { fair: true, said: 'A disk that turns read-only was not tried: this account may not mount one.' }
  }
  const folder = join(disk, 'data')
  let application = await startApplication(folder)
  try {
    const writer = await Writer.of(application)
    for (let n = 0; n < 60; n++) await writer.write()
    const before = writer.kept.size
    writer.told = {}
    writeFileSync(`/sys/fs/ext4/${device}/trigger_fs_error`, '1')
    for (let n = 0; n < 60; n++) await writer.write()
    const { told, answers } = writer
    const truthful = Object.keys(told).every((s) => ['200', '201', '503', '507'].includes(s))
    await application.stop()
    await pause(1000)
    run('umount', '-l', disk)
    // what a person does: mends the disk, and starts again
    await pause(1000)
    try {
      run('e2fsck', '-fy', image)
    } catch (error) {
      // 1 is “mended”
      if (error.status > 1) throw error
    }
    mount()
    application = await startApplication(folder)
    const missing = await writer.missing(application)
    const again = await new Writer(application, writer.pair).write()
    return {
      fair: truthful && !missing && again === 200,
      said: `A disk that turns read-only under ${before} confirmed cases: of what was written then ${answers || 'nothing'} was answered; the disk mended and the application started again, ${missing} of ${writer.kept.size} confirmed cases missing, writing answered ${again}.`,
    }
  } finally {
    await application.stop().catch(() => undefined)
    run('umount', '-l', disk)
  }
}
