import fc from 'fast-check'
import { zipSync, strToU8 } from 'fflate'
import { JSDOM } from 'jsdom'
import type { BufferGeometry, Mesh as ThreeMesh } from 'three'
import { STLLoader } from 'three/examples/jsm/loaders/STLLoader.js'
import { ThreeMFLoader } from 'three/examples/jsm/loaders/3MFLoader.js'
import {
  AS_IT_IS,
  MeshError,
  after,
  extentOf,
  flipped,
  joined,
  mendMesh,
  meshOf,
  placed,
  readMeshes,
  readStl,
  readThreeMf,
  scoped,
  sizeOf,
  solidOf,
  surfaceOf,
  topologyOf,
  unitGuesses,
  volumeOf,
  writeStl,
  writeThreeMf,
  type Kernel,
  type Mesh,
  type Placement,
  type Solid,
} from '../src/geometry'
import { say } from '../src/words'
import { kernelReady } from './lib/kernel'
import { tries } from './lib/property'

let k: Kernel
beforeAll(async () => {
  k = await kernelReady
})
const cube = (side = 20) => meshOf(k.Manifold.cube([side, side, side]))
const words = ({ vertices: v, triangles: t }: Mesh, end = '\n') => {
  const lines = ['solid thing']
  for (let i = 0; i < t.length; i += 3) {
    lines.push(' facet normal 0 0 0', '  outer loop')
    for (let j = 0; j < 3; j++) {
      const p = 3 * t[i + j]
      lines.push(`   vertex ${v[p]} ${v[p + 1]} ${v[p + 2]}`)
    }
    lines.push('  endloop', ' endfacet')
  }
  return new TextEncoder().encode([...lines, 'endsolid thing', ''].join(end))
}
const faultOf = (work: () => unknown): string => {
  try {
    work()
  } catch (error) {
    if (error instanceof MeshError) return say(error.reason)
    throw error
  }
  return ''
}

describe('STL', () => {
  test('both forms give the mesh that was written, also with other ends of line; the independent reader sees the same', () => {
    const mesh = meshOf(k.Manifold.sphere(10, 48))
    const binary = writeStl(mesh, 'solid sphere that begins like words')
    for (const bytes of [binary, words(mesh), words(mesh, '\r\n')]) {
      const read = readStl(bytes)
      expect(read.triangles.length).toBe(mesh.triangles.length)
      expect(read.vertices.length).toBe(mesh.vertices.length)
      expect(volumeOf(read)).toBeCloseTo(volumeOf(mesh), 3)
      // three's STLLoader
      const other = new STLLoader().parse(bytes.slice().buffer)
      const corners = (other as BufferGeometry).getAttribute('position')
      expect(corners.count).toBe(mesh.triangles.length)
      for (let i = 0; i < corners.count; i += 97)
        expect(corners.getX(i)).toBeCloseTo(read.vertices[3 * read.triangles[i]], 4)
    }
  })
  test.each([
    ['nothing', new Uint8Array(0), /empty/],
    [
      'a picture',
      Uint8Array.from([0x89, 0x50, 0x4e, 0x47, ...new Array<number>(200).fill(7)]),
      /cannot be read as a 3D model/,
    ],
    ['words without faces', new TextEncoder().encode('solid a\nendsolid a\n'), /no faces/],
    [
      'a word for a number',
      new TextEncoder().encode('solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 zero\n'),
      /Line 4.*zero/,
    ],
    ['no number', new TextEncoder().encode('solid a\nfacet\nouter loop\nvertex 0 0 nan\n'), /nan|no number/i],
    [
      'a face of two corners',
      new TextEncoder().encode('solid a\nfacet\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nendloop\nendfacet\n'),
      /2 corners/,
    ],
    [
      'words cut short',
      new TextEncoder().encode('solid a\nfacet\nouter loop\nvertex 0 0 0\nvertex 1 0'),
      /ends/,
    ],
    ['G-code', new TextEncoder().encode('G28\nG1 X10 Y10 E1\n'), /cannot be read as a 3D model/],
  ])('%s is refused with a sentence', (_, bytes, sentence) => {
    expect(faultOf(() => readStl(bytes))).toMatch(sentence)
  })
  test('a binary file cut anywhere is refused, one with a corner that is no place as well', () => {
    const bytes = writeStl(cube())
    for (let cut = 85; cut < bytes.length; cut += 37)
      expect(faultOf(() => readStl(bytes.slice(0, cut)))).toMatch(/ends/)
    for (const bad of [NaN, Infinity, 1e9]) {
      const spoilt = bytes.slice()
      new DataView(spoilt.buffer).setFloat32(84 + 50 * 3 + 12 + 8, bad, true)
      expect(faultOf(() => readStl(spoilt))).toMatch(/face 4/)
    }
    const huge = bytes.slice()
    new DataView(huge.buffer).setUint32(80, 4_000_000_000, true)
    expect(faultOf(() => readStl(huge))).not.toBe('')
  })
  test('whatever bytes come, there is a mesh or a sentence', () => {
    const base = writeStl(cube())
    fc.assert(
      fc.property(
        fc.oneof(
          fc.uint8Array({ maxLength: 400 }),
          fc.string({ maxLength: 300 }).map((s) => new TextEncoder().encode(`solid ${s}`)),
          fc
            .array(fc.tuple(fc.nat(base.length - 1), fc.nat(255)), { maxLength: 12 })
            .map((changes) => changes.reduce((b, [at, v]) => (b.set([v], at), b), base.slice())),
        ),
        (bytes) => {
          const said = faultOf(() => {
            const [{ mesh }] = readMeshes(bytes, 'x')
            expect(mesh.triangles.length % 3).toBe(0)
            for (const i of mesh.triangles) expect(i).toBeLessThan(mesh.vertices.length / 3)
          })
          expect(said).not.toMatch(/undefined|NaN mm/)
        },
      ),
      tries(300),
    )
  })
})

