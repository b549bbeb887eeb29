import {
  chmodSync,
  existsSync,
  linkSync,
  mkdirSync,
  mkdtempSync,
  readFileSync,
  realpathSync,
  renameSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs'
import { homedir, tmpdir } from 'node:os'
import { join } from 'node:path'
import { identity, isThere } from './processes.mjs'
import { root } from './run.mjs'

/** Makes a file its owner's alone, even where it was wider. */
export const keepPrivate = (file) => {
  if (existsSync(file)) chmodSync(file, 0o600)
}
/** Makes a folder, or one that is there, its owner's alone. @returns it */
export function privateFolder(folder) {
  return inFolder(folder, () => {
    mkdirSync(folder, { recursive: true, mode: 0o700 })
    chmodSync(folder, 0o700)
    return folder
  })
}

/** Why a folder cannot be used, by the system's word for it. */
const WHY = {
  EROFS: 'what it lies on can only be read',
  EACCES: 'it is not yours to write into',
  EPERM: 'it is somebody else’s',
  ENOSPC: 'the disk is full',
  EDQUOT: 'your share of the disk is used up',
  ENOTDIR: 'a part of its path is a file',
  EEXIST: 'there is a file of that name',
  ENOENT: 'it cannot be made there',
  EIO: 'the disk does not answer',
}
/** Does work in a data folder. @throws with one sentence where the folder is at fault */
function inFolder(folder, work) {
  try {
    return work()
  } catch (error) {
    const why = WHY[error.code]
    throw why
      ? new Error(`The data folder ${folder} cannot be used: ${why}. Choose another with --data.`)
      : error
  }
}

/** Does work by a path of plain letters that leads to the folder, for programs that cannot do with every character. */
export async function aside(folder, work) {
  const place = mkdtempSync(join(tmpdir(), 'verimend-'))
  try {
    const plain = join(place, 'data')
    symlinkSync(folder, plain)
    return await work(plain)
  } finally {
    rmSync(place, { recursive: true, force: true })
  }
}

/**
 * Where data lies when nobody says: in the home folder, or where it lay before, in the checkout.
 * @returns the folder, and whether it is the old place
 */
export function usualFolder({ home = homedir(), checkout = root, env = process.env } = {}) {
  const before = join(checkout, 'data')
  const base = env.XDG_DATA_HOME?.startsWith('/') ? env.XDG_DATA_HOME : join(home, '.local', 'share')
  const usual = join(base, 'verimend')
  const old = !existsSync(usual) && existsSync(join(before, 'mariadb-ready'))
  return { folder: old ? before : usual, old }
}

const contentOf = (file) => {
  try {
    return readFileSync(file, 'utf8')
  } catch {
    return null
  }
}
const meantBy = (content) => {
  try {
    const lock = JSON.parse(content)
    return lock && typeof lock === 'object' ? lock : {}
  } catch {
    return {}
  }
}

/** A lock of an older version names its process by number alone. */
const olderIsThere = ({ pid }) =>
  Number.isInteger(pid) && !!contentOf(`/proc/${pid}/cmdline`)?.includes('start.mjs')

/**
 * Takes a data folder for this process, so that two never work on one database. A lock counts while the very process that wrote
 * it, for this very folder, is there: not one of the same number, nor one of before the machine was started.
 * @param doing what it is taken for, where that is not serving: "writing a backup"
 * @returns `taken`, with how to tell the port and what it has started, that it is about to go, and how to let go, and what one
 * before it has `left` running; or `other`, who has it
 */
export function takeFolder(folder, port, doing) {
  return inFolder(folder, () => take(privateFolder(folder), port, doing))
}

function take(folder, port, doing) {
  const place = realpathSync(folder)
  const lock = join(folder, 'running.json')
  const own = join(folder, `running-${process.pid}.json`)
  const note = { who: identity(process.pid), pid: process.pid, folder: place, port, doing, started: [] }
  const put = (more) => {
    Object.assign(note, more)
    writeFileSync(own, JSON.stringify(note), { mode: 0o600 })
  }
  const tell = (more) => {
    put(more)
    renameSync(own, lock)
  }
  put({})
  let left = []
  try {
    for (let tries = 0; tries < 50; tries++) {
      try {
        // the whole lock is there at once, or none of it
        linkSync(own, lock)
        return {
          taken: {
            tell: (port, databasePort) => tell({ port, databasePort }),
            started: (pid) => tell({ started: [...note.started, identity(pid)].filter((s) => isThere(s)) }),
            leave: () => tell({ leaving: true }),
            release: () => rmSync(lock, { force: true }),
          },
          left,
        }
      } catch (error) {
        if (error.code !== 'EEXIST') throw error
      }
      const content = contentOf(lock)
      if (content === null) continue
      const other = meantBy(content)
      if (other.who ? isThere(other.who) && other.folder === place : olderIsThere(other))
        return { other, left: [] }
      // moved away whole: if another has put a new one there meanwhile, that goes back
      const stale = `${own}-stale`
      try {
        renameSync(lock, stale)
      } catch {
        continue
      }
      if (contentOf(stale) === content) left = other.folder === place ? (other.started ?? []) : []
      else
        try {
          linkSync(stale, lock)
        } catch {
          // a third one was quicker
        }
      rmSync(stale, { force: true })
    }
    throw new Error(`The data folder ${folder} cannot be taken.`)
  } finally {
    rmSync(own, { force: true })
  }
}

/** A name for a new data folder beside one that is there. */
export function besides(folder) {
  if (!existsSync(folder)) return folder
  const day = new Date().toISOString().slice(0, 10)
  let n = 1
  while (existsSync(`${folder}-${day}-${n}`)) n++
  return `${folder}-${day}-${n}`
}
