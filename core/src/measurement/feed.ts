import type { Reason } from '../quantity/reason'
import { filamentArea, filamentLength } from '../extrusion/bead'
import { tQuantile } from '../statistics/distributions'
import {
  combineUncertainties,
  meanOf,
  resolutionUncertainty,
  type Uncertain,
} from '../statistics/uncertainty'
import { USUAL_INSTRUMENT, ownUncertainty } from './instruments'
import { measuredReason } from './reasons'
import type { MeasuredOf } from './types'

/** What came of a test of feed, filament or heat. */
export interface SimpleOutcome {
  kind: 'found' | 'flat' | 'few'
  reasons: Reason[]
  /** The answer, with half of its 95 % interval. */
  value: number | null
  plusMinus: number | null
}
/** Not enough was read to say anything. */
export const tooFew = (count: number, wanted: number): SimpleOutcome => ({
  kind: 'few',
  reasons: [measuredReason('too-few-readings', { count, wanted })],
  value: null,
  plusMinus: null,
})

/** What each of the two marks on the filament can be set and read to, and what the ruler is off by, mm. Common practice, no source. */
const MARK = 0.3
const RULER = 0.2
/** mm that hands scatter between feeds: so much is assumed beside what the repeats tell, as if read three times. From memory. */
const HAND_FEEDS = 0.4
const ASSUMED_DOF = 2

/** Scatter of a mean, backed by what hands usually scatter where there are few readings (a pooled variance). */
function scatterOfMean(values: readonly number[], usual: number): { u: number; dof: number } {
  const { sd } = meanOf(values)
  const own = values.length - 1
  const variance = ((own ? own * sd * sd : 0) + ASSUMED_DOF * usual * usual) / (own + ASSUMED_DOF)
  return { u: Math.sqrt(variance / values.length), dof: own + ASSUMED_DOF }
}

/** Repeats after which the mean is known to a share, from the scatter of those there are. */
function repeatsFor(sd: number, mean: number, share: number): number {
  for (let n = 2; n < 40; n++) if ((tQuantile(0.975, n - 1) * sd) / Math.sqrt(n) <= share * mean) return n
  return 40
}

/** Share to which a feed is worth knowing. Common practice, no source. */
const FEED_WORTH = 0.005

/**
 * The feed test: so much was asked for, so much went in. The drive's steps are to be multiplied by asked over fed: a
 * correction of the machine, not of a recipe. Uncertainty after JCGM 100: scatter of the mean, and the mark as a
 * rectangle.
 */
export function feedOutcome({
  asked,
  fed,
  steps,
}: MeasuredOf<'feed'>): SimpleOutcome & { factor: Uncertain | null } {
  if (!fed.length) return { ...tooFew(0, 1), factor: null }
  const { mean, sd } = meanOf(fed)
  const by = asked / (mean * mean)
  const { u, dof } = scatterOfMean(fed, HAND_FEEDS)
  const factor = combineUncertainties(asked / mean, [
    { u: (by * Math.hypot(Math.SQRT2 * MARK, RULER)) / Math.sqrt(3), dof: Infinity },
    { u: by * u, dof },
  ])
  const differs = Math.abs(factor.value - 1) > factor.expanded
  const off = differs && fed.length > 1
  const wanted = fed.length > 1 ? repeatsFor(Math.max(sd, MARK / Math.sqrt(3)), mean, FEED_WORTH) : 3
  return {
    kind: off ? 'found' : 'flat',
    factor,
    value: factor.value,
    plusMinus: factor.expanded,
    reasons: [
      off
        ? measuredReason('feed-factor', {
            factor: factor.value,
            plusMinus: factor.expanded,
            steps: steps === null ? null : Number((steps * factor.value).toFixed(2)),
          })
        : differs
          ? measuredReason('read-once-more')
          : measuredReason('feed-right', { plusMinus: factor.expanded * 100 }),
      fed.length >= wanted
        ? measuredReason('repeats-enough', { count: fed.length, wanted })
        : measuredReason('repeats-more', { count: fed.length, wanted }),
    ],
  }
}

export interface OfRoll {
  /** mm, and what it is uncertain by. */
  diameter: number
  diameterU: number
  /** g/cm³ */
  density: number
  family: string
}

/**
 * Filament fed into the air and weighed: what came out against what its length weighs. Where the feed is known to be
 * right it is the density's test instead: both are given.
 */
export function purgeOutcome(
  { fed, grams, resolution }: MeasuredOf<'purge'>,
  { diameter, diameterU, density }: OfRoll,
): SimpleOutcome & { density: Uncertain | null } {
  if (!grams.length) return { ...tooFew(0, 1), density: null }
  const { mean } = meanOf(grams)
  const due = (filamentArea(diameter) * fed * density) / 1000
  const { u, dof } = scatterOfMean(grams, HAND_PURGES * mean)
  // the scale and the hand; the roll's thickness; for the share also how heavy plastics of one family are
  const parts = (of: number, alsoDensity: boolean) => [
    { u: (of * resolutionUncertainty(resolution)) / mean, dof: Infinity },
    { u: (of * SCALE) / Math.sqrt(3), dof: Infinity },
    { u: (of * 2 * diameterU) / diameter, dof: Infinity },
    ...(alsoDensity ? [{ u: (of * DENSITY) / Math.sqrt(3), dof: Infinity }] : []),
    { u: (of * u) / mean, dof },
  ]
  const share = combineUncertainties(mean / due, parts(mean / due, true))
  const own = (mean * 1000) / (filamentArea(diameter) * fed)
  const found = combineUncertainties(own, parts(own, false))
  const differs = Math.abs(share.value - 1) > share.expanded
  const off = differs && grams.length > 1
  return {
    kind: off ? 'found' : 'flat',
    value: share.value,
    plusMinus: share.expanded,
    density: found,
    reasons: [
      measuredReason('purge-share', { share: share.value * 100, plusMinus: share.expanded * 100 }),
      measuredReason('density-is', { density: found.value, plusMinus: found.expanded }),
      ...(differs && !off ? [measuredReason('read-once-more')] : []),
    ],
  }
}

