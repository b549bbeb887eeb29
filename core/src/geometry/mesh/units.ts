import { sizeOf, type Extent } from './mesh'

/** mm in a unit that a file may have been drawn in. */
export const DRAWN_UNITS = { mm: 1, inch: 25.4, metre: 1000, centimetre: 10, micrometre: 0.001 } as const
export type DrawnUnit = keyof typeof DRAWN_UNITS

/** A unit a mesh may be meant in, and its longest side then, mm. */
export interface UnitGuess {
  unit: DrawnUnit
  longest: number
}

/** Longest sides that parts usually have, mm. Common practice, no source. */
const USUAL = { least: 4, most: 600 }

/**
 * Units in which a mesh would have a usual size, when it has none in millimetres: one without a unit may be in inches or
 * metres.
 * @returns nothing where millimetres are plausible
 */
export function unitGuesses(extent: Extent, most = USUAL.most): UnitGuess[] {
  const longest = Math.max(...sizeOf(extent))
  if (longest >= USUAL.least && longest <= most) return []
  return (Object.keys(DRAWN_UNITS) as DrawnUnit[]).flatMap((unit) => {
    const as = longest * DRAWN_UNITS[unit]
    return unit !== 'mm' && as >= USUAL.least && as <= most ? [{ unit, longest: as }] : []
  })
}
