import type { Reason } from '../quantity/reason'
import { tQuantile } from '../statistics/distributions'
import { meanOf } from '../statistics/uncertainty'
import { measuredReason } from './reasons'
import type { RippleReading } from './types'

export interface RipplesOutcome {
  kind: 'frame' | 'belt' | 'open' | 'few'
  /** The spacing is that of the belt's teeth. */
  fitsBelt: boolean
  /** Hz, where the frame swings; mm where the spacing stays. */
  frequency: number | null
  spacing: number | null
  plusMinus: number | null
  /** mm/s² that leaves no more than the height allowed; null where it cannot be said. */
  acceleration: number | null
  reasons: Reason[]
}

/** Scatter of one spacing that a ruler reads off, as a share. From memory. */
const SCATTER = 0.04

/**
 * Ripples after corners at several speeds: where the frequency (speed over spacing) stays, the frame swings; where the
 * spacing stays, it is the belt's teeth. The one whose readings scatter less by their logarithms is meant, where it is
 * clearly less.
 * A jump of acceleration sets a mass on springs swinging by a/ω²; the first crest stands as far out (any text on
 * vibrations): the acceleration that leaves the height allowed follows.
 * @param allowed mm a crest may stand out
 * @param pitch mm of the belt
 */
export function ripplesOutcome(
  readings: readonly RippleReading[],
  allowed: number,
  pitch: number,
): RipplesOutcome {
  const usable = readings.filter((r) => r.speed > 0 && r.spacing > 0)
  const empty: RipplesOutcome = {
    kind: 'few',
    fitsBelt: false,
    frequency: null,
    spacing: null,
    plusMinus: null,
    acceleration: null,
    reasons: [],
  }
  const speeds = new Set(usable.map((r) => r.speed))
  if (usable.length < 2 || speeds.size < 2)
    return { ...empty, reasons: [measuredReason('too-few-readings', { count: usable.length, wanted: 2 })] }
  const logF = meanOf(usable.map((r) => Math.log(r.speed / r.spacing)))
  const logS = meanOf(usable.map((r) => Math.log(r.spacing)))
  const dof = usable.length - 1
  const half = (sd: number) => (tQuantile(0.975, dof) * Math.max(sd, SCATTER / 2)) / Math.sqrt(usable.length)
  const ratio = (logS.sd + SCATTER / 4) / (logF.sd + SCATTER / 4)
  if (ratio > 2) {
    const frequency = Math.exp(logF.mean)
    const omega = 2 * Math.PI * frequency
    const acceleration = allowed * omega * omega
    return {
      ...empty,
      kind: 'frame',
      frequency,
      plusMinus: frequency * half(logF.sd),
      acceleration: Math.round(acceleration / 50) * 50,
      reasons: [
        measuredReason('frequency-constant', { frequency, plusMinus: frequency * half(logF.sd) }),
        measuredReason('acceleration-allows', { acceleration: Math.round(acceleration / 50) * 50, allowed }),
      ],
    }
  }
  if (ratio < 0.5) {
    const spacing = Math.exp(logS.mean)
    const belt = Math.abs(spacing / pitch - 1) < Math.max(0.05, half(logS.sd))
    return {
      ...empty,
      kind: 'belt',
      fitsBelt: belt,
      spacing,
      plusMinus: spacing * half(logS.sd),
      reasons: [measuredReason('spacing-constant', { spacing, pitch: belt ? pitch : null })],
    }
  }
  return { ...empty, kind: 'open', reasons: [measuredReason('cannot-tell-ripples')] }
}
