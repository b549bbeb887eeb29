import type { Filament } from '@verimend/core/material'

/** A roll of which nothing is known yet. */
export const NEW_ROLL: Filament = {
  name: '',
  maker: '',
  family: 'pla',
  finish: 'plain',
  colour: '#7a8a80',
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
