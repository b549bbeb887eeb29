import type { LookId } from '../../knowledge/checks'
import { belongsTo, type SuspectId } from '../../knowledge/suspects'
import { evaluate, type Evaluated, type MeasurementContext } from '../../measurement/evaluate'
import { NO_CORRECTION, type SizesInUse, type SizesOutcome } from '../../measurement/sizes'
import type { SizeTerm } from '../../measurement/sizeTerms'
import type { Measured } from '../../measurement/types'
import type { ValuesOnly } from '../../recipe/derive'
import { normalShare } from '../../statistics/distributions'
import { clampedDecibans } from './clamp'
import type { LookResult } from './looks'

/** A measurement of the pair or its machine. */
export interface TakenMeasurement {
  measured: Measured
  /** Corrections in the recipe the measured part was printed with. */
  inUse: SizesInUse | null
  /** Screws were turned, steps corrected, the roll dried again: what was measured is so no more. */
  acted: boolean
  /** The machine's steps were corrected by what the sizes showed. */
  stepsCorrected?: boolean
  /** Measured on another part than the one that is looked at. */
  elsewhere?: boolean
  /** What the sizes were taken of; calipers on any part where it is left out. */
  by?: 'size-plate'
}

/** The corrections of sizes that a recipe has. */
export const inUseOf = (values: ValuesOnly): SizesInUse => {
  const n = (key: keyof SizesInUse) => Number(values[key].value)
  return {
    contourOffset: n('contourOffset'),
    holeOffset: n('holeOffset'),
    scaleX: n('scaleX'),
    scaleY: n('scaleY'),
    scaleZ: n('scaleZ'),
    footTrim: n('footTrim'),
  }
}

/** How large a fault has to be to matter: mm, and shares of a length. Common practice, no source. */
const MATTERS = {
  contour: 0.04,
  hole: 0.05,
  scale: 0.0025,
  skew: 0.002,
  flare: 0.15,
  tilt: 0.12,
  bow: 0.1,
  feed: 0.012,
  bore: 0.1,
}

/**
 * What a measurement says of suspects: by how likely the true value lies beyond what matters, given its interval; not by
 * a fixed rate. What it cannot tell it says nothing of.
 */
export function measurementEvidence(
  { measured, inUse, acted, stepsCorrected, by }: TakenMeasurement,
  context: MeasurementContext,
): LookResult[] {
  // sizes are foretold under the recipe as it is now; of the rest only what still stands speaks
  if (acted && measured.kind !== 'sizes') return []
  const then = inUse ?? context.inUse ?? NO_CORRECTION
  const now = context.inUse ?? NO_CORRECTION
  const { of, outcome } = evaluate(measured, { ...context, inUse: then }) as Evaluated
  const result = (by: LookId, suspect: SuspectId, beyond: number): LookResult => ({
    by,
    suspect,
    found: beyond > 0.5,
    decibans: clampedDecibans(beyond),
  })
  /** Chance that a value with half of its 95 % interval lies beyond a bound. */
  const above = (value: number, plusMinus: number, bound: number) =>
    normalShare((value - bound) / Math.max(1e-9, plusMinus / 1.96))
  switch (of) {
    case 'sizes':
      return outcome.kind === 'few'
        ? []
        : sizesEvidence(
            shifted(stepsCorrected ? withSteps(outcome) : outcome, then, now),
            by ?? 'calipers',
            above,
            result,
          )
    case 'bed': {
      if (outcome.kind === 'few') return []
      const u = Math.max(0.02, Math.min(0.5, outcome.tiltPlusMinus))
      return [
        result('probe-grid', 'bed-tilted', above(outcome.tilt, u, MATTERS.tilt)),
        result('probe-grid', 'bed-warped', above(outcome.bow, 0.04, MATTERS.bow)),
      ]
    }
    case 'simple':
      return simpleEvidence(
        measured,
        outcome.value,
        outcome.plusMinus,
        context.machine.nozzle.diameter,
        above,
        result,
      )
    case 'bands': {
      const causes: Partial<Record<string, SuspectId>> = {
        'screw-lead': 'screw-wobble',
        'step-beat': 'layer-height-off-step',
        'drive-gear': 'drive-gear-runout',
        'bed-heater': 'bed-heat-cycling',
        'belt-tooth': 'belt-tooth-imprint',
      }
      if (outcome.kind !== 'found') return []
      const fit = outcome.causes.filter((c) => c.fits && causes[c.cause])
      const only = fit.length === 1 && !outcome.layerTimes ? fit[0] : null
      return [
        ...outcome.causes.flatMap((c): LookResult[] => {
          const suspect = causes[c.cause]
          if (suspect && c === only)
            return [{ by: 'mark-heights', suspect, found: true, decibans: ONLY_PERIOD }]
          // bands that the time between layers accounts for speak of no period
          return suspect ? [result('mark-heights', suspect, c.fits && !outcome.layerTimes ? 0.93 : 0.05)] : []
        }),
        // layers that take less than the others have no time to set
        ...(outcome.layerTimes
          ? [
              result('mark-heights', 'speed-swings', 0.9),
              result(
                'mark-heights',
                'layer-time-too-short',
                outcome.layerTimes.inside < outcome.layerTimes.outside ? 0.8 : 0.3,
              ),
            ]
          : []),
      ]
    }
    case 'ripples':
      if (outcome.kind === 'frame')
        return [
          result('speed-fins', 'acceleration-too-high', 0.93),
          result('speed-fins', 'belt-tooth-imprint', 0.05),
        ]
      if (outcome.kind === 'belt')
        return [
          // one spacing at every speed, but only at the belt's own is it the belt
          result('speed-fins', 'belt-tooth-imprint', outcome.fitsBelt ? 0.93 : 0.02),
          result('speed-fins', 'motor-ripple', outcome.fitsBelt ? 0.1 : 0.93),
          result('speed-fins', 'acceleration-too-high', 0.1),
        ]
      return []
  }
}

