import { isSettingKey, type SettingKey } from '../recipe/settings'
import { isSuspectId, type SuspectId } from './suspects'

/** Where an entry of the handbook comes from. */
export interface Provenance {
  tag: 'published' | 'common practice' | 'from memory'
  words: string
}
export type ChapterId = 'signs' | 'suspects' | 'procedures' | 'settings' | 'materials' | 'policies'

const published = (words: string): Provenance => ({ tag: 'published', words })

const USUAL: Record<ChapterId, Provenance> = {
  signs: {
    tag: 'from memory',
    words: 'How it looks: common practice. How strongly each suspect brings it: from memory.',
  },
  suspects: {
    tag: 'from memory',
    words: 'How common it is and what it brings: from memory. The mend and its step: common practice.',
  },
  procedures: { tag: 'common practice', words: 'As done at the bench; no published source.' },
  settings: { tag: 'common practice', words: 'Bounds and usual steps have no published source.' },
  materials: { tag: 'from memory', words: 'Handbook-type values from memory: the label on the roll wins.' },
  policies: { tag: 'common practice', words: 'Both sides are practised; what decides is given.' },
}

const BEAD = published('Plain geometry: a bead is a rectangle with half-round ends, A = (w − h)·h + π·h²/4.')
const SUSPECTS: Partial<Record<SuspectId, Provenance>> = {
  'melt-rate-exceeded': BEAD,
  'layer-height-off-step': published('Plain arithmetic: screw lead over the motor’s full steps a turn.'),
  'screw-wobble': published('Plain arithmetic: the spacing equals the screw’s lead.'),
  'belt-tooth-imprint': published('Plain arithmetic: the spacing equals the belt’s pitch.'),
  'axis-scale-off': published('Linear regression of error on length: the slope is the scale.'),
  'axes-not-square': published('Plain geometry: the diagonals of a square are equal.'),
  'diameter-off': published('Plain geometry: what is fed goes with the square of the diameter.'),
  'layer-time-too-short': published(
    'Lumped capacitance cooling, valid below Bi 0.1: any heat-transfer text.',
  ),
  'shrink-stress': published('Free strain = expansion × temperature drop; the expansions are from memory.'),
}
const SETTINGS: Partial<Record<SettingKey, Provenance>> = {
  meltCap: BEAD,
  outerSpeed: BEAD,
  minLayerTime: published('Lumped capacitance cooling, valid below Bi 0.1: any heat-transfer text.'),
  layerHeight: published('Plain arithmetic: screw lead over the motor’s full steps a turn.'),
}

/** The source of a handbook entry, to be shown beside it. */
export function sourceOf(chapter: ChapterId, id: string): Provenance {
  if (chapter === 'suspects' && isSuspectId(id)) return SUSPECTS[id] ?? USUAL.suspects
  if (chapter === 'settings' && isSettingKey(id)) return SETTINGS[id] ?? USUAL.settings
  return USUAL[chapter]
}
