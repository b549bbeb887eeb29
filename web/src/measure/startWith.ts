import type { Machine } from '@verimend/core/machine'
import { USUAL_INSTRUMENT, type FeltGap, type Measured, type MeasuredKind } from '@verimend/core/measurement'

/** Share of the bed its outer felt places lie in from the edge. */
const INSET = 0.12

/** Nine places of a bed, row by row from the front. */
export function ninePlaces({ bed }: Machine): { x: number; y: number }[] {
  const [x0, y0] = bed.shape === 'round' ? [-bed.width / 2, -bed.depth / 2] : [0, 0]
  const at = (from: number, size: number, share: number) => Math.round(from + size * share)
  // on a round bed the corners of the grid would hang over
  const inset = bed.shape === 'round' ? 0.2 : INSET
  return [inset, 0.5, 1 - inset].flatMap((v) =>
    [inset, 0.5, 1 - inset].map((u) => ({ x: at(x0, bed.width, u), y: at(y0, bed.depth, v) })),
  )
}

const noGap = (p: { x: number; y: number }): FeltGap => ({ ...p, feel: null, gap: null })

/** A measurement of a kind before anything is read. */
export function startWith(kind: MeasuredKind, machine: Machine): Measured {
  switch (kind) {
    case 'sizes':
      return { kind, instrument: USUAL_INSTRUMENT, readings: [], wanted: [] }
    case 'bed':
      return machine.bed.levelling === 'probe'
        ? { kind, from: 'grid', points: [] }
        : { kind, from: 'felt', sheet: 0.1, gaps: ninePlaces(machine).map(noGap) }
    case 'feed':
      return { kind, asked: 100, fed: [], steps: machine.drive.steps ?? null }
    case 'purge':
      return { kind, fed: 200, grams: [], resolution: 0.01 }
    case 'drying':
      return { kind, before: 1200, after: 1200, spool: null, resolution: 1 }
    case 'roll':
      return { kind, gross: 800, spool: 200 }
    case 'diameter':
      return { kind, places: [], resolution: 0.01 }
    case 'thread':
      return { kind, diameters: [], resolution: 0.01 }
    case 'heater':
      return { kind, of: 'bed', temperatures: [], interval: 2 }
    case 'bands':
      return { kind, heights: [], spacing: null }
    case 'ripples':
      return { kind, readings: [], allowed: 0.03 }
  }
}

/** What each kind answers, one line. */
export const ANSWERS: Record<MeasuredKind, string> = {
  sizes: 'A part, a cube or a size plate with calipers: contour, holes, scale, flare, angle.',
  bed: 'A probe’s grid, or gaps felt with paper: turns for each screw, and what no screw cures.',
  feed: 'A mark on the filament: the drive’s steps.',
  purge: 'A length fed into the air and weighed: feed or density.',
  drying: 'The roll before and after the dryer: was it wet, is it dry.',
  roll: 'The roll on a kitchen scale: metres left.',
  diameter: 'The filament at several places: mean, roundness, and the flow that makes up for it.',
  thread: 'A thread hanging from the nozzle: its bore.',
  heater: 'A minute of temperatures: does it hold.',
  bands: 'Heights of bands, or a photo of them: their spacing and what repeats like that.',
  ripples: 'Ripples after corners at several speeds: frame or belt, and which acceleration to take.',
}
