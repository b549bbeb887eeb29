import type { Reason } from '../quantity/reason'
import { diameterFacts, type DiameterReading } from '../material/filament'
import { tQuantile } from '../statistics/distributions'
import { combineUncertainties, resolutionUncertainty } from '../statistics/uncertainty'
import { typedNumber } from './entry'
import { tooFew, type SimpleOutcome } from './feed'
import { USUAL_INSTRUMENT, ownUncertainty } from './instruments'
import { measuredReason } from './reasons'
import type { MeasuredOf } from './types'

/** Spread along a roll, and difference of the two ways across, that show on a print, mm. Common practice, no source. */
const UNEVEN = 0.05
const OVAL = 0.06

/**
 * A filament measured at several places: the diameter of the round one with the same mean area, and what that does to
 * the feed. Uncertainty after JCGM 100: scatter of the mean, the display's step and the caliper's own error as rectangles.
 * @param nominal mm, what the roll says
 */
export function diameterOutcome(
  { places, resolution }: MeasuredOf<'diameter'>,
  nominal: number,
): SimpleOutcome {
  const facts = diameterFacts({ measured: places })
  if (!facts) return tooFew(0, 1)
  const { mean, spread, ovality, count } = facts
  const round = places.map((p) => Math.sqrt(p.a * (p.b ?? p.a)))
  const variance = count > 1 ? round.reduce((s, d) => s + (d - mean) ** 2, 0) / (count - 1) : 0
  const { expanded } = combineUncertainties(mean, [
    { u: resolutionUncertainty(resolution), dof: Infinity },
    { u: ownUncertainty(USUAL_INSTRUMENT), dof: Infinity },
    ...(count > 1 ? [{ u: Math.sqrt(variance / count), dof: count - 1 }] : []),
  ])
  // one place says nothing of the roll: what rolls usually vary by stands for its scatter
  const plusMinus =
    count > 1 ? expanded : Math.hypot(expanded, tQuantile(0.975, 30) * (UNEVEN / Math.sqrt(12)))
  const differs = Math.abs(mean - nominal) > plusMinus
  const off = differs && count > 1
  const share = (mean / nominal) ** 2
  const reasons: Reason[] = [
    measuredReason('diameter-is', { mean, plusMinus, count, nominal }),
    off
      ? measuredReason('diameter-area', { share: share * 100, flow: 100 / share })
      : measuredReason(differs ? 'read-once-more' : 'diameter-right'),
    ...(spread > UNEVEN ? [measuredReason('diameter-uneven', { spread })] : []),
    ...(ovality !== null && ovality > OVAL ? [measuredReason('diameter-oval', { ovality })] : []),
  ]
  return { kind: off ? 'found' : 'flat', value: mean, plusMinus, reasons }
}

/** A place as it is typed: 1.75, or both ways across with a slash between, 1.74/1.76; null when it is none. */
export function typedPlace(text: string): DiameterReading | null {
  const [a, b, ...more] = text.split('/').map(typedNumber)
  if (more.length || a === null || b === null || !(a > 0)) return null
  return b === undefined ? { a, b: null } : b > 0 ? { a, b } : null
}