/** Shares that purges of one length scatter by, a kitchen scale is off by, and rolls of one family are heavier or lighter. From memory. */
const HAND_PURGES = 0.01
const SCALE = 0.005
const DENSITY = 0.03

/** Share of its weight from which on a roll was wet, and under which a dried one is dry. Common practice, no source. */
const WET = 0.002
/** A spool whose weight nobody knows, g, and what that is uncertain by. From memory. */
const USUAL_SPOOL = { grams: 200, half: 80 }

/** A roll weighed before and after drying: the water it lost, as a share of the plastic. */
export function dryingOutcome({ before, after, spool, resolution }: MeasuredOf<'drying'>): SimpleOutcome {
  const plastic = before - (spool ?? USUAL_SPOOL.grams)
  if (!(plastic > 0)) return tooFew(0, 1)
  const lost = (before - after) / plastic
  const { expanded } = combineUncertainties(lost, [
    { u: (Math.SQRT2 * resolutionUncertainty(resolution)) / plastic, dof: Infinity },
    ...(spool === null ? [{ u: (lost * USUAL_SPOOL.half) / Math.sqrt(3) / plastic, dof: Infinity }] : []),
  ])
  return {
    kind: lost > expanded ? 'found' : 'flat',
    value: lost * 100,
    plusMinus: expanded * 100,
    reasons: [
      measuredReason('water-lost', { share: lost * 100, plusMinus: expanded * 100 }),
      lost < -expanded
        ? measuredReason('gained-weight')
        : lost > WET
          ? measuredReason('was-wet')
          : measuredReason('dry-enough'),
    ],
  }
}

/** What is left on a weighed roll. */
export function rollOutcome(
  { gross, spool }: MeasuredOf<'roll'>,
  { diameter, density }: OfRoll,
): SimpleOutcome {
  const grams = gross - spool
  if (!(grams > 0)) return tooFew(0, 1)
  const metres = filamentLength(grams, diameter, density) / 1000
  return {
    kind: 'found',
    value: metres,
    plusMinus: null,
    reasons: [measuredReason('metres-left', { metres, grams })],
  }
}

/** How much wider than the bore a free thread comes out, as times. From memory. */
const SWELL = { value: 1.12, half: 0.08 }

/** A thread that hangs free: the bore it came from, and whether that is the nozzle that is noted. */
export function threadOutcome(
  { diameters, resolution }: MeasuredOf<'thread'>,
  nozzle: number,
): SimpleOutcome {
  if (!diameters.length) return tooFew(0, 1)
  const { mean, u, dof } = meanOf(diameters)
  const bore = combineUncertainties(mean / SWELL.value, [
    { u: resolutionUncertainty(resolution) / SWELL.value, dof: Infinity },
    { u: ownUncertainty(USUAL_INSTRUMENT) / SWELL.value, dof: Infinity },
    { u: (mean * SWELL.half) / (SWELL.value * SWELL.value) / Math.sqrt(3), dof: Infinity },
    ...(diameters.length > 1 ? [{ u: u / SWELL.value, dof }] : []),
  ])
  const off = bore.value - nozzle
  return {
    kind: Math.abs(off) > bore.expanded ? 'found' : 'flat',
    value: bore.value,
    plusMinus: bore.expanded,
    reasons: [
      measuredReason('bore-is', { bore: bore.value, plusMinus: bore.expanded, nominal: nozzle }),
      off > bore.expanded
        ? measuredReason('bore-worn')
        : off < -bore.expanded
          ? measuredReason('bore-narrow')
          : measuredReason('bore-fits'),
    ],
  }
}

/** A swing that is usual for a heater that holds, °C from lowest to highest. Common practice, no source. */
const STEADY: Record<'nozzle' | 'bed', number> = { nozzle: 2.5, bed: 2 }

/** Temperatures noted one after another: mean, swing, and the period of the swinging where there is one. */
export function heaterOutcome({ of, temperatures, interval }: MeasuredOf<'heater'>): SimpleOutcome & {
  /** s */
  period: number | null
} {
  if (temperatures.length < 8) return { ...tooFew(temperatures.length, 8), period: null }
  const mean = temperatures.reduce((s, v) => s + v, 0) / temperatures.length
  const swing = Math.max(...temperatures) - Math.min(...temperatures)
  const steady = swing <= STEADY[of]
  // crossings of the mean, upwards
  const ups: number[] = []
  for (let i = 1; i < temperatures.length; i++)
    if (temperatures[i - 1] < mean && temperatures[i] >= mean)
      ups.push(i - 1 + (mean - temperatures[i - 1]) / (temperatures[i] - temperatures[i - 1]))
  const period = ups.length > 1 ? ((ups[ups.length - 1] - ups[0]) / (ups.length - 1)) * interval : null
  return {
    kind: steady ? 'flat' : 'found',
    value: swing,
    plusMinus: null,
    period: steady ? null : period,
    reasons: [
      steady
        ? measuredReason('heater-steady', { mean, swing })
        : measuredReason('heater-swing', { mean, swing, period }),
    ],
  }
}
