// Reads broken files with every reader: a whole one of each kind, changed at random, has to be read or refused in a sentence,
// in time and in bounded memory.
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs'
import { tmpdir } from 'node:os'
import { join } from 'node:path'
import { createGunzip, gzipSync } from 'node:zlib'
import { readRecipeFile } from '@verimend/contract'
import { DEMO_MACHINES, demoFilaments } from '@verimend/core/demo'
import { readGcode } from '@verimend/core/gcode'
import { readMeshes, writeStl } from '@verimend/core/geometry'
import { readLabel } from '@verimend/core/material'
import { readGrid } from '@verimend/core/measurement'
import { writePart } from '@verimend/core/planner'
import { deriveRecipe, printSettingsOf, recipeFile } from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { said, type Reason } from '@verimend/core/quantity'
import { randomStream } from '@verimend/core/statistics'
import { readPath } from '@verimend/core/toolpath'
import { zipSync } from 'fflate'
import sharp from 'sharp'
import { pack } from 'tar-stream'
import { createHash } from 'node:crypto'
import { BackupError, checkBackup } from '../../server/src/backup/archive'
import { preparePhoto } from '../../server/src/photos/prepare'

const FILES = Number(process.argv[2] ?? 20_000)
const SEED = Number(process.argv[3] ?? 1)
/** A file takes no longer than this, ms, and the process no more memory than this, MB. */
const PATIENCE = 15_000
const MEMORY = 1500

const random = randomStream(SEED)
const pick = <T>(list: readonly T[]): T => list[Math.floor(random() * list.length)]
const below = (n: number) => Math.floor(random() * n)
const text = (bytes: Uint8Array) => Buffer.from(bytes).toString('utf8')
const bytesOf = (t: string) => new TextEncoder().encode(t)

/** What text formats are broken with. */
const JUNK = [
  'NaN',
  '-1',
  '1e999',
  '1e-400',
  '0x10',
  '',
  '\0',
  '"',
  '{',
  ']',
  'null',
  '999999999999999999999',
  '-0',
  'Infinity',
  '\u202e',
  'M104 S99999',
  'G2 X1 I0 J0',
  'G1 X1e30 E1e30',
  'G92 E-1e12',
  ';',
  '(',
  '%',
  'é',
  '__proto__',
  '\r',
  '\n\n\n',
  '1,5',
  '../..',
  '<!ENTITY a "b">',
]

/** A whole file changed at one to eight places, cut off, doubled, or put together with itself. */
function mangled(whole: Uint8Array): Uint8Array {
  let out = Uint8Array.from(whole)
  for (let n = 1 + below(random() < 0.7 ? 2 : 8); n > 0; n--) {
    const at = below(out.length + 1)
    const kind = below(9)
    if (kind === 0) out = out.slice(0, at)
    else if (kind === 1) out = Uint8Array.from([...out.slice(0, at), ...out.slice(at + 1 + below(40))])
    else if (kind === 2 && out.length < 3e6) {
      const from = below(out.length)
      out = Uint8Array.from([...out.slice(0, at), ...out.slice(from, from + below(400)), ...out.slice(at)])
    } else if (kind === 3) {
      const junk = bytesOf(pick(JUNK).repeat(1 + below(3)))
      out = Uint8Array.from([...out.slice(0, at), ...junk, ...out.slice(at)])
    } else if (kind === 4) for (let k = 0; k < 16 && at + k < out.length; k++) out[at + k] = below(256)
    else if (kind === 5) for (let k = 0; k < 8 && at + k < out.length; k++) out[at + k] = 0xff
    else if (kind === 6 && out.length) out[below(out.length)] ^= 1 << below(8)
    else if (kind === 7) {
      // a number becomes another
      const t = text(out.subarray(at, at + 200))
      const m = /-?\d+(\.\d+)?/.exec(t)
      if (m) {
        const before = bytesOf(t.slice(0, m.index))
        const after = bytesOf(t.slice(m.index + m[0].length))
        out = Uint8Array.from([
          ...out.slice(0, at),
          ...before,
          ...bytesOf(pick(JUNK)),
          ...after,
          ...out.slice(at + 200),
        ])
      }
    } else if (out.length > 4) {
      // sizes that are told in the file
      const v = pick([0, 1, 0x7fffffff, 0xffffffff, 0x10000, below(0xffffffff)])
      new DataView(out.buffer).setUint32(Math.min(at, out.length - 4), v >>> 0, random() < 0.8)
    }
  }
  return out
}

/** A reader with whole files to begin with; it reads, or refuses with a sentence. */
interface Reader {
  name: string
  whole: Uint8Array[]
  read: (bytes: Uint8Array) => unknown
}

