import { GcodeError } from '../gcode/program'
import { readGcode } from '../gcode/reader/reader'
import { RewriteError } from '../gcode/rewrite/faults'
import { ChangeError, type FileChange, type Stepped } from '../rewrite/change'
import { checkRewritten } from '../rewrite/check'
import { rewriteFile } from '../rewrite/rewriteFile'
import { bandsOfFile } from '../rewrite/steps'
import { analysePath } from '../toolpath/analyse'
import { summarise } from '../toolpath/reading'
import { PIECES } from './pieces'
import type { PairOnBench } from './pieces/piece'
import { PieceError, planFault } from './plan'
import { pieceFault } from './reasons'
import {
  stepValues,
  type Cell,
  type OnFile,
  type Piece,
  type PieceId,
  type PiecePlan,
  type VariedKey,
} from './types'
import { variedOf } from './varied'

/** What can be stepped up a finished file, and the trial that reads it. */
export const STEPPED_IN_FILE: readonly { piece: PieceId; key: VariedKey; of: Stepped; unit: number }[] = [
  { piece: 'temperature-tower', key: 'nozzle', of: 'nozzle', unit: 1 },
  { piece: 'fan-tower', key: 'fan', of: 'fan', unit: 0.01 },
  { piece: 'retraction-tower', key: 'retractLength', of: 'retract-length', unit: 1 },
  { piece: 'corner-columns', key: 'pressureCompensation', of: 'pressure', unit: 1 },
  { piece: 'speed-fins', key: 'outerSpeed', of: 'speed', unit: 1 },
  { piece: 'speed-fins', key: 'outerAcceleration', of: 'acceleration', unit: 1 },
]

/**
 * Writes a trial into a finished file: bands of its height at stepped values, every other line as it was.
 * @param bytes the file
 * @throws PieceError when the plan is at fault, or the file does not take the steps
 */
export function makeOnFile(
  bytes: Uint8Array,
  { machine, filament, recipe }: PairOnBench,
  plan: PiecePlan & { onFile: OnFile },
  header: readonly string[] = [],
): Piece {
  const { piece, steps, onFile } = plan
  const stepped = STEPPED_IN_FILE.find((s) => s.piece === piece && s.key === steps.key)
  if (!stepped) throw new PieceError(pieceFault('not-on-part', { piece }))
  const fault = planFault({ machine, filament, recipe }, plan)
  if (fault) throw new PieceError(fault)
  const context = {
    filamentDiameter: recipe.diameter.value,
    density: recipe.density.value,
    nozzleDiameter: machine.nozzle.diameter,
    limits: machine.limits,
  }
  const read = (of: Uint8Array) => {
    const analysis = analysePath(readGcode(of, context), context)
    return { analysis, reading: summarise(analysis) }
  }
  try {
    const file = read(bytes)
    const values = stepValues(steps)
    const bands = bandsOfFile(file, onFile.from, onFile.to, values.length)
    const change: FileChange = {
      kind: 'steps',
      of: stepped.of,
      values: values.map((v) => v * stepped.unit),
      from: onFile.from,
      to: onFile.to,
    }
    const { bytes: written } = rewriteFile(bytes, file, [change], machine, context.filamentDiameter)
    const { reading } = read(written)
    checkRewritten(file.reading, reading, [])
    const { label, unit } = variedOf(steps.key)
    const title =
      `${PIECES[piece].name.toLowerCase()} in ${onFile.name}, ${label}: ${values.join(', ')} ${unit}`.trim()
    const [marked, text] = textOf(written)
    const { minX: x0, maxX: x1, minY: y0, maxY: y1 } = reading.box ?? { minX: 0, maxX: 0, minY: 0, maxY: 0 }
    return {
      id: piece,
      gcode: `${marked}${[title, ...header].map((l) => `; ${l.replace(/[^\x20-\x7e]/g, '?')}\n`).join('')}${text}`,
      cells: bands.map(({ z0, z1 }, i): Cell => ({
        id: `band-${i + 1}`,
        name: `Band ${i + 1}`,
        values: { [steps.key]: values[i] },
        box: { x0, x1, y0, y1, z0, z1 },
        marks: 0,
      })),
      view: 'front',
      box: { x0, x1, y0, y1, z0: 0, z1: reading.height },
      open: [],
      seconds: reading.seconds,
    }
  } catch (error) {
    if (error instanceof ChangeError || error instanceof RewriteError || error instanceof GcodeError)
      throw new PieceError(error.reason)
    throw error
  }
}

/** A file as text, what marks its beginning apart; remarks in no encoding of ours are taken byte by byte. */
function textOf(bytes: Uint8Array): [mark: string, text: string] {
  const marked = bytes[0] === 0xef && bytes[1] === 0xbb && bytes[2] === 0xbf
  const rest = marked ? bytes.subarray(3) : bytes
  const decoded = (encoding: string, fatal: boolean) =>
    new TextDecoder(encoding, { fatal, ignoreBOM: true }).decode(rest)
  try {
    return [marked ? '\ufeff' : '', decoded('utf-8', true)]
  } catch {
    return [marked ? '\ufeff' : '', decoded('latin1', false)]
  }
}
