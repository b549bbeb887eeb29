import { UNKNOWN_FILAMENT, type Filament } from '@verimend/core/material'

/** A roll of which nothing is known yet: it waits for its name. */
export const NEW_ROLL: Filament = { ...UNKNOWN_FILAMENT, name: '', colour: '#7a8a80' }
