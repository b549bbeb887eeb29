import type { Reason } from '../quantity/reason'
import type { Machine } from '../machine/machine'
import { cardOf } from '../material/cards'
import { cardFor } from '../material/filling'
import { diameterFacts, type Filament } from '../material/filament'
import type { LayerTable } from '../toolpath/table'
import { bedOutcome, type BedOutcome } from './bed'
import { causesOfBands, causesOfRibs, type BandsContext, type PossibleCause } from './causes'
import { diameterOutcome } from './diameter'
import {
  dryingOutcome,
  feedOutcome,
  heaterOutcome,
  purgeOutcome,
  rollOutcome,
  threadOutcome,
  type OfRoll,
  type SimpleOutcome,
} from './feed'
import { spacingInterval, spacingOfHeights, type Spacing } from './periods'
import { USUAL_INSTRUMENT, ownUncertainty } from './instruments'
import { measuredReason } from './reasons'
import { ripplesOutcome, type RipplesOutcome } from './ripples'
import { stepsOfLayerTime, type LayerTimeStep } from './layerTimes'
import { NO_CORRECTION, takeApart, type SizesInUse, type SizesOutcome } from './sizes'
import type { Measured, MeasuredKind } from './types'

/** What a measurement is worked out with. */
export interface MeasurementContext {
  machine: Machine
  /** null where it is of the machine alone. */
  filament: Filament | null
  /** Corrections in the recipe the part was printed with. */
  inUse?: SizesInUse
  /** mm */
  layerHeight?: number
  /** Fastest over slowest of walls and fill. */
  speedRatio?: number
  /** mm, a line of the outer wall. */
  wall?: number
  /** Seconds a layer takes, and mm of filament it is fed, as a path file shows. */
  layerSeconds?: number | null
  layerFed?: number | null
  /** Layers of that file. */
  layers?: LayerTable | null
  /** s; of watched heaters. */
  nozzlePeriod?: number | null
  bedPeriod?: number | null
}

export interface BandsOutcome {
  kind: 'found' | 'flat' | 'few'
  spacing: Spacing | null
  causes: PossibleCause[]
  /** Layers at the bands take another time than the others in the path file. */
  layerTimes: LayerTimeStep | null
  reasons: Reason[]
}

/** What came of a measurement, by its kind. */
export type Evaluated =
  | ({ of: 'sizes' } & { outcome: SizesOutcome })
  | ({ of: 'bed' } & { outcome: BedOutcome })
  | ({ of: 'simple'; what: MeasuredKind } & { outcome: SimpleOutcome })
  | ({ of: 'bands' } & { outcome: BandsOutcome })
  | ({ of: 'ripples' } & { outcome: RipplesOutcome })

/** mm that rolls are thicker or thinner than they say. From memory. */
const ROLLS_VARY = 0.05

/** Plastic of a roll; a usual one where no roll is meant. */
export function rollFigures(filament: Filament | null): OfRoll {
  const family = filament?.family ?? 'pla'
  const measured = filament && diameterFacts(filament)
  return {
    diameter: measured?.mean ?? filament?.diameter ?? 1.75,
    diameterU: measured ? ownUncertainty(USUAL_INSTRUMENT) : ROLLS_VARY / Math.sqrt(3),
    density: cardOf(family).density,
    family,
  }
}

