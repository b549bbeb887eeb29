import { upgradeReason, type Reason } from '../quantity/reason'
import type { ReadingFault } from '../gcode/program'
import { UNKNOWN_BUILD } from './build'
import type { PathReading } from './reading'
import type { SeamOfObject } from './seam'
import type { FeatureTotals } from './table'

/**
 * Shape in which path readings are kept now.
 * 1: faults and assumptions were sentences; the strength of a seam's direction was called `together`.
 * 2: reasons are codes with values; it is the mean resultant length.
 * 3: how the part is built; usual speed, fan and acceleration of each feature.
 * 4: how steadily it stands.
 * 5: lines of a draught wall.
 */
export const READING_SCHEMA = 5

type StoredFault = ReadingFault | { line: number; text: string }
type StoredSeamOfObject = SeamOfObject | (Omit<SeamOfObject, 'resultantLength'> & { together: number })
/** A path reading as it was kept, in any shape there ever was. */
export type StoredReading = Omit<
  PathReading,
  'faults' | 'assumed' | 'seam' | 'build' | 'features' | 'stopsOverPart' | 'steadiness'
> & {
  build?: Omit<PathReading['build'], 'draughtWall'> & Partial<PathReading['build']>
  steadiness?: PathReading['steadiness']
  stopsOverPart?: number
  features: (Omit<FeatureTotals, 'usual' | 'fan' | 'acceleration'> & Partial<FeatureTotals>)[]
  faults: StoredFault[]
  assumed: (Reason | string)[]
  seam: Omit<PathReading['seam'], 'objects'> & { objects: StoredSeamOfObject[] }
}

/** A kept reading in today's shape. */
export function upgradeReading(stored: StoredReading): PathReading {
  return {
    ...stored,
    build: { ...UNKNOWN_BUILD, ...stored.build },
    steadiness: stored.steadiness ?? null,
    stopsOverPart:
      stored.stopsOverPart ?? (stored.stops ?? []).filter((s) => s.overPart && s.seconds >= 0.5).length,
    features: (stored.features ?? []).map((f) => ({ usual: null, fan: null, acceleration: null, ...f })),
    faults: stored.faults.map((f) => ('reason' in f ? f : { line: f.line, reason: upgradeReason(f.text) })),
    assumed: stored.assumed.map(upgradeReason),
    seam: {
      ...stored.seam,
      objects: stored.seam.objects.map((o) => {
        if (!('together' in o)) return o
        const { together, ...rest } = o
        return { ...rest, resultantLength: together }
      }),
    },
  }
}
