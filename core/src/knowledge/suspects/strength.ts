import { LEAST, below, group, hand, set, step, when } from './entry'

/** Why a part breaks where it is loaded. */
export const STRENGTH_GROUP = group('strength', {
  'loaded-across-layers': {
    name: 'Load pulls across the layers',
    what: 'The part was printed so that its load pulls the layers apart.',
    prior: 'O',
    signs: { 'splits-across-load': 'S', 'weak-layers': 'W' },
    context: [when('fewWalls', 1, 'The part has only one or two walls.')],
    tell: 'The break is flat and smooth between two layers, where the lever is longest.',
    by: ['look-at-break'],
    mends: [
      hand('turn-part', 10, 'Lay the part so that the load runs along the layers.', {
        foundBy: ['look-at-break'],
      }),
      set('wallCount', 4, 'Four walls carry more than infill does.', LEAST),
      step('nozzle', 5, 'Hotter plastic welds better to the layer below.', { notAbove: 'labelTop' }),
    ],
    watch: ['sagging-overhangs'],
  },
  'walls-too-few': {
    name: 'Too few walls',
    what: 'One or two walls have to carry the whole load.',
    prior: 'O',
    signs: { 'splits-across-load': 'M', 'weak-layers': 'W' },
    context: [
      when('fewWalls', 2, 'The part has only one or two walls.'),
      { fact: 'fewWalls', is: false, decibans: -6, words: 'The part has three walls or more.' },
      below('sparseDensity', 12, 2, 'The infill is only {value}.'),
    ],
    tell: 'The wall is torn through, and the infill behind it is open.',
    by: ['look-at-break'],
    mends: [
      set('wallCount', 4, 'Four walls carry more than denser infill does.', LEAST),
      step('sparseDensity', 10, 'Denser infill supports the walls from inside.'),
    ],
  },
})