const machine = DEMO_MACHINES.greenhouse
const filament = demoFilaments('2026-01-01').fern
const recipe = deriveRecipe({ machine, filament })
const wholeRecipe = recipeFile(
  {
    machine,
    filament,
    recipe: {
      values: recipe,
      variants: { fine: { pins: {}, values: {} }, coarse: { pins: {}, values: {} } },
    } as never,
    number: 1,
    reason: said('As derived.'),
    written: '2026-01-01T00:00:00.000Z',
  },
  say,
)
const path = bytesOf(
  writePart(machine, printSettingsOf(recipe), { shape: 'box', width: 14, height: 1.2, copies: 1, apart: 10 }),
)
const inches = bytesOf(
  'G20\nG90\nM82\nG1 X1 Y1 E1 F60\nG2 X2 Y1 I0.5 J0\nG91\nG3 X1 Y1 R1\nG92 E0\nM106 S255\n;LAYER\nG28\n',
)
// a pyramid
const stl = writeStl({
  vertices: Float32Array.from([0, 0, 0, 10, 0, 0, 0, 10, 0, 0, 0, 10]),
  triangles: Uint32Array.from([0, 2, 1, 0, 1, 3, 1, 2, 3, 0, 3, 2]),
})
const ascii = bytesOf(
  'solid a\nfacet normal 0 0 1\nouter loop\nvertex 0 0 0\nvertex 1 0 0\nvertex 0 1 0\nendloop\nendfacet\nendsolid a\n'.repeat(
    4,
  ),
)
const model = bytesOf(
  '<?xml version="1.0"?><model unit="millimeter" xmlns="http://schemas.microsoft.com/3dmanufacturing/core/2015/02"><resources><object id="1" type="model"><mesh><vertices><vertex x="0" y="0" z="0"/><vertex x="10" y="0" z="0"/><vertex x="0" y="10" z="0"/><vertex x="0" y="0" z="10"/></vertices><triangles><triangle v1="0" v2="2" v3="1"/><triangle v1="0" v2="1" v3="3"/><triangle v1="1" v2="2" v3="3"/><triangle v1="0" v2="3" v3="2"/></triangles></mesh></object></resources><build><item objectid="1" transform="1 0 0 0 1 0 0 0 1 5 5 0"/></build></model>',
)
/** The same with objects that hang on each other at random: chains, fans, doublings, circles, ones that are not there. */
function nestedModel(): Uint8Array {
  const [deep, wide] = [1 + below(40), 1 + below(4)]
  const anywhere = random() < 0.2
  const objects = Array.from({ length: deep }, (_, i) => {
    const uses = Array.from({ length: 1 + below(wide) }, () =>
      random() < 0.8 ? i + 1 : 1 + below(anywhere ? deep + 2 : i + 1),
    )
    return `<object id="${i + 2}" type="model"><components>${uses.map((id) => `<component objectid="${id}"/>`).join('')}</components></object>`
  })
  return bytesOf(
    new TextDecoder()
      .decode(model)
      .replace('</resources>', `${objects.join('')}</resources>`)
      .replace('objectid="1" transform', `objectid="${deep + 1}" transform`),
  )
}
const threeMf = (inside: Uint8Array) =>
  zipSync({ '3D/3dmodel.model': inside, '[Content_Types].xml': bytesOf('<Types/>') })

