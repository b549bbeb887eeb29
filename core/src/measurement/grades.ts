/** Upper ends of the steps of nominal sizes, mm (ISO 286-1). */
const STEPS = [3, 6, 10, 18, 30, 50, 80, 120, 180, 250, 315, 400, 500]
/** Widths of the tolerance zones in µm, a column for each step (ISO 286-1, table 1; entered from memory). */
const WIDTHS: Record<number, readonly number[]> = {
  6: [6, 8, 9, 11, 13, 16, 19, 22, 25, 29, 32, 36, 40],
  7: [10, 12, 15, 18, 21, 25, 30, 35, 40, 46, 52, 57, 63],
  8: [14, 18, 22, 27, 33, 39, 46, 54, 63, 72, 81, 89, 97],
  9: [25, 30, 36, 43, 52, 62, 74, 87, 100, 115, 130, 140, 155],
  10: [40, 48, 58, 70, 84, 100, 120, 140, 160, 185, 210, 230, 250],
  11: [60, 75, 90, 110, 130, 160, 190, 220, 250, 290, 320, 360, 400],
  12: [100, 120, 150, 180, 210, 250, 300, 350, 400, 460, 520, 570, 630],
  13: [140, 180, 220, 270, 330, 390, 460, 540, 630, 720, 810, 890, 970],
  14: [250, 300, 360, 430, 520, 620, 740, 870, 1000, 1150, 1300, 1400, 1550],
  15: [400, 480, 580, 700, 840, 1000, 1200, 1400, 1600, 1850, 2100, 2300, 2500],
  16: [600, 750, 900, 1100, 1300, 1600, 1900, 2200, 2500, 2900, 3200, 3600, 4000],
}
export const TOLERANCE_GRADES = Object.keys(WIDTHS).map(Number)

/**
 * Width of a tolerance zone, mm (ISO 286-1).
 * @param grade 6 to 16
 * @param nominal mm, up to 500; null beyond
 */
export function toleranceOf(grade: number, nominal: number): number | null {
  const at = STEPS.findIndex((s) => nominal <= s)
  const microns = at < 0 || !(nominal > 0) ? undefined : WIDTHS[grade]?.[at]
  return microns === undefined ? null : microns / 1000
}

/**
 * The finest grade whose zone, laid evenly about the nominal, holds all errors; null when none does.
 * @param sizes nominal and error, mm
 */
export function gradeOf(sizes: readonly { nominal: number; error: number }[]): number | null {
  if (!sizes.length) return null
  return (
    TOLERANCE_GRADES.find((g) =>
      sizes.every(({ nominal, error }) => {
        const zone = toleranceOf(g, nominal)
        return zone !== null && 2 * Math.abs(error) <= zone + 1e-9
      }),
    ) ?? null
  )
}

export const GENERAL_CLASSES = ['fine', 'medium', 'coarse', 'very coarse'] as const
export type GeneralClass = (typeof GENERAL_CLASSES)[number]
/** General tolerances of lengths, ± mm, up to a nominal (ISO 2768-1). */
const GENERAL: readonly [number, ...(number | null)[]][] = [
  [3, 0.05, 0.1, 0.2, null],
  [6, 0.05, 0.1, 0.3, 0.5],
  [30, 0.1, 0.2, 0.5, 1],
  [120, 0.15, 0.3, 0.8, 1.5],
  [400, 0.2, 0.5, 1.2, 2.5],
]

/** ± mm of a general class at a nominal; null where the standard has none (ISO 2768-1). */
export function generalTolerance(of: GeneralClass, nominal: number): number | null {
  const row = nominal >= 0.5 ? GENERAL.find(([to]) => nominal <= to) : undefined
  return row?.[1 + GENERAL_CLASSES.indexOf(of)] ?? null
}

/** The finest general class that holds all errors; null when none does. */
export function generalClassOf(sizes: readonly { nominal: number; error: number }[]): GeneralClass | null {
  if (!sizes.length) return null
  return (
    GENERAL_CLASSES.find((c) =>
      sizes.every(({ nominal, error }) => {
        const most = generalTolerance(c, nominal)
        return most !== null && Math.abs(error) <= most + 1e-9
      }),
    ) ?? null
  )
}
