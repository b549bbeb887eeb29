import { fillMissing } from '../quantity/fillMissing'
import type { Filament } from './filament'

/** Shape in which rolls are kept now. */
export const FILAMENT_SCHEMA = 1

/** What is taken for a roll whose record is older than a field: nothing is known, nothing is guessed. */
export const UNKNOWN_FILAMENT: Filament = {
  name: 'Roll',
  maker: '',
  family: 'pla',
  finish: 'plain',
  colour: '#888888',
  label: { nozzle: null, bed: null, speed: null, drying: null },
  diameter: 1.75,
  measured: [],
  shore: null,
  rollWeight: 1000,
  weightLeft: null,
  spoolWeight: null,
  price: null,
  openedOn: null,
  dryings: [],
  abrasive: false,
  notes: '',
}

/** A kept roll in today's shape. */
export const upgradeFilament = (stored: unknown): Filament => fillMissing(UNKNOWN_FILAMENT, stored)
