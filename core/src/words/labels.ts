import type { OutcomeScale } from '../trials/outcome'
import type { Likeness } from '../recipe/relative'
import type { Source } from '../recipe/derive'
import { FEATURE_NAMES, type Feature } from '../toolpath/features'
import type { ComparedId } from '../toolpath/compareReadings'
import { cardOf, type FamilyId } from '../material/cards'
import { capital } from './names'

/** Where a value came from. */
export const SOURCE_NAMES: Record<Source | 'limit', string> = {
  card: 'material card',
  relative: 'tested relative',
  label: 'label',
  computed: 'computed',
  measured: 'measured',
  mend: 'from a case',
  file: 'from a path file',
  hand: 'set by hand',
  limit: 'machine limit',
}

/** What is held against each other in two prints; those of one feature get its name. */
const COMPARED_LABELS: Record<ComparedId, string> = {
  layers: 'Layers',
  height: 'Height',
  'layer-height': 'Layer height',
  'first-height': 'First-layer height',
  'first-speed': 'First-layer speed',
  'first-width': 'First-layer line',
  'first-flow': 'First-layer flow',
  contact: 'Contact on the bed',
  'first-nozzle': 'Nozzle, first layer',
  nozzle: 'Nozzle',
  'first-bed': 'Bed, first layer',
  bed: 'Bed',
  fan: 'Fan',
  'fan-from-layer': 'Fan from layer',
  'feature-speed': 'Speed',
  'feature-width': 'Line width',
  'travel-speed': 'Travel speed',
  retraction: 'Retraction',
  'retraction-length': 'Retraction length',
  'retraction-speed': 'Retraction speed',
  retractions: 'Retractions',
  'z-lift': 'Z-lift',
  'open-air': 'Open-air crossings without a pull-back',
  'most-passes': 'Most passes of the same filament',
  'early-stop': 'Early stop',
  wipe: 'Wipe',
  stacked: 'Loops starting above the one below',
  'melt-peak': 'Peak melt rate',
  skirt: 'Skirt',
  brim: 'Brim',
  'draught-wall': 'Draught wall',
  'raft-layers': 'Raft layers',
  support: 'Support',
  pressure: 'Pressure compensation',
}
export const comparedLabel = (id: ComparedId, feature?: Feature): string =>
  feature === undefined ? COMPARED_LABELS[id] : `${COMPARED_LABELS[id]}, ${FEATURE_NAMES[feature]}`
export const featureLabel = (feature: Feature): string => capital(FEATURE_NAMES[feature])

/** What stands on the upright axis of an outcome's chart. */
export const SCALE_LABELS: Record<OutcomeScale, { label: string; unit: string; max: number }> = {
  desirability: { label: 'Desirability', unit: '', max: 1 },
  weighed: { label: 'Weighed of what was asked', unit: '', max: 1.1 },
  error: { label: 'Error', unit: 'mm', max: 0 },
}

/** What a relative has in common with a pair. */
export const likenessWords = (likeness: Likeness, family: FamilyId): string =>
  likeness === 'family' ? cardOf(family).name : LIKENESS[likeness]
const LIKENESS: Record<Exclude<Likeness, 'family'>, string> = {
  finish: 'same finish',
  maker: 'same maker',
  machine: 'same machine',
  drive: 'same kind of drive',
  label: 'alike label',
}
