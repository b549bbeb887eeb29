import { createHash } from 'node:crypto'
import { createReadStream, existsSync, readdirSync, readFileSync, statSync } from 'node:fs'
import { copyFile, link, mkdir, open, rename, rm, writeFile } from 'node:fs/promises'
import { dirname, join } from 'node:path'

/** Folder beside backups in which kept files lie that several of them hold. */
const STORE = 'store'
/** How long a file in it that no backup names is left, ms: one may be in the making. */
const GIVEN_UP = 3600_000
const NAME = /^[0-9a-f]{64}$/

/** Where a kept file lies that a backup holds beside itself. */
export const besidePath = (backup: string, sha256: string): string =>
  join(dirname(backup), STORE, sha256.slice(0, 2), sha256)
/** The list of what a backup holds beside itself. */
export const listPath = (backup: string): string => `${backup}.list`

export async function fingerprintOf(path: string): Promise<string> {
  const hash = createHash('sha256')
  for await (const chunk of createReadStream(path)) hash.update(chunk as Buffer)
  return hash.digest('hex')
}

/** Lays a kept file beside a backup: as the very file where both lie on one disk, else as a copy. */
export async function layBeside(backup: string, path: string, sha256: string): Promise<void> {
  const place = besidePath(backup, sha256)
  if (existsSync(place)) return
  await mkdir(dirname(place), { recursive: true, mode: 0o700 })
  const part = `${place}.part`
  await rm(part, { force: true })
  await link(path, part).catch(() => copyFile(path, part))
  const file = await open(part)
  await file.sync()
  await file.close()
  await rename(part, place)
}

/** Keeps what a backup holds beside itself; there before the backup is. */
export const writeList = (backup: string, names: readonly string[]): Promise<void> =>
  writeFile(listPath(backup), names.join('\n'), { mode: 0o600, flush: true })

/**
 * Clears away what no backup in a folder holds any more, and lists without their backup.
 * @param namesOf reads what a backup holds beside itself where its list is lost
 */
export async function sweepStore(
  folder: string,
  namesOf: (backup: string) => Promise<string[]>,
): Promise<void> {
  const store = join(folder, STORE)
  if (!existsSync(store)) return
  const used = new Set<string>()
  for (const name of readdirSync(folder).filter((n) => n.endsWith('-daily.tar.gz'))) {
    const backup = join(folder, name)
    const list = listPath(backup)
    const names = existsSync(list) ? readFileSync(list, 'utf8').split('\n') : await namesOf(backup)
    for (const sha of names) used.add(sha)
  }
  const old = (path: string) => {
    const found = statSync(path, { throwIfNoEntry: false })
    return !!found && Date.now() - found.ctimeMs > GIVEN_UP
  }
  for (const name of readdirSync(folder).filter((n) => n.endsWith('.list'))) {
    const list = join(folder, name)
    if (!existsSync(list.slice(0, -'.list'.length)) && old(list)) await rm(list, { force: true })
  }
  for (const first of readdirSync(store))
    for (const name of readdirSync(join(store, first))) {
      const path = join(store, first, name)
      if (!(NAME.test(name) && used.has(name)) && old(path)) await rm(path, { force: true })
    }
}
