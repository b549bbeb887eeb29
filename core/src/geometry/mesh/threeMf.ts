import { strFromU8, unzipSync, zipSync, strToU8 } from 'fflate'
import { SaxesParser, type SaxesTagPlain } from 'saxes'
import { AS_IT_IS, after, joined, placed, type Mesh, type Placement } from './mesh'
import { MeshError, meshFault } from './reasons'
import { MOST_FACES, type Progress } from './stl'

/** What unpacks to more than this, or to so many times its size, is refused, bytes. */
const MOST_UNPACKED = 900_000_000
const MOST_TIMES = 400
const MOST_ENTRIES = 4096
/** Components within components within … */
const DEEPEST = 32
/** Most objects and corners that a build may be put together from; each costs time, with faces or without. */
const MOST_PIECES = 100_000
const MOST_CORNERS = 3 * MOST_FACES

/** mm in each unit of the format (ISO/IEC 25422). */
const UNITS: Readonly<Record<string, number>> = {
  micron: 0.001,
  millimeter: 1,
  centimeter: 10,
  inch: 25.4,
  foot: 304.8,
  meter: 1000,
}

/** One thing to be built. */
export interface NamedMesh {
  name: string
  mesh: Mesh
}

/**
 * Reads the core of 3MF (ISO/IEC 25422): unit, objects of triangles, components with their places, and the items to be
 * built. What extensions add is passed over. A package that swells, names entities, goes in circles or is put together
 * from more than can be read is refused before anything of it is built.
 * @throws MeshError
 */
export function readThreeMf(bytes: Uint8Array, onStep?: Progress): NamedMesh[] {
  const files = unpacked(bytes)
  const path = modelPath(files)
  const model = files.get(path)
  if (!model) throw new MeshError(meshFault('package-no-model'))
  const { objects, items, unit } = readModel(model, onStep)
  const scale: Placement = [unit, 0, 0, 0, 0, unit, 0, 0, 0, 0, unit, 0]
  const printed = items.filter(({ id }) => objects.get(id)?.printed !== false)
  refuseTooMuch(
    printed.map(({ id }) => id),
    sizesOf(objects),
  )
  const out = printed.flatMap(({ id, place }, i): NamedMesh[] => {
    const mesh = joined([...pieces(objects, id, after(scale, place))])
    return mesh.triangles.length ? [{ name: objects.get(id)?.name || `Part ${i + 1}`, mesh }] : []
  })
  if (!out.length) throw new MeshError(meshFault('package-nothing'))
  return out
}

/** The files of a package that can hold a model; none that swells. */
function unpacked(bytes: Uint8Array): Map<string, Uint8Array> {
  let total = 0
  let count = 0
  let swells: number | null = null
  try {
    const files = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (!/\.(model|rels)$/i.test(name)) return false
        total += originalSize
        count++
        if (total > MOST_UNPACKED || total > MOST_TIMES * bytes.length + 1e6 || count > MOST_ENTRIES)
          swells = total
        return swells === null
      },
    })
    if (swells === null)
      return new Map(Object.entries(files).map(([name, data]) => [name.replace(/^\/+/, ''), data]))
  } catch {
    throw new MeshError(meshFault('package-broken'))
  }
  throw new MeshError(meshFault('package-swells', { bytes: swells, most: MOST_UNPACKED }))
}

/** Where the model lies: as the package's relations say, else where it usually does. */
function modelPath(files: ReadonlyMap<string, Uint8Array>): string {
  const usual = '3D/3dmodel.model'
  const relations = files.get('_rels/.rels')
  if (!relations) return usual
  let found: string | null = null
  parse(relations, {
    open: ({ name, attributes }) => {
      if (local(name) !== 'Relationship' || !attributes.Type?.endsWith('/3dmodel')) return
      found ??= attributes.Target?.replace(/^\/+/, '') ?? null
    },
  })
  return found ?? usual
}

const local = (name: string) => name.slice(name.indexOf(':') + 1)

