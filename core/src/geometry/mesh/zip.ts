import { zipSync } from 'fflate'

/** A file by name. */
export interface NamedBytes {
  name: string
  bytes: Uint8Array
}

/** Several files as one ZIP; of files with the same name the later ones get a number. */
export function zipOf(files: readonly NamedBytes[]): Uint8Array {
  const packed = Object.create(null) as Record<string, Uint8Array>
  for (const { name, bytes } of files) {
    // a place inside the archive, and no way out of it
    const safe = name.replace(/[\\/\0]/g, '_')
    // the packer keeps files by name, and cannot keep one by this
    const bare = safe === '' || safe === '__proto__' ? 'file' : safe
    const at = bare.lastIndexOf('.')
    const [stem, end] = at > 0 ? [bare.slice(0, at), bare.slice(at)] : [bare, '']
    let own = bare
    for (let n = 2; own in packed; n++) own = `${stem} (${n})${end}`
    packed[own] = bytes
  }
  return zipSync(packed, { level: 6 })
}
