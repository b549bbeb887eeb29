import { existsSync, readdirSync, readFileSync } from 'node:fs'
import { join } from 'node:path'
import type { Plugin } from 'vite'

/** A package that the application is made of, with the words it is given under. */
export interface Licence {
  name: string
  version: string
  licence: string
  text: string
}

interface Locked {
  version?: string
  license?: string
  dev?: boolean
  link?: boolean
  devOptional?: boolean
}

/** Every package that is needed to run the application, from the lock file, with its licence as it came. */
export function licencesOf(root: string): Licence[] {
  const { packages } = JSON.parse(readFileSync(join(root, 'package-lock.json'), 'utf8')) as {
    packages: Record<string, Locked>
  }
  const found = new Map<string, Licence>()
  for (const [path, { version, license, dev, devOptional, link }] of Object.entries(packages)) {
    const at = path.lastIndexOf('node_modules/')
    if (at < 0 || dev || devOptional || link || !version) continue
    const folder = join(root, path)
    // one for another kind of machine is not installed here
    if (!existsSync(folder)) continue
    const name = path.slice(at + 'node_modules/'.length)
    const file = readdirSync(folder).find((f) => /^(licen[cs]e|copying)(\.|-|$)/i.test(f))
    found.set(`${name} ${version}`, {
      name,
      version,
      licence: license ?? 'see its text',
      text: file ? readFileSync(join(folder, file), 'utf8').trim() : '',
    })
  }
  return [...found.values()].sort((a, b) => a.name.localeCompare(b.name))
}

/** Puts the licences beside the pages, as a file that is fetched by whoever wants to read them. */
export function licences(root: string): Plugin {
  return {
    name: 'licences',
    apply: 'build',
    generateBundle() {
      this.emitFile({
        type: 'asset',
        fileName: 'licences.json',
        source: JSON.stringify(licencesOf(root)),
      })
    },
  }
}