/** Goes through XML without any entities of its own. */
function parse(
  data: Uint8Array,
  on: { open: (tag: SaxesTagPlain) => void; close?: (name: string) => void },
  onStep?: Progress,
): void {
  const parser = new SaxesParser()
  let fault: MeshError | null = null
  parser.on('error', () => {
    fault ??= new MeshError(meshFault('package-xml', { line: parser.line }))
  })
  parser.on('doctype', () => {
    fault ??= new MeshError(meshFault('package-entity'))
  })
  parser.on('opentag', (tag) => {
    if (!fault) on.open(tag)
  })
  parser.on('closetag', ({ name }) => {
    if (!fault) on.close?.(local(name))
  })
  const decoder = new TextDecoder()
  const piece = 1 << 18
  for (let at = 0; at < data.length; at += piece) {
    parser.write(decoder.decode(data.subarray(at, at + piece), { stream: true }))
    if (fault) throw fault as MeshError
    onStep?.(at / data.length)
  }
  parser.close()
  if (fault) throw fault as MeshError
}

interface Part {
  id: string
  place: Placement
}
interface ModelObject {
  name: string
  /** Not a support or another helper. */
  printed: boolean
  mesh: Mesh
  parts: Part[]
}
interface Model {
  unit: number
  objects: Map<string, ModelObject>
  items: Part[]
}

function readModel(data: Uint8Array, onStep?: Progress): Model {
  const model: Model = { unit: 1, objects: new Map(), items: [] }
  let object: { id: string; made: ModelObject } | null = null
  let vertices: number[] = []
  let triangles: number[] = []
  let faces = 0
  const number = (text: string | undefined, face: number) => {
    const v = Number(text)
    if (text === undefined || text.trim() === '' || !(Math.abs(v) <= 1e6))
      throw new MeshError(meshFault('mesh-no-place', { face }))
    return v
  }
  const corner = (text: string | undefined) => {
    const v = Number(text)
    const count = vertices.length / 3
    if (text === undefined || !Number.isInteger(v) || v < 0 || v >= count)
      throw new MeshError(meshFault('package-corner', { index: Number.isFinite(v) ? v : -1, count }))
    return v
  }
  parse(
    data,
    {
      open: ({ name, attributes: a }) => {
        switch (local(name)) {
          case 'model': {
            const unit = a.unit ?? 'millimeter'
            if (!Object.hasOwn(UNITS, unit))
              throw new MeshError(meshFault('package-unit', { unit: unit.slice(0, 20) }))
            model.unit = UNITS[unit]
            break
          }
          case 'object':
            object = {
              id: a.id ?? '',
              made: {
                name: a.name ?? '',
                printed: !a.type || a.type === 'model' || a.type === 'solidsupport',
                mesh: { vertices: new Float32Array(0), triangles: new Uint32Array(0) },
                parts: [],
              },
            }
            vertices = []
            triangles = []
            break
          case 'vertex':
            vertices.push(number(a.x, faces + 1), number(a.y, faces + 1), number(a.z, faces + 1))
            break
          case 'triangle':
            if (++faces > MOST_FACES)
              throw new MeshError(meshFault('mesh-too-many', { faces, most: MOST_FACES }))
            triangles.push(corner(a.v1), corner(a.v2), corner(a.v3))
            break
          case 'component':
            object?.made.parts.push({ id: a.objectid ?? '', place: matrix(a.transform) })
            break
          case 'item':
            model.items.push({ id: a.objectid ?? '', place: matrix(a.transform) })
            break
        }
      },
      close: (name) => {
        if (name !== 'object' || !object) return
        object.made.mesh = { vertices: Float32Array.from(vertices), triangles: Uint32Array.from(triangles) }
        model.objects.set(object.id, object.made)
        object = null
      },
    },
    onStep,
  )
  return model
}

/** Twelve numbers, column by column as the format has them, as rows. */
function matrix(text: string | undefined): Placement {
  if (text === undefined) return AS_IT_IS
  const m = text.trim().split(/\s+/).map(Number)
  if (m.length !== 12 || m.some((v) => !(Math.abs(v) <= 1e6)))
    throw new MeshError(meshFault('package-matrix', { text: text.slice(0, 60) }))
  return [m[0], m[3], m[6], m[9], m[1], m[4], m[7], m[10], m[2], m[5], m[8], m[11]]
}

/** What building an object takes, with all that hangs on it. */
interface Size {
  objects: number
  faces: number
  corners: number
  /** How deep its components lie in each other. */
  depth: number
}