/** A package with a model of one's own. */
const packed = (model: string, more: Record<string, string> = {}) =>
  zipSync({
    '_rels/.rels': strToU8(
      '<Relationships xmlns="http://schemas.openxmlformats.org/package/2006/relationships"><Relationship Target="/3D/3dmodel.model" Id="r" Type="http://schemas.microsoft.com/3dmanufacturing/2013/01/3dmodel"/></Relationships>',
    ),
    '3D/3dmodel.model': strToU8(model),
    ...Object.fromEntries(Object.entries(more).map(([n, t]) => [n, strToU8(t)])),
  })
const CORNERS =
  '<vertices><vertex x="0" y="0" z="0"/><vertex x="1" y="0" z="0"/><vertex x="0" y="1" z="0"/><vertex x="0" y="0" z="1"/></vertices>'
const FACES =
  '<triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles>'
const model = (inside: string, unit = 'millimeter', head = '') =>
  `<?xml version="1.0"?>${head}<model unit="${unit}" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02">${inside}</model>`
const TETRA = `<object id="1" name="Tetra" type="model"><mesh>${CORNERS}${FACES}</mesh></object>`

describe('3MF', () => {
  test('what is written is read again, name, places and all', () => {
    const parts = [
      { name: 'Ball & "socket"', mesh: meshOf(k.Manifold.sphere(5, 24)) },
      { name: 'Block', mesh: cube(3) },
    ]
    const read = readThreeMf(writeThreeMf(parts, 'two'))
    expect(read.map((p) => p.name)).toEqual(parts.map((p) => p.name))
    read.forEach((p, i) => expect(volumeOf(p.mesh)).toBeCloseTo(volumeOf(parts[i].mesh), 2))
  })
  test('units, components in components, places that turn and mirror, supports left out: as the independent reader has it', () => {
    const inside = `<resources>${TETRA}
      <object id="2" type="model"><components><component objectid="1" transform="0 1 0 -1 0 0 0 0 1 5 0 0"/><component objectid="1"/></components></object>
      <object id="3" type="model"><components><component objectid="2" transform="2 0 0 0 2 0 0 0 2 0 10 0"/></components></object>
      <object id="9" type="support"><mesh>${CORNERS}${FACES}</mesh></object></resources>
      <build><item objectid="3" transform="-1 0 0 0 1 0 0 0 1 7 8 9"/><item objectid="9"/></build>`
    const bytes = packed(model(inside, 'inch'))
    const [part, ...others] = readThreeMf(bytes)
    expect(others).toEqual([])
    // a corner of a tetrahedron is a sixth of a cube; twice as large, twice, in inches, mirrored but outside out
    expect(volumeOf(part.mesh)).toBeCloseTo((2 * 8 * 25.4 ** 3) / 6, 0)
    // three's loader reads the same places, in the file's unit
    const { window } = new JSDOM()
    Object.assign(globalThis, { DOMParser: window.DOMParser })
    const group = new ThreeMFLoader().parse(bytes.slice().buffer)
    group.updateMatrixWorld(true)
    const seen: number[][] = []
    group.traverse((o) => {
      const { geometry } = o as ThreeMesh
      if (!geometry) return
      const p = geometry.clone().applyMatrix4(o.matrixWorld).getAttribute('position')
      for (let i = 0; i < p.count; i++) seen.push([p.getX(i), p.getY(i), p.getZ(i)])
    })
    const extent = extentOf(part.mesh)!
    const tetra = seen.filter((p) => p.some((v) => Math.abs(v) > 2)) // without the support at the origin
    for (let a = 0; a < 3; a++) {
      expect(extent.min[a] / 25.4).toBeCloseTo(Math.min(...tetra.map((p) => p[a])), 3)
      expect(extent.max[a] / 25.4).toBeCloseTo(Math.max(...tetra.map((p) => p[a])), 3)
    }
  })
  test.each([
    ['a package that is broken', packed(model(TETRA)).slice(0, 90), /broken|cannot be opened/],
    ['one without a model', zipSync({ 'a.model': strToU8('x'), 'b.txt': strToU8('x') }), /no model/],
    [
      'one that names entities',
      packed(
        model(
          `<resources>${TETRA}</resources><build><item objectid="1"/></build>`,
          'millimeter',
          '<!DOCTYPE m [<!ENTITY a "aaaa">]>',
        ),
      ),
      /entit/,
    ],
    [
      'one with an entity in a place',
      packed(
        model(
          '<resources><object id="1"><mesh><vertices><vertex x="&a;" y="0" z="0"/></vertices></mesh></object></resources>',
        ),
      ),
      /line/,
    ],
    ['an object that is not there', packed(model('<resources/><build><item objectid="7"/></build>')), /7/],
    [
      'objects in a circle',
      packed(
        model(
          '<resources><object id="1"><components><component objectid="2"/></components></object><object id="2"><components><component objectid="1"/></components></object></resources><build><item objectid="1"/></build>',
        ),
      ),
      /refers back to itself/,
    ],
    [
      'a corner that is not there',
      packed(
        model(
          `<resources><object id="1"><mesh>${CORNERS}<triangles><triangle v1="0" v2="1" v3="9"/></triangles></mesh></object></resources><build><item objectid="1"/></build>`,
        ),
      ),
      /corner 9/,
    ],
    ['a unit nobody knows', packed(model(`<resources>${TETRA}</resources>`, 'furlong')), /furlong/],
    [
      'a matrix of eleven',
      packed(
        model(
          `<resources>${TETRA}</resources><build><item objectid="1" transform="1 0 0 0 1 0 0 0 1 0 0"/></build>`,
        ),
      ),
      /twelve/,
    ],
    ['nothing to build', packed(model(`<resources>${TETRA}</resources><build/>`)), /nothing/i],
    ['words that are no XML', packed('<model><resources>'), /line/],
  ])('%s is refused with a sentence', (_, bytes, sentence) => {
    expect(faultOf(() => readMeshes(bytes, 'x'))).toMatch(sentence)
  })
  /** Objects that are each made of earlier ones; the first is a tetrahedron, or nothing. */
  const nested = (made: readonly number[][], first = TETRA) =>
    model(
      `<resources>${first}${made
        .map(
          (of, i) =>
            `<object id="${i + 2}" type="model"><components>${of.map((id) => `<component objectid="${id}"/>`).join('')}</components></object>`,
        )
        .join('')}</resources><build><item objectid="${made.length + 1}"/></build>`,
    )
  const EMPTY = '<object id="1" name="None" type="model"></object>'
  test.each([
    ['faces', TETRA, /million faces are too many/],
    ['nothing', EMPTY, /objects within objects/],
    ['corners alone', `<object id="1" type="model"><mesh>${CORNERS}</mesh></object>`, /objects within/],
  ])(
    'parts within parts that double thirty times, of %s, are refused before they are built',
    (_, first, sentence) => {
      const bytes = packed(
        nested(
          Array.from({ length: 30 }, (_, i) => [i + 1, i + 1]),
          first,
        ),
      )
      expect(bytes.length).toBeLessThan(1000)
      expect(faultOf(() => readMeshes(bytes, 'x'))).toMatch(sentence)
    },
  )
  test('law: whatever objects hang on each other, a build has exactly the faces it is reckoned to have, or is refused', () => {
    fc.assert(
      fc.property(
        fc.array(fc.array(fc.nat(1000), { minLength: 1, maxLength: 6 }), { minLength: 1, maxLength: 45 }),
        (uses) => {
          const made = uses.map((of, i) => of.map((n) => 1 + (n % (i + 1))))
          const faces = [4]
          const deep = [0]
          for (const of of made) {
            faces.push(of.reduce((s, id) => s + faces[id - 1], 0))
            deep.push(1 + Math.max(...of.map((id) => deep[id - 1])))
          }
          const [expected] = faces.slice(-1)
          const read = () => readMeshes(packed(nested(made)), 'x')
          if (deep.at(-1)! > 32) expect(faultOf(read)).toMatch(/circle/)
          else if (expected > 2_000_000) expect(faultOf(read)).toMatch(/million faces/)
          else if (expected > 400_000)
            return // enough to be slow, and no other kind
          else expect(read()[0].mesh.triangles.length / 3).toBe(expected)
        },
      ),
      tries(60),
    )
  })
  test('a package that swells is refused before it is unpacked', () => {
    const bomb = zipSync({ '3D/3dmodel.model': new Uint8Array(64_000_000) }, { level: 9 })
    expect(bomb.length).toBeLessThan(100_000)
    expect(faultOf(() => readThreeMf(bomb))).toMatch(/would unpack to/)
  })
})