type Above = (value: number, plusMinus: number, bound: number) => number
type Result = (by: LookId, suspect: SuspectId, beyond: number) => LookResult

/** Terms as they would be with the corrections that are in the recipe now. */
function shifted(outcome: SizesOutcome, then: SizesInUse, now: SizesInUse): SizesOutcome {
  const d = (key: keyof SizesInUse) => now[key] - then[key]
  const by: Partial<Record<SizeTerm, number>> = {
    contour: 2 * d('contourOffset'),
    hole: 2 * (d('holeOffset') - d('contourOffset')),
    scaleX: d('scaleX') / 100,
    scaleY: d('scaleY') / 100,
    scaleZ: d('scaleZ') / 100,
    flare: -2 * d('footTrim'),
  }
  return { ...outcome, terms: outcome.terms.map((t) => ({ ...t, value: t.value + (by[t.term] ?? 0) })) }
}

/** Terms as they are once the machine's steps were corrected by what was found. */
function withSteps(outcome: SizesOutcome): SizesOutcome {
  const by = new Map(outcome.machine.map((m) => [`scale${m.axis.toUpperCase()}`, m.factor - 1]))
  return {
    ...outcome,
    reasons: outcome.reasons.filter((r) => r.code !== 'axes-differ'),
    terms: outcome.terms.map((t) => ({ ...t, value: t.value + (by.get(t.term) ?? 0) })),
  }
}

function sizesEvidence(
  { terms, reasons }: SizesOutcome,
  by: LookId,
  above: Above,
  result: Result,
): LookResult[] {
  const term = (id: SizeTerm) => terms.find((t) => t.term === id)
  const out: LookResult[] = []
  const contour = term('contour')
  if (contour)
    out.push(
      result(by, 'contour-not-compensated', above(contour.value, contour.plusMinus, MATTERS.contour)),
      result(by, 'contour-overcompensated', above(-contour.value, contour.plusMinus, MATTERS.contour)),
    )
  const hole = term('hole')
  if (hole)
    out.push(
      result(
        by,
        'hole-not-compensated',
        // what the contour does to holes as well is not theirs
        above(-hole.value - Math.max(0, contour?.value ?? 0), hole.plusMinus, MATTERS.hole),
      ),
    )
  const [x, y] = [term('scaleX'), term('scaleY')]
  if (x && y) {
    const apart = reasons.some((r) => r.code === 'axes-differ')
    const both = Math.min(
      above(-x.value, x.plusMinus, MATTERS.scale),
      above(-y.value, y.plusMinus, MATTERS.scale),
    )
    out.push(result(by, 'shrink-not-compensated', apart ? Math.min(0.2, both) : both))
    out.push(
      result(
        by,
        'axis-scale-off',
        apart
          ? Math.max(
              above(Math.abs(x.value), x.plusMinus, MATTERS.scale),
              above(Math.abs(y.value), y.plusMinus, MATTERS.scale),
            )
          : 0.1,
      ),
    )
  }
  const skew = term('skew')
  if (skew) out.push(result(by, 'axes-not-square', above(Math.abs(skew.value), skew.plusMinus, MATTERS.skew)))
  return out
}

function simpleEvidence(
  measured: Measured,
  value: number | null,
  plusMinus: number | null,
  nozzle: number,
  above: Above,
  result: Result,
): LookResult[] {
  if (value === null) return []
  switch (measured.kind) {
    case 'feed':
      return [
        result('feed-100', 'feed-steps-off', above(Math.abs(value - 1), plusMinus ?? 0.01, MATTERS.feed)),
      ]
    case 'drying':
      // % lost, against what a wet roll loses
      return [result('weigh-and-dry', 'filament-wet', above(value, plusMinus ?? 0.1, 0.2))]
    case 'thread':
      // a bore is another one from a tenth of its width on; a thread tells it to about as much
      return [
        result(
          'hang-thread',
          'nozzle-worn-or-wrong',
          above(Math.abs(value - nozzle), plusMinus ?? 0.05, MATTERS.bore * nozzle),
        ),
      ]
    case 'heater':
      return measured.of === 'bed' ? [result('watch-heater', 'bed-heat-cycling', above(value, 1, 4))] : []
    default:
      return []
  }
}

/** What a measured period says of the only cause that it fits, decibans. From memory. */
const ONLY_PERIOD = 18

/** Measurements of one part, which say of the next what its machine does to it as well. */
const OF_A_PART: ReadonlySet<Measured['kind']> = new Set(['bands', 'ripples'] as const)
/** What another part says of this one, against what this one says itself. From memory. */
const ELSEWHERE = 0.5

/** What a measurement of another part says: of the machine's causes, weaker; of the part's own nothing. */
const asElsewhere = (results: readonly LookResult[]): LookResult[] =>
  results
    .filter((r) => belongsTo(r.suspect) === 'machine')
    .map((r) => ({ ...r, decibans: (r.decibans ?? 0) * ELSEWHERE, elsewhere: true }))

/** What the newest measurement of each kind says. */
export function evidenceOfMeasurements(
  all: readonly TakenMeasurement[],
  context: MeasurementContext,
): LookResult[] {
  const newest = new Map(all.map((m) => [m.measured.kind, m]))
  return [...newest.values()].flatMap((m) => {
    const results = measurementEvidence(m, context)
    return m.elsewhere && OF_A_PART.has(m.measured.kind) ? asElsewhere(results) : results
  })
}
