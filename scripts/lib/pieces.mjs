// The pieces of a data folder: what is there, what is missing, and how something is moved out of the way.
import { existsSync, readdirSync, renameSync, statSync } from 'node:fs'
import { join } from 'node:path'

/** Without any of these MariaDB makes new, empty ones in silence, or does not start. */
const DATABASE_PIECES = ['ibdata1', 'aria_log_control', 'mysql/global_priv.frm', 'mysql/global_priv.MAD']
const KEPT_FILE = /^[0-9a-f]{64}$/

const isFolder = (path) => existsSync(path) && statSync(path).isDirectory()
const hasSomething = (path) => isFolder(path) && readdirSync(path).length > 0

/**
 * What a data folder holds of a database.
 * @returns `new`: none, and nothing that belongs to one; `whole`: all of it; `half`: one whose laying out was cut short, never in
 * use; `broken`: one that was in use and of which pieces are missing
 */
export function databaseIn(folder) {
  const at = join(folder, 'mariadb')
  const missing = DATABASE_PIECES.filter((piece) => !existsSync(join(at, piece)))
  if (!missing.length) return { state: 'whole', missing }
  const used =
    existsSync(join(folder, 'mariadb-ready')) ||
    // what an application has made, and what it has kept
    isFolder(join(at, 'verimend')) ||
    keepsFiles(folder)
  if (used) return { state: 'broken', missing: isFolder(at) ? missing : ['mariadb'] }
  return { state: hasSomething(at) ? 'half' : 'new', missing }
}

/** Whether files that were sent in lie in a data folder. */
function keepsFiles(folder) {
  const files = join(folder, 'files')
  return (
    isFolder(files) &&
    readdirSync(files, { recursive: true }).some((name) => KEPT_FILE.test(name.split('/').at(-1)))
  )
}

/**
 * Moves pieces of a data folder out of the way; nothing is deleted.
 * @param names what lies in the folder; what is not there is passed over
 * @returns the new names
 */
export function setAside(folder, names, day = new Date().toISOString().slice(0, 10)) {
  return names
    .filter((name) => existsSync(join(folder, name)))
    .map((name) => {
      let n = 1
      while (existsSync(join(folder, `${name}-aside-${day}-${n}`))) n++
      const aside = `${name}-aside-${day}-${n}`
      renameSync(join(folder, name), join(folder, aside))
      return aside
    })
}