describe('closed forms', () => {
  const many = 256
  test.each([
    ['cube', () => k.Manifold.cube([10, 20, 30]), 6000, 2200],
    ['cylinder', () => k.Manifold.cylinder(20, 5, 5, many), Math.PI * 25 * 20, Math.PI * (2 * 25 + 10 * 20)],
    ['cone', () => k.Manifold.cylinder(12, 9, 0, many), Math.PI * 81 * 4, Math.PI * 9 * (9 + 15)],
    ['sphere', () => k.Manifold.sphere(10, many), (4 / 3) * Math.PI * 1000, 4 * Math.PI * 100],
    [
      'torus',
      () => new k.CrossSection([circle(4, many)]).translate([12, 0]).revolve(many),
      2 * Math.PI ** 2 * 12 * 16,
      4 * Math.PI ** 2 * 12 * 4,
    ],
  ])('%s: volume and surface within 1 %%', (_, make, volume, surface) => {
    const mesh = meshOf(make())
    expect(Math.abs(volumeOf(mesh) / volume - 1)).toBeLessThan(0.01)
    expect(Math.abs(surfaceOf(mesh) / surface - 1)).toBeLessThan(0.01)
    const { open, turned, crowded } = topologyOf(mesh)
    expect([open, turned, crowded]).toEqual([0, 0, 0])
  })
  const circle = (r: number, n: number) =>
    Array.from({ length: n }, (_, i): [number, number] => [
      r * Math.cos((2 * Math.PI * i) / n),
      r * Math.sin((2 * Math.PI * i) / n),
    ])
})

