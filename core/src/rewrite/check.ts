import type { PathReading } from '../toolpath/reading'
import { ChangeError, type FileChange } from './change'

/** mm by which a layer may lie elsewhere through rounding. */
const SAME = 0.006
/** Filament is soft enough to be fed from here on, °C. Common practice, no source. */
const SOFT = 150

/**
 * Holds a rewritten file against the one it comes from, both as they were read: as many layers as high, nothing that cannot be
 * followed, nothing fed cold that was fed hot.
 * @throws ChangeError where the new file is not fit to be printed
 */
export function checkRewritten(
  before: PathReading,
  after: PathReading,
  changes: readonly FileChange[],
): void {
  const raised = changes.reduce((sum, c) => sum + (c.kind === 'move' ? c.z : 0), 0)
  const same =
    after.faultCount <= before.faultCount &&
    after.layerCount === before.layerCount &&
    after.layers.z.every((z, l) => Math.abs(z - before.layers.z[l] - raised) < SAME) &&
    after.stopsOverPart === before.stopsOverPart
  const cold = (r: PathReading, l: number) => (r.layers.nozzle[l] ?? SOFT) < SOFT
  const hotEnough = after.layers.nozzle.every((_, l) => !cold(after, l) || cold(before, l))
  if (!same || !hotEnough) throw new ChangeError('change-not-clean')
}
