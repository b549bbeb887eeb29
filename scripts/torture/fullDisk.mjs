import { execFileSync } from 'node:child_process'
import { mkdirSync, rmSync, statfsSync, writeFileSync } from 'node:fs'
import { join } from 'node:path'
import { exitOf, kill, pause, script, until } from './processes.mjs'

/**
 * A disk that is really full: what is written is refused in a sentence, what is there is read, and with room again it goes on, with
 * nothing of what was confirmed missing. Needs the right to mount.
 * @param place folder that the disk is mounted in
 * @returns what came of it, and whether it was as it should be
 */
export async function fullDisk(place) {
  const disk = join(place, 'disk')
  mkdirSync(disk)
  try {
    execFileSync('mount', ['-t', 'tmpfs', '-o', 'size=240m', 'tmpfs', disk], { stdio: 'ignore' })
  } catch {
    return { fair: true, said: 'A full disk was not tried: this account may not mount one.' }
  }
  const flags = ['--data', join(disk, 'data'), '--port', '0', '--no-build']
  const child = script('start.mjs', ...flags)
  try {
    let said = ''
    for (const words of [child.stdout, child.stderr]) words.on('data', (d) => (said += d))
    const at = await until(() => /is ready.*127\.0\.0\.1:(\d+)/.exec(said)?.[1], 120_000)
    const address = `http://127.0.0.1:${at}/api/`
    const ask = async (method, path, body) => {
      const answer = await fetch(address + path, {
        method,
        headers: { 'content-type': 'application/json' },
        body: body && JSON.stringify(body),
        signal: AbortSignal.timeout(20_000),
      })
      return { status: answer.status, body: await answer.json() }
    }
    const pair = (await ask('GET', 'pairs')).body[0].id
    const kept = []
    const write = async () => {
      const id = crypto.randomUUID()
      const made = await ask('POST', 'cases', { id, pairId: pair, part: 'Full' })
      if (made.status !== 201) return made.status
      kept.push(id)
      const noted = { was: { part: 'Full', note: '' }, part: 'Full', note: 'x'.repeat(4000) }
      return (await ask('PUT', `cases/${id}`, noted)).status
    }
    const { bavail, bsize } = statfsSync(disk)
    writeFileSync(join(disk, 'ballast'), Buffer.alloc(bavail * bsize - 40_000))
    const told = {}
    for (let n = 0; n < 400; n++) {
      const status = await write()
      told[status] = (told[status] ?? 0) + 1
    }
    const read = (await ask('GET', 'cases')).status
    rmSync(join(disk, 'ballast'))
    await pause(1000)
    const again = await write()
    let missing = 0
    for (const id of kept) if ((await ask('GET', `cases/${id}`)).status !== 200) missing++
    const refused = Object.keys(told).every((s) => ['200', '507', '503'].includes(s)) && told[507] > 0
    return {
      fair: refused && read === 200 && again === 200 && !missing,
      said: `A disk filled to the last byte: ${told[507] ?? 0} of 400 writes refused for want of room (${Object.entries(
        told,
      )
        .map(([s, n]) => `${s}: ${n}`)
        .join(
          ', ',
        )}), reading answered ${read}; with room again writing answered ${again} without a start anew, ${missing} of ${kept.length} confirmed cases missing.`,
    }
  } finally {
    kill(child.pid, 'SIGTERM')
    await exitOf(child)
    await pause(500)
    execFileSync('umount', ['-l', disk])
  }
}