describe('putting a mesh right', () => {
  const sphere = () => meshOf(k.Manifold.sphere(10, 32))
  test('faces turned, doubled, without area or missing, and all inside out: each counted and put right, the volume as before', () => {
    fc.assert(
      fc.property(fc.nat(1e6), fc.integer({ min: 0, max: 6 }), fc.boolean(), (seed, cuts, inward) => {
        const good = sphere()
        const faces = good.triangles.length / 3
        const pick = (n: number) => (seed * 31 + n * 9973) % faces
        let t = [...good.triangles]
        // turned ones
        for (const n of [1, 2, 3]) {
          const f = pick(n)
          ;[t[3 * f + 1], t[3 * f + 2]] = [t[3 * f + 2], t[3 * f + 1]]
        }
        const turnedFaces = new Set([1, 2, 3].map(pick)).size
        const missing = new Set(Array.from({ length: cuts }, (_, n) => pick(10 + 7 * n)))
        t = t.filter((_, i) => !missing.has(Math.floor(i / 3)))
        const spare = [...t.slice(0, 3), t[6], t[6], t[7]]
        const mesh: Mesh = { vertices: good.vertices, triangles: Uint32Array.from([...t, ...spare]) }
        const bad = inward ? { ...mesh, triangles: flipped(mesh.triangles) } : mesh
        const { solid, mended } = solidOf(k, bad)
        expect(mended.insideOut).toBe(inward)
        expect(mended.withoutArea).toBe(1)
        expect(mended.doubled).toBeGreaterThanOrEqual(1)
        expect(mended.turned).toBeGreaterThan(0)
        expect(mended.turned).toBeLessThanOrEqual(turnedFaces)
        expect(mended.open).toBe(0)
        if (missing.size) expect(mended.holes).toBeGreaterThan(0)
        expect(solid).not.toBeNull()
        expect(Math.abs(solid!.volume() / volumeOf(good) - 1)).toBeLessThan(0.02)
        solid!.delete()
      }),
      tries(25),
    )
  })
  test('a lid that is off is closed; a single triangle, a flat sheet and nothing at all are no solids', () => {
    const box = cube()
    // without the two faces on top
    const top = Array.from({ length: 12 }, (_, f) => f).filter((f) =>
      [0, 1, 2].every((j) => box.vertices[3 * box.triangles[3 * f + j] + 2] > 19),
    )
    const open = { ...box, triangles: box.triangles.filter((_, i) => !top.includes(Math.floor(i / 3))) }
    const { solid, mended } = solidOf(k, open)
    expect([mended.holes, mended.holeEdges]).toEqual([1, 4])
    expect(solid!.volume()).toBeCloseTo(8000, 2)
    solid!.delete()
    const sheet: Mesh = {
      vertices: Float32Array.from([0, 0, 0, 1, 0, 0, 0, 1, 0]),
      triangles: Uint32Array.from([0, 1, 2]),
    }
    expect(solidOf(k, sheet).solid).toBeNull()
    expect(solidOf(k, { vertices: new Float32Array(0), triangles: new Uint32Array(0) }).solid).toBeNull()
  })
  test('several shells stay apart, a hollow stays hollow', () => {
    const hollow = scoped((keep) => {
      const outer = keep(k.Manifold.sphere(10, 48))
      const inner = keep(k.Manifold.sphere(6, 48))
      return meshOf(keep(outer.subtract(inner)))
    })
    const two = joined([hollow, placed(cube(5), [1, 0, 0, 30, 0, 1, 0, 0, 0, 0, 1, 0])])
    const { solid, mended } = solidOf(k, two)
    expect(mended.shells).toBe(3)
    expect(solid!.volume()).toBeCloseTo(volumeOf(hollow) + 125, 0)
    solid!.delete()
  })
})

