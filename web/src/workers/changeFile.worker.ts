import { sha256 } from '@noble/hashes/sha2'
import { bytesToHex } from '@noble/hashes/utils'
import {
  GcodeError,
  GcodeReader,
  MAX_GCODE_BYTES,
  RewriteError,
  type RewriteSummary,
} from '@verimend/core/gcode'
import type { Kernel } from '@verimend/core/geometry'
import type { Machine } from '@verimend/core/machine'
import { changesOfFile, type SettingChange, type SettingKey, type ValuesOnly } from '@verimend/core/recipe'
import { ChangeError, checkRewritten, laysRound, startRewrite, type FileChange } from '@verimend/core/rewrite'
import {
  analysePath,
  layerPlan,
  summarise,
  type Analysis,
  type LayerPlan,
  type PathReading,
  type ReadingContext,
} from '@verimend/core/toolpath'
import { say } from '@verimend/core/words'

/** What is to be changed in a file, or in one that the server keeps. */
export interface ChangeFileAsk {
  source: Blob | string
  settings: readonly SettingChange[]
  /** What is done besides, which is no setting. */
  more?: readonly FileChange[]
  /** The recipe as it is to be. */
  recipe: ValuesOnly
  machine: Machine
  context: ReadingContext
  /** Stands at the head of the new file. */
  remark: string
}
export interface ChangedFile {
  blob: Blob
  sha256: string
  before: PathReading
  after: PathReading
  summary: RewriteSummary
  /** Layers of both files from above: the first of the part, and one in the middle. */
  layers: { before: LayerPlan; after: LayerPlan }[]
  /** Settings for which the part would have to be laid anew, and such of which the file does not say what they were. */
  laidAnew: SettingKey[]
  unknown: SettingKey[]
}
export type FromChangeWorker =
  { kind: 'progress'; share: number } | ({ kind: 'done' } & ChangedFile) | { kind: 'failed'; message: string }

const send = (message: FromChangeWorker) => (self as unknown as Worker).postMessage(message)

let kernel: Promise<Kernel> | null = null
/** The library for areas, loaded once lines are to be laid round a part. */
const theKernel = (): Promise<Kernel> =>
  (kernel ??= Promise.all([import('manifold-3d'), import('manifold-3d/manifold.wasm?url')]).then(
    async ([{ default: Module }, { default: wasm }]) => {
      const k = await Module({ locateFile: () => wasm })
      k.setup()
      return k
    },
  ))

async function blobOf(source: Blob | string): Promise<Blob> {
  if (typeof source !== 'string') return source
  const response = await fetch(source)
  if (!response.ok) throw new Error('the kept file could not be fetched')
  return response.blob()
}

async function each(blob: Blob, from: number, to: number, take: (chunk: Uint8Array) => void): Promise<void> {
  const chunks = blob.stream().getReader()
  let told = 0
  let read = 0
  for (;;) {
    const { done, value } = await chunks.read()
    if (done) return
    take(value)
    read += value.length
    const share = from + ((to - from) * read) / Math.max(1, blob.size)
    if (share - told > 0.02) send({ kind: 'progress', share: (told = share) })
  }
}

async function taken(blob: Blob, context: ReadingContext, from: number, to: number) {
  const reader = new GcodeReader({ filamentDiameter: context.filamentDiameter })
  const hash = sha256.create()
  await each(blob, from, from + (to - from) * 0.6, (chunk) => {
    reader.push(chunk)
    hash.update(chunk)
  })
  const analysis = analysePath(reader.finish(), context, (s) =>
    send({ kind: 'progress', share: from + (to - from) * (0.6 + 0.4 * s) }),
  )
  return { analysis, reading: summarise(analysis), sha256: bytesToHex(hash.digest()) }
}

/** The layers that are shown from above. */
function seenOf(analysis: Analysis): LayerPlan[] {
  const { z } = analysis.index
  const first = Math.min(analysis.raftLayers, z.length - 1)
  const middle = Math.max(first, Math.floor(z.length / 2))
  return [...new Set([first, middle])].map((l) => layerPlan(analysis, l))
}

/** Writes the file with its changes; the moves of the old one are let go with it. */
async function written({ source, settings, more = [], recipe, machine, context }: ChangeFileAsk) {
  const blob = await blobOf(source)
  if (blob.size > MAX_GCODE_BYTES) throw new GcodeError('too-large', { bytes: MAX_GCODE_BYTES })
  const old = await taken(blob, context, 0, 0.35)
  const { changes: own, laidAnew, unknown } = changesOfFile(settings, old.reading, recipe)
  const changes = [...own, ...more]
  if (!changes.length && laidAnew.length) throw new ChangeError('change-laid-anew')
  if (!changes.length) throw new ChangeError('change-not-told')
  const areas = changes.some(laysRound) ? await theKernel() : undefined
  const rewriter = startRewrite(old, changes, machine, context.filamentDiameter, areas)
  const parts: Uint8Array[] = []
  await each(blob, 0.35, 0.6, (chunk) => parts.push(...rewriter.push(chunk)))
  const end = rewriter.finish()
  parts.push(...end.pieces)
  const { summary } = end
  if (!summary.changed && !summary.inserted && !summary.removed) throw new ChangeError('change-does-nothing')
  return { before: old.reading, seen: seenOf(old.analysis), parts, summary, changes, laidAnew, unknown }
}

/** Writes a file with changes, and reads what was written. */
async function change(ask: ChangeFileAsk): Promise<ChangedFile> {
  const { parts, changes, seen, ...about } = await written(ask)
  const head = new TextEncoder().encode(`; ${ask.remark.replace(/[^\x20-\x7e]/g, '?')}\n`)
  const marked = parts[0]?.[0] === 0xef && parts[0][1] === 0xbb && parts[0][2] === 0xbf
  const pieces = marked
    ? [parts[0].slice(0, 3), head, parts[0].slice(3), ...parts.slice(1)]
    : [head, ...parts]
  const blob = new Blob(pieces as BlobPart[], { type: 'text/plain' })
  const { analysis, reading, sha256: hash } = await taken(blob, ask.context, 0.6, 1)
  checkRewritten(about.before, reading, changes)
  const layers = seenOf(analysis).map((after, k) => ({ before: seen[k], after }))
  return { ...about, blob, sha256: hash, after: reading, layers }
}

self.onmessage = async ({ data }: MessageEvent<ChangeFileAsk>) => {
  try {
    send({ kind: 'done', ...(await change(data)) })
  } catch (error) {
    send({
      kind: 'failed',
      message:
        error instanceof GcodeError || error instanceof RewriteError || error instanceof ChangeError
          ? say(error.reason)
          : `The file could not be changed (${error instanceof Error ? error.message : 'unknown fault'}).`,
    })
  }
}
