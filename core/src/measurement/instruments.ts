import { resolutionUncertainty } from '../statistics/uncertainty'

export const INSTRUMENTS = ['caliper', 'micrometer', 'ruler'] as const
export type InstrumentKind = (typeof INSTRUMENTS)[number]

/** What a length was taken with. */
export interface Instrument {
  kind: InstrumentKind
  /** Step of its display or scale, mm. */
  resolution: number
  /** What it shows where it should show nought, mm; null or left out where nobody looked. */
  zero?: number | null
}

/** Half-width of what an instrument may be off by itself, mm. Common practice, no source. */
const OWN_ERROR: Record<InstrumentKind, number> = { caliper: 0.02, micrometer: 0.004, ruler: 0.2 }
/** How far hands differ from one reading to the next on a printed face, mm. From memory. */
export const HAND = 0.02

/** Steps an instrument usually shows, mm. */
export const RESOLUTIONS: Record<InstrumentKind, readonly number[]> = {
  caliper: [0.01, 0.02, 0.05, 0.1],
  micrometer: [0.001, 0.01],
  ruler: [0.5, 1],
}
export const USUAL_INSTRUMENT: Instrument = { kind: 'caliper', resolution: 0.01 }

/** How far a face of a print lies off the mean of such faces, mm. From memory. */
const FACE = 0.02
/** Half-width of what the nought of an instrument may be off by, where nobody looked, mm. Common practice, no source. */
const UNKNOWN_ZERO: Record<InstrumentKind, number> = { caliper: 0.03, micrometer: 0.005, ruler: 0 }

/** What scatters between readings of one size: display step and hand, mm (JCGM 100, F.2.2.1). */
export const readingUncertainty = ({ resolution }: Instrument): number =>
  Math.hypot(resolutionUncertainty(resolution), HAND)

/** What scatters between sizes, mm: both of their faces. */
export const FACES = FACE * Math.SQRT2

/** What all readings of an instrument share, mm: its own error and an unknown nought, as rectangles (JCGM 100, 4.3.7). */
export const ownUncertainty = ({ kind, zero }: Instrument): number =>
  Math.hypot(OWN_ERROR[kind], zero == null ? UNKNOWN_ZERO[kind] : 0) / Math.sqrt(3)
