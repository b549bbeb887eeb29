import { fillMissing } from '../quantity/fillMissing'
import { NO_READING, type CellReading, type Readings } from './types'

/** Shape in which trials are kept now. */
export const TRIAL_SCHEMA = 1

/** Kept readings of a trial in today's shape. */
export function upgradeReadings(stored: Readonly<Record<string, unknown>>): Readings {
  return Object.fromEntries(
    Object.entries(stored).map(([cell, r]): [string, CellReading] => [cell, fillMissing(NO_READING, r)]),
  )
}
