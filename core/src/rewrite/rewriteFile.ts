import { FileRewriter, type RewriteSummary } from '../gcode/rewrite/rewriter'
import type { Kernel } from '../geometry/kernel'
import { commandsOf } from '../machine/commands'
import type { Machine } from '../machine/machine'
import { ChangeError, type FileChange } from './change'
import type { FileAsRead } from './file'
import { overlaysOf } from './overlays'

/** Whether a place is on the machine, mm. */
export function onMachine({ bed, height }: Machine) {
  return (x: number, y: number, z: number): boolean =>
    z >= -1e-6 &&
    z <= height + 1e-6 &&
    (bed.shape === 'round'
      ? Math.hypot(x, y) <= bed.width / 2 + 1e-6
      : x >= -1e-6 && y >= -1e-6 && x <= bed.width + 1e-6 && y <= bed.depth + 1e-6)
}

/**
 * Begins to write a file with changes.
 * @param filamentDiameter mm; as the file was read with
 * @param kernel for changes that lay lines round a part
 * @throws ChangeError where the file does not take one of them
 */
export function startRewrite(
  file: FileAsRead,
  changes: readonly FileChange[],
  machine: Machine,
  filamentDiameter: number,
  kernel?: Kernel,
): FileRewriter {
  const { program } = file.analysis
  // a file that never has the fan on does not say how it spells that: then as the machine does
  const silent = program.states.every((s) => s.fan === 0)
  const fanScale = silent && commandsOf(machine).fan === 'fraction' ? 1 : program.fanScale
  return new FileRewriter({ ...program, fanScale }, overlaysOf(file, changes, machine, kernel), {
    filamentDiameter,
    within: onMachine(machine),
  })
}

/**
 * A file that is in memory, with changes written into it.
 * @throws ChangeError where the file does not take one of them, RewriteError where a line cannot be followed
 */
export function rewriteFile(
  bytes: Uint8Array,
  file: FileAsRead,
  changes: readonly FileChange[],
  machine: Machine,
  filamentDiameter: number,
  kernel?: Kernel,
): { bytes: Uint8Array; summary: RewriteSummary } {
  const rewriter = startRewrite(file, changes, machine, filamentDiameter, kernel)
  const pieces = rewriter.push(bytes)
  const end = rewriter.finish()
  const { summary } = end
  if (!summary.changed && !summary.inserted && !summary.removed) throw new ChangeError('change-does-nothing')
  const all = [...pieces, ...end.pieces]
  const out = new Uint8Array(all.reduce((n, p) => n + p.length, 0))
  let at = 0
  for (const p of all) {
    out.set(p, at)
    at += p.length
  }
  return { bytes: out, summary }
}