async function main(): Promise<boolean> {
  const folder = mkdtempSync(join(tmpdir(), 'verimend-mangle-'))
  const noise = Buffer.from(Array.from({ length: 64 * 48 * 3 }, () => below(256)))
  const image = () => sharp(noise, { raw: { width: 64, height: 48, channels: 3 } })
  const photos = await Promise.all([
    image().jpeg().withMetadata({ orientation: 6 }).toBuffer(),
    image().png().toBuffer(),
    image().webp().toBuffer(),
    image().gif().toBuffer(),
    image().avif().toBuffer(),
  ])
  const backup = await wholeBackup()
  const packed = threeMf(model)
  const readers: Reader[] = [
    {
      name: 'path files',
      whole: [path, inches],
      read: (b) => {
        const program = readGcode(b, { filamentDiameter: 1.75 })
        return readPath(program, {
          filamentDiameter: 1.75,
          density: 1.24,
          nozzleDiameter: 0.4,
          limits: machine.limits,
        })
      },
    },
    { name: 'meshes (STL)', whole: [stl, ascii], read: (b) => readMeshes(b, 'a.stl') },
    {
      name: 'meshes (3MF)',
      whole: [packed],
      // half of them broken inside a whole archive
      read: (b) => readMeshes(b === packed || random() < 0.5 ? b : threeMf(mangled(model)), 'a.3mf'),
    },
    {
      name: 'parts in parts (3MF)',
      whole: [packed],
      read: (b) => readMeshes(b === packed ? b : threeMf(nestedModel()), 'a.3mf'),
    },
    {
      name: 'recipe files',
      whole: [bytesOf(JSON.stringify(wholeRecipe))],
      read: (b) => readRecipeFile(text(b)),
    },
    {
      name: 'probe grids',
      whole: [
        bytesOf('0 1 2\n0 0.01 -0.02 0.03\n1 0.02 0.01 0\n2 0.05 -0.01 0.02\n'),
        bytesOf('X:10 Y:10 Z:0.02\nX:100 Y:10 Z:0.05\nX:10 Y:100 Z:-0.03\nX:100 Y:100 Z:0.01\n'),
      ],
      read: (b) => readGrid(text(b), { fromX: 0, toX: 200, fromY: 0, toY: 200, firstRow: 'front' }),
    },
    {
      name: 'labels',
      whole: [bytesOf('Nozzle 205–225 °C, bed 55–65 °C, 30–150 mm/s, 1 kg, dry 45 °C 6 h')],
      read: (b) => readLabel(text(b)),
    },
    { name: 'photos', whole: photos, read: (b) => preparePhoto(Buffer.from(b)) },
    {
      name: 'backups',
      whole: [backup],
      read: async (b) => {
        // half of them broken inside what unpacks well
        const file = join(folder, 'b.tar.gz')
        writeFileSync(file, b === backup || random() < 0.5 ? b : gzipSync(mangled(await unpacked(backup))))
        return checkBackup(file)
      },
    },
  ]
  const rows: string[] = []
  let good = true
  for (const { name, whole, read } of readers) {
    const count = Math.ceil(FILES / readers.length)
    // what is not broken is read: else nothing is shown by what is refused
    for (const file of whole) await read(file)
    let [taken, refused, slowest] = [0, 0, 0]
    const bad: string[] = []
    for (let n = 0; n < count; n++) {
      const b = mangled(pick(whole))
      const from = performance.now()
      try {
        const result = (await read(b)) as { ok?: boolean } | undefined
        if (result?.ok === false) refused++
        else taken++
      } catch (error) {
        if (isSentence(error)) refused++
        else {
          bad.push(error instanceof Error ? `${error.name}: ${error.message}` : String(error))
          writeFileSync(join(tmpdir(), `verimend-mangled-${name.replace(/\W+/g, '-')}`), b)
        }
      }
      const took = performance.now() - from
      slowest = Math.max(slowest, took)
      if (took > PATIENCE) bad.push(`took ${(took / 1000).toFixed(1)} s`)
    }
    const memory = Math.round(process.memoryUsage().rss / 1e6)
    if (memory > MEMORY) bad.push(`${memory} MB`)
    good &&= !bad.length
    rows.push(
      `| ${name} | ${count} | ${taken} | ${refused} | ${bad.length} | ${Math.round(slowest)} | ${memory} |`,
    )
    for (const line of [...new Set(bad)].slice(0, 5)) console.error(`${name}: ${line}`)
    console.error(rows.at(-1))
  }
  rmSync(folder, { recursive: true, force: true })
  console.log(
    [
      '| Reader | Broken files | Read | Refused in a sentence | Otherwise | Slowest, ms | Memory, MB |',
      '| --- | ---: | ---: | ---: | ---: | ---: | ---: |',
      ...rows,
    ].join('\n'),
  )
  return good
}

/** Said for a person: a sentence of ours, not one of the language or of a library. */
function isSentence(error: unknown): boolean {
  if (!(error instanceof Error)) return false
  if (error instanceof TypeError || error instanceof RangeError || error instanceof ReferenceError)
    return false
  const { problem, reason } = error as { problem?: { detail?: string }; reason?: Reason }
  const words = problem?.detail ?? (reason ? say(reason) : error.message)
  return error instanceof BackupError || /^[A-Z“0-9].*[.?!]$/s.test(words)
}

async function wholeBackup(): Promise<Uint8Array> {
  const sql = Buffer.from(
    'CREATE TABLE `a` (\n  `id` int(11) NOT NULL,\n  PRIMARY KEY (`id`)\n) ENGINE=InnoDB DEFAULT CHARSET=utf8mb4;\nINSERT INTO `a` VALUES\n(1),\n(2);\n',
  )
  const kept = Buffer.from('kept file')
  const name = createHash('sha256').update(kept).digest('hex')
  const manifest = {
    format: 'verimend-backup',
    version: 1,
    madeAt: '2026-01-01T00:00:00.000Z',
    migrations: ['0001-begin'],
    database: { bytes: sql.length, sha256: createHash('sha256').update(sql).digest('hex') },
    files: [{ name: `files/${name}`, bytes: kept.length, sha256: name }],
    missing: [],
  }
  const tar = pack()
  tar.entry({ name: 'database.sql' }, sql)
  tar.entry({ name: `files/${name}` }, kept)
  tar.entry({ name: 'manifest.json' }, JSON.stringify(manifest))
  tar.finalize()
  const chunks: Buffer[] = []
  for await (const c of tar as AsyncIterable<Buffer>) chunks.push(c)
  return gzipSync(Buffer.concat(chunks))
}

async function unpacked(file: Uint8Array): Promise<Uint8Array> {
  const gunzip = createGunzip()
  gunzip.end(file)
  const chunks: Buffer[] = []
  for await (const c of gunzip as AsyncIterable<Buffer>) chunks.push(c)
  return Buffer.concat(chunks)
}

main().then(
  (good) => process.exit(good ? 0 : 1),
  (error: unknown) => {
    console.error(error)
    process.exit(1)
  },
)