test('places: one after the other is the one matrix; a mirrored part still looks outwards', () => {
  const turn: Placement = [0, -1, 0, 5, 1, 0, 0, 0, 0, 0, 1, 2]
  const mirror: Placement = [-1, 0, 0, 0, 0, 1, 0, 0, 0, 0, 1, 0]
  const mesh = cube(4)
  const one = placed(placed(mesh, turn), mirror)
  const both = placed(mesh, after(mirror, turn))
  expect([...one.vertices]).toEqual([...both.vertices])
  expect(volumeOf(one)).toBeCloseTo(64, 4)
  expect(placed(mesh, AS_IT_IS).vertices).toEqual(mesh.vertices)
})

test('a unit is guessed only where millimetres cannot be meant', () => {
  const of = (side: number) => unitGuesses({ min: [0, 0, 0], max: [side, side / 2, side] })
  expect(of(40)).toEqual([])
  expect(of(0.02).map((g) => g.unit)).toEqual(['metre'])
  expect(of(1.5).map((g) => g.unit)).toEqual(expect.arrayContaining(['inch', 'centimetre']))
  expect(of(20_000).map((g) => g.unit)).toEqual(['micrometre'])
  expect(sizeOf({ min: [1, 2, 3], max: [4, 6, 8] })).toEqual([3, 4, 5])
})

test('many faces are welded and matched in one go', () => {
  const big = meshOf(k.Manifold.sphere(30, 320))
  expect(big.triangles.length / 3).toBeGreaterThan(50_000)
  const read = readStl(writeStl(big))
  expect(read.vertices.length).toBe(big.vertices.length)
  expect(topologyOf(read).open).toBe(0)
  expect(mendMesh(read).shells).toBe(1)
})

test('shells that cross become one, hollows stay hollow, what stands apart stays apart', () => {
  const { Manifold } = k
  const two = (...of: Solid[]) => solidOf(k, joined(of.map(meshOf))).solid!
  const leg = Manifold.cube([8, 20, 14])
  const plate = Manifold.cube([44, 20, 2]).translate([0, 0, 13])
  const crossed = two(leg, plate)
  expect(crossed.volume()).toBeCloseTo(8 * 20 * 13 + 44 * 20 * 2, 3)
  expect(crossed.decompose()).toHaveLength(1)
  const box = Manifold.cube([20, 20, 20])
  const hollow = meshOf(Manifold.cube([10, 10, 10]).translate([5, 5, 5]))
  const shell = solidOf(k, joined([meshOf(box), { ...hollow, triangles: flipped(hollow.triangles) }])).solid!
  expect(shell.volume()).toBeCloseTo(8000 - 1000, 3)
  const apart = two(box, Manifold.cube([5, 5, 5]).translate([30, 0, 0]))
  expect(apart.decompose()).toHaveLength(2)
  expect(apart.volume()).toBeCloseTo(8125, 3)
})
