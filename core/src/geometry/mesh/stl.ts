import { welded, type Mesh } from './mesh'
import { MeshError, meshFault } from './reasons'

/** Most faces that are taken, and farthest place, mm. */
export const MOST_FACES = 2_000_000
const FARTHEST = 1e5

const HEAD = 84
const EACH = 50

/** Called with the share that is done; may throw to end the work. */
export type Progress = (share: number) => void
/** Faces between two calls of it. */
const STEP = 65_536

/**
 * Reads STL: the binary form by its length, else the form in words. Places that are the same become one; normals are
 * taken from the order of the corners, as most programs write nonsense for them.
 * @throws MeshError
 */
export function readStl(bytes: Uint8Array, onStep?: Progress): Mesh {
  if (!bytes.length) throw new MeshError(meshFault('mesh-empty-file'))
  const inWords = startsWith(bytes, 'solid')
  const view = new DataView(bytes.buffer, bytes.byteOffset, bytes.byteLength)
  const told = bytes.length >= HEAD ? view.getUint32(80, true) : -1
  const wanted = HEAD + EACH * told
  // words may begin a binary file as well: its length decides
  const binary = told >= 0 && (bytes.length === wanted || (!inWords && told > 0))
  const corners = binary ? binaryCorners(view, told, onStep) : wordCorners(bytes, inWords, onStep)
  if (!corners.length) throw new MeshError(meshFault('mesh-no-faces'))
  return welded(corners)
}

function startsWith(bytes: Uint8Array, word: string): boolean {
  let i = 0
  while (i < bytes.length && (bytes[i] <= 32 || bytes[i] === 0xef || bytes[i] === 0xbb || bytes[i] === 0xbf))
    i++
  for (let k = 0; k < word.length; k++) if ((bytes[i + k] | 32) !== word.charCodeAt(k)) return false
  return true
}

function binaryCorners(view: DataView, told: number, onStep?: Progress): Float32Array {
  if (told > MOST_FACES) {
    // a head of another format gives any number: then the length does not fit either
    if (view.byteLength < HEAD + EACH * told) throw new MeshError(meshFault('mesh-foreign'))
    throw new MeshError(meshFault('mesh-too-many', { faces: told, most: MOST_FACES }))
  }
  const there = Math.floor((view.byteLength - HEAD) / EACH)
  if (there < told) throw new MeshError(meshFault('mesh-cut-short', { told, there: Math.max(0, there) }))
  const out = new Float32Array(told * 9)
  for (let i = 0; i < told; i++) {
    const at = HEAD + EACH * i + 12
    for (let k = 0; k < 9; k++) {
      const v = view.getFloat32(at + 4 * k, true)
      if (!(Math.abs(v) <= FARTHEST)) throw new MeshError(meshFault('mesh-no-place', { face: i + 1 }))
      out[9 * i + k] = v
    }
    if (i % STEP === 0) onStep?.(i / told)
  }
  return out
}

/** A list of numbers that grows. */
class Growing {
  private held = new Float32Array(9 * 1024)
  length = 0
  push(v: number): void {
    if (this.length === this.held.length) {
      const larger = new Float32Array(2 * this.held.length)
      larger.set(this.held)
      this.held = larger
    }
    this.held[this.length++] = v
  }
  taken(): Float32Array {
    return this.held.slice(0, this.length)
  }
}

const NEWLINE = 10
const SPACE = 32
/** Longest word that is shown again. */
const SHOWN = 40

/** Words and numbers one after the other, over bytes: a file of 200 MB is never a string. */
function wordCorners(bytes: Uint8Array, inWords: boolean, onStep?: Progress): Float32Array {
  if (!inWords) throw new MeshError(meshFault('mesh-foreign'))
  const out = new Growing()
  let at = 0
  let line = 1
  const decoder = new TextDecoder('latin1')
  const next = (): string | null => {
    while (at < bytes.length && bytes[at] <= SPACE) if (bytes[at++] === NEWLINE) line++
    if (at >= bytes.length) return null
    const from = at
    while (at < bytes.length && bytes[at] > SPACE) at++
    return decoder.decode(bytes.subarray(from, Math.min(at, from + 64)))
  }
  const endOfLine = () => {
    while (at < bytes.length && bytes[at] !== NEWLINE) at++
  }
  let faces = 0
  let corners = 0
  for (let word = next(); word !== null; word = next()) {
    switch (word.toLowerCase()) {
      case 'vertex': {
        for (let k = 0; k < 3; k++) {
          const text = next()
          if (text === null)
            throw new MeshError(meshFault('mesh-cut-short', { told: faces + 1, there: faces }))
          const v = Number(text)
          if (text === '' || Number.isNaN(v))
            throw new MeshError(meshFault('mesh-not-a-number', { line, text: text.slice(0, SHOWN) }))
          if (!(Math.abs(v) <= FARTHEST)) throw new MeshError(meshFault('mesh-no-place', { face: faces + 1 }))
          out.push(v)
        }
        corners++
        break
      }
      case 'endfacet':
        // a face of more corners is a fan of triangles; of fewer, none
        if (corners !== 3) throw new MeshError(meshFault('mesh-word', { line, text: `${corners} corners` }))
        corners = 0
        faces++
        if (faces > MOST_FACES) throw new MeshError(meshFault('mesh-too-many', { faces, most: MOST_FACES }))
        if (faces % STEP === 0) onStep?.(at / bytes.length)
        break
      case 'solid':
      case 'endsolid':
        endOfLine()
        break
      case 'facet':
      case 'outer':
      case 'loop':
      case 'endloop':
        break
      case 'normal':
        for (let k = 0; k < 3; k++) next()
        break
      default:
        throw new MeshError(meshFault('mesh-word', { line, text: word.slice(0, SHOWN) }))
    }
  }
  if (corners) throw new MeshError(meshFault('mesh-cut-short', { told: faces + 1, there: faces }))
  return out.taken()
}

/** A mesh as binary STL. @param title up to 80 characters */
export function writeStl({ vertices: v, triangles: t }: Mesh, title = ''): Uint8Array {
  const count = t.length / 3
  const out = new Uint8Array(HEAD + EACH * count)
  // a head that begins with "solid" would be taken for words
  const head = title
    .replace(/[^ -~]/g, ' ')
    .replace(/^solid/i, 'part')
    .slice(0, 80)
  for (let i = 0; i < head.length; i++) out[i] = head.charCodeAt(i)
  const view = new DataView(out.buffer)
  view.setUint32(80, count, true)
  for (let i = 0; i < count; i++) {
    const at = HEAD + EACH * i
    const [a, b, c] = [3 * t[3 * i], 3 * t[3 * i + 1], 3 * t[3 * i + 2]]
    const [ux, uy, uz] = [v[b] - v[a], v[b + 1] - v[a + 1], v[b + 2] - v[a + 2]]
    const [wx, wy, wz] = [v[c] - v[a], v[c + 1] - v[a + 1], v[c + 2] - v[a + 2]]
    const n = [uy * wz - uz * wy, uz * wx - ux * wz, ux * wy - uy * wx]
    const length = Math.hypot(n[0], n[1], n[2]) || 1
    for (let k = 0; k < 3; k++) view.setFloat32(at + 4 * k, n[k] / length, true)
    for (const [j, p] of [a, b, c].entries())
      for (let k = 0; k < 3; k++) view.setFloat32(at + 12 + 12 * j + 4 * k, v[p + k], true)
  }
  return out
}
