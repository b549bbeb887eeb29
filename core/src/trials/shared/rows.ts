import { grow, rectangleAround, type Rect } from '../../geometry/shapes'
import type { Builder } from '../../planner/builder'

/** A grid of places in rows round the middle of the bed, the first at the back on the left. */
export interface Rows {
  perRow: number
  foot: Rect
  /** Middle of a place. */
  at: (k: number) => readonly [x: number, y: number]
}

/**
 * Lays places out in rows.
 * @param most places in a row at most
 * @param deep distance of the rows, where it differs from the pitch along a row
 */
export function rowsOf(b: Builder, count: number, pitch: number, most: number, deep = pitch): Rows {
  const c = b.centre
  const perRow = Math.max(1, Math.min(count, most))
  const rows = Math.ceil(count / perRow)
  return {
    perRow,
    foot: rectangleAround(c.x, c.y, perRow * pitch, rows * deep),
    at: (k) => [
      c.x + ((k % perRow) - (perRow - 1) / 2) * pitch,
      c.y + ((rows - 1) / 2 - Math.floor(k / perRow)) * deep,
    ],
  }
}

/** How many places of a pitch stand side by side on two thirds of the bed. */
export const perBed = (b: Builder, pitch: number) =>
  Math.max(1, Math.floor((b.machine.bed.width * 0.66) / pitch))

/** A foot with room round it for the skirt. @throws PlanError when it does not fit */
export function fitsWithSkirt(b: Builder, foot: Rect, tall: number): void {
  b.fits(grow(foot, 6), tall)
}

/** Low pins in front of a column: as many as its number. Three layers tall. */
export function pins(b: Builder, r: Rect, count: number, apart = 1.6): void {
  if (b.layerIndex > 2) return
  for (let k = 0; k < count; k++)
    b.line([
      [r.x0 + 1 + k * apart, r.y0 - 2.2],
      [r.x0 + 1 + k * apart, r.y0 - 4],
    ])
}

/** Short upright ticks from a place on, that tell it from the others: as many as its number. */
export function ticks(b: Builder, x: number, y: number, count: number, apart: number, length: number): void {
  for (let k = 0; k < count; k++)
    b.line([
      [x + k * apart, y],
      [x + k * apart, y + length],
    ])
}