/** Sizes of objects, each reckoned once, however often it is used. */
function sizesOf(objects: ReadonlyMap<string, ModelObject>): (id: string) => Size {
  const known = new Map<string, Size>()
  const within = new Set<string>()
  const size = (id: string): Size => {
    const there = known.get(id)
    if (there) return there
    const object = objects.get(id)
    if (!object) throw new MeshError(meshFault('package-missing', { id: id.slice(0, 40) }))
    if (within.has(id) || within.size > DEEPEST)
      throw new MeshError(meshFault('package-circle', { id: id.slice(0, 40) }))
    within.add(id)
    const { mesh, parts } = object
    const sum = {
      objects: 1,
      faces: mesh.triangles.length / 3,
      corners: mesh.vertices.length / 3,
      depth: 0,
    }
    for (const part of parts) {
      const own = size(part.id)
      sum.objects += own.objects
      sum.faces += own.faces
      sum.corners += own.corners
      sum.depth = Math.max(sum.depth, own.depth + 1)
    }
    within.delete(id)
    if (sum.depth > DEEPEST) throw new MeshError(meshFault('package-circle', { id: id.slice(0, 40) }))
    known.set(id, sum)
    return sum
  }
  return size
}

/** @throws MeshError where what is to be built is more than is read */
function refuseTooMuch(ids: readonly string[], size: (id: string) => Size): void {
  const all = { objects: 0, faces: 0, corners: 0 }
  for (const id of ids) {
    const own = size(id)
    all.objects += own.objects
    all.faces += own.faces
    all.corners += own.corners
  }
  if (all.faces > MOST_FACES)
    throw new MeshError(meshFault('mesh-too-many', { faces: all.faces, most: MOST_FACES }))
  if (all.objects > MOST_PIECES || all.corners > MOST_CORNERS)
    throw new MeshError(meshFault('package-too-many', { objects: all.objects, most: MOST_PIECES }))
}

/** An object with all its components, in place. */
function* pieces(objects: ReadonlyMap<string, ModelObject>, id: string, place: Placement): Generator<Mesh> {
  const { mesh, parts } = objects.get(id)!
  if (mesh.triangles.length) yield placed(mesh, place)
  for (const part of parts) yield* pieces(objects, part.id, after(place, part.place))
}

const escaped = (text: string) =>
  text.replace(/[^ -~\u00a0-\ud7ff]/g, ' ').replace(/[&<>"]/g, (c) => `&#${c.charCodeAt(0)};`)

/**
 * Meshes as a 3MF package in millimetres, each an object that is to be built.
 * @param notes lines for its description
 */
export function writeThreeMf(
  parts: readonly NamedMesh[],
  title = 'part',
  notes: readonly string[] = [],
): Uint8Array {
  const xml: string[] = [
    '<?xml version="1.0" encoding="UTF-8"?>',
    '<model unit="millimeter" xml:lang="en" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">',
    `<metadata name="Title">${escaped(title)}</metadata>`,
    ...(notes.length ? [`<metadata name="Description">${escaped(notes.join('; '))}</metadata>`] : []),
    '<resources>',
  ]
  const f = (v: number) => String(Number(v.toFixed(5)))
  parts.forEach(({ name, mesh: { vertices: v, triangles: t } }, i) => {
    xml.push(`<object id="${i + 1}" name="${escaped(name)}" type="model"><mesh><vertices>`)
    for (let k = 0; k < v.length; k += 3)
      xml.push(`<vertex x="${f(v[k])}" y="${f(v[k + 1])}" z="${f(v[k + 2])}"/>`)
    xml.push('</vertices><triangles>')
    for (let k = 0; k < t.length; k += 3)
      xml.push(`<triangle v1="${t[k]}" v2="${t[k + 1]}" v3="${t[k + 2]}"/>`)
    xml.push('</triangles></mesh></object>')
  })
  xml.push('</resources><build>')
  parts.forEach((_, i) => xml.push(`<item objectid="${i + 1}"/>`))
  xml.push('</build></model>')
  return zipSync({
    '[Content_Types].xml': strToU8(
      '<?xml version="1.0" encoding="UTF-8"?><Types xmlns="http://schemas.openxmlformats.org/package/2006/content-types"><Default Extension="rels" ContentType="application/vnd.openxmlformats-package.relationships+xml"/><Default Extension="model" ContentType="application/vnd.ms-package.3dmanufacturing-3dmodel+xml"/></Types>',
    ),
    '_rels/.rels': strToU8(
      '<?xml version="1.0" encoding="UTF-8"?><Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="rel0" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
    ),
    '3D/3dmodel.model': strToU8(xml.join('\n')),
  })
}

/** Whether a file begins as a package does. */
export const isPackage = (bytes: Uint8Array): boolean =>
  bytes.length > 3 && strFromU8(bytes.subarray(0, 4), true) === 'PK\u0003\u0004'
