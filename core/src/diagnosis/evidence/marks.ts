import type { SuspectId } from '../../knowledge/suspects'
import type { Correlation, QuantityId } from '../../toolpath/correlate'
import type { Evidence } from '../inference/balance'
import { because } from '../reasons'

/** Suspects that a quantity speaks of when it changes where the flaw is, the likeliest first. */
export const SUSPECTS_OF_QUANTITY: Record<QuantityId, SuspectId[]> = {
  seconds: ['layer-time-too-short', 'speed-swings'],
  outerSpeed: ['speed-swings'],
  outerAsked: ['speed-swings'],
  meltPeak: ['melt-rate-exceeded'],
  meltMean: ['melt-rate-exceeded', 'temperature-swing'],
  fan: ['cooling-too-strong', 'cooling-too-weak'],
  nozzle: ['nozzle-too-hot', 'nozzle-too-cold'],
  bed: ['bed-too-hot', 'bed-too-cold'],
  width: ['outer-wall-overfed', 'flow-too-low'],
  height: [],
  retractions: ['feed-slip', 'retraction-too-long'],
  openAir: ['retraction-off', 'retraction-too-short'],
  stop: ['head-parks-on-part'],
  supported: ['cooling-too-weak'],
  overhang: ['cooling-too-weak', 'poor-orientation'],
}

/** Suspects that a quantity speaks of in one direction alone: shorter layers leave less time, longer ones do not. */
const ONLY_WHERE_IT: { [Q in QuantityId]?: { [S in SuspectId]?: 'rises' | 'drops' } } = {
  seconds: { 'layer-time-too-short': 'drops' },
  meltPeak: { 'melt-rate-exceeded': 'rises' },
  meltMean: { 'melt-rate-exceeded': 'rises' },
  fan: { 'cooling-too-strong': 'rises', 'cooling-too-weak': 'drops' },
  nozzle: { 'nozzle-too-hot': 'rises', 'nozzle-too-cold': 'drops' },
  bed: { 'bed-too-hot': 'rises', 'bed-too-cold': 'drops' },
  width: { 'outer-wall-overfed': 'rises', 'flow-too-low': 'drops' },
  retractions: { 'feed-slip': 'rises', 'retraction-too-long': 'rises' },
  openAir: { 'retraction-off': 'rises', 'retraction-too-short': 'rises' },
  stop: { 'head-parks-on-part': 'rises' },
  supported: { 'cooling-too-weak': 'drops' },
  overhang: { 'cooling-too-weak': 'rises', 'poor-orientation': 'rises' },
}

/** Decibans against the first suspect of a quantity that does not change at the marks. From memory. */
const NO_MATCH = 2

/**
 * What a match between marked heights and a quantity says of its suspects: by how strong it is and how unlikely
 * by accident among all quantities. From memory: 3 to 10 decibans for the first suspect, half of it for the others; what
 * matches no better than any other place speaks a little against it.
 */
export function markEvidence(
  match: Pick<Correlation, 'id' | 'strength' | 'p' | 'inside' | 'outside' | 'reason'>,
): Evidence[] {
  const decibans =
    match.p > 0.5
      ? -NO_MATCH
      : match.p > 0.2
        ? 0
        : Math.min(10, 3 + 8 * match.strength * (match.p < 0.05 ? 1 : 0.5))
  const way = match.inside > match.outside ? 'rises' : match.inside < match.outside ? 'drops' : null
  return SUSPECTS_OF_QUANTITY[match.id]
    .filter((s) => !way || (ONLY_WHERE_IT[match.id]?.[s] ?? way) === way)
    .map((suspect, i) => ({
      suspect,
      decibans: Number((i ? decibans / 2 : decibans).toFixed(1)),
      reason: because('marked-heights', { match: match.reason }),
    }))
}