/** Works a measurement out. The one entry: the screen, the server and the diagnosis call it. */
export function evaluate(measured: Measured, context: MeasurementContext): Evaluated {
  const { machine, filament } = context
  const card = filament ? cardFor(filament) : null
  switch (measured.kind) {
    case 'sizes':
      return {
        of: 'sizes',
        outcome: takeApart(
          measured.readings,
          {
            instrument: measured.instrument,
            inUse: context.inUse ?? NO_CORRECTION,
            ...(card && { shrink: card.shrink, soft: card.flexible, family: card.id }),
            speedRatio: context.speedRatio,
            wall: context.wall,
          },
          measured.wanted,
        ),
      }
    case 'bed':
      return { of: 'bed', outcome: bedOutcome(measured, machine, machine.bed.screws ?? null) }
    case 'feed':
      return { of: 'simple', what: measured.kind, outcome: feedOutcome(measured) }
    case 'purge':
      return { of: 'simple', what: measured.kind, outcome: purgeOutcome(measured, rollFigures(filament)) }
    case 'drying':
      return { of: 'simple', what: measured.kind, outcome: dryingOutcome(measured) }
    case 'roll':
      return { of: 'simple', what: measured.kind, outcome: rollOutcome(measured, rollFigures(filament)) }
    case 'diameter':
      return {
        of: 'simple',
        what: measured.kind,
        outcome: diameterOutcome(measured, filament?.diameter ?? 1.75),
      }
    case 'thread':
      return { of: 'simple', what: measured.kind, outcome: threadOutcome(measured, machine.nozzle.diameter) }
    case 'heater':
      return { of: 'simple', what: measured.kind, outcome: heaterOutcome(measured) }
    case 'bands': {
      const spacing: Spacing | null = measured.spacing
        ? { ...measured.spacing, p: 0 }
        : spacingOfHeights(measured.heights)
      const causesOf = (found: Spacing) =>
        measured.along === 'wall' ? causesOfRibs(found, machine) : causesOfBands(found, bandsContext(context))
      const outcome = bandsOutcome(spacing, measured.heights.length, causesOf)
      const steps =
        context.layers && measured.along !== 'wall'
          ? stepsOfLayerTime(measured.heights, context.layers)
          : null
      return { of: 'bands', outcome: steps ? withSteps(outcome, steps) : outcome }
    }
    case 'ripples':
      return {
        of: 'ripples',
        outcome: ripplesOutcome(measured.readings, measured.allowed, machine.belt.pitch),
      }
  }
}

/** The time between layers accounts for the bands, whether they keep a spacing or not. */
function withSteps(outcome: BandsOutcome, layerTimes: LayerTimeStep): BandsOutcome {
  const said = measuredReason('layer-times-step', layerTimes)
  const others = outcome.reasons.filter((r) => r.code !== 'none-fits' && r.code !== 'too-few-readings')
  return { ...outcome, kind: 'found', layerTimes, reasons: [...others, said] }
}

const bandsContext = (c: MeasurementContext): BandsContext => ({
  machine: c.machine,
  layerHeight: c.layerHeight ?? 0.2,
  layerSeconds: c.layerSeconds ?? null,
  layerFed: c.layerFed ?? null,
  gear: c.machine.drive.gear ?? null,
  nozzlePeriod: c.nozzlePeriod ?? null,
  bedPeriod: c.bedPeriod ?? null,
})

/** A spacing that comes by accident in more than one of twenty is none. */
const BY_ACCIDENT = 0.05

function bandsOutcome(
  spacing: Spacing | null,
  count: number,
  causesOf: (spacing: Spacing) => PossibleCause[],
): BandsOutcome {
  if (!spacing)
    return {
      kind: 'few',
      spacing: null,
      causes: [],
      layerTimes: null,
      reasons: [measuredReason('too-few-readings', { count, wanted: 3 })],
    }
  if (spacing.p > BY_ACCIDENT)
    return {
      kind: 'flat',
      spacing,
      causes: [],
      layerTimes: null,
      reasons: [measuredReason('no-spacing', { p: spacing.p })],
    }
  const causes = causesOf(spacing)
  const fit = causes.filter((c) => c.fits)
  return {
    kind: 'found',
    spacing,
    causes,
    layerTimes: null,
    reasons: [
      measuredReason('spacing-is', { spacing: spacing.value, plusMinus: spacingInterval(spacing), count }),
      ...fit.map((c) => measuredReason('cause-fits', { cause: c.cause, period: c.period, off: c.off * 100 })),
      ...(fit.length ? [] : [measuredReason('none-fits')]),
    ],
  }
}
