import { sha256 } from '@noble/hashes/sha2'
import { bytesToHex } from '@noble/hashes/utils'
import { GcodeError, GcodeReader, MAX_GCODE_BYTES } from '@verimend/core/gcode'
import { say } from '@verimend/core/words'
import {
  analysePath,
  layerPlan,
  summarise,
  type Analysis,
  type LayerPlan,
  type PathReading,
  type ReadingContext,
} from '@verimend/core/toolpath'

/** A file, or the address of one that the server keeps. */
export type ToWorker =
  | { kind: 'read'; source: File | string; context: ReadingContext }
  | { kind: 'layer'; layer: number; ask: number }
export type FromWorker =
  | { kind: 'progress'; share: number }
  | { kind: 'done'; reading: PathReading; sha256: string; bytes: number }
  | { kind: 'failed'; message: string }
  | { kind: 'layer'; ask: number; plan: LayerPlan }

const send = (message: FromWorker, transfer: Transferable[] = []) =>
  (self as unknown as Worker).postMessage(message, transfer)

let analysis: Analysis | null = null

async function streamOf(
  source: File | string,
): Promise<{ stream: ReadableStream<Uint8Array>; size: number }> {
  if (typeof source !== 'string') {
    if (source.size > MAX_GCODE_BYTES) throw new GcodeError('too-large', { bytes: MAX_GCODE_BYTES })
    return { stream: source.stream(), size: source.size }
  }
  const response = await fetch(source)
  if (!response.ok || !response.body) throw new Error('the kept file could not be fetched')
  return { stream: response.body, size: Number(response.headers.get('content-length')) || 0 }
}

async function read(source: File | string, context: ReadingContext) {
  const { stream, size } = await streamOf(source)
  const reader = new GcodeReader({ filamentDiameter: context.filamentDiameter })
  const hash = sha256.create()
  const chunks = stream.getReader()
  let told = 0
  for (;;) {
    const { done, value } = await chunks.read()
    if (done) break
    reader.push(value)
    hash.update(value)
    const share = reader.bytesRead / Math.max(1, size || reader.bytesRead * 2)
    if (share - told > 0.02) {
      told = share
      send({ kind: 'progress', share: share * 0.6 })
    }
  }
  const program = reader.finish()
  analysis = analysePath(program, context, (s) => send({ kind: 'progress', share: 0.6 + 0.35 * s }))
  const reading = summarise(analysis)
  if (reading.layerCount === 0) throw new GcodeError('nothing-fed')
  send({ kind: 'done', reading, sha256: bytesToHex(hash.digest()), bytes: program.bytes })
}

self.onmessage = async ({ data }: MessageEvent<ToWorker>) => {
  if (data.kind === 'layer') {
    if (!analysis) return
    const plan = layerPlan(analysis, Math.min(Math.max(0, data.layer), analysis.index.z.length - 1))
    send({ kind: 'layer', ask: data.ask, plan }, [plan.lines.buffer, plan.travels.buffer, plan.starts.buffer])
    return
  }
  try {
    await read(data.source, data.context)
  } catch (error) {
    send({
      kind: 'failed',
      message:
        error instanceof GcodeError
          ? say(error.reason)
          : `This file could not be read (${error instanceof Error ? error.message : 'unknown fault'}).`,
    })
  }
}
