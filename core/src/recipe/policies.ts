import { thickestLayer, type Machine } from '../machine/machine'
import type { FamilyId, MaterialCard } from '../material/cards'
import { cardFor } from '../material/filling'
import type { Filament } from '../material/filament'
import { reasonsOf, type Reason } from '../quantity/reason'
import type { SettingKey } from './settings'

/** Why a pair falls on one side of a question, with the values its sentence needs. */
export interface PolicyReasons {
  'strong-fan-bears-full': object
  'bonds-better-with-less': object
  'folds-in-tube': { family: FamilyId }
  'little-helps': { family: FamilyId }
  'bed-reaches': { limit: number }
  'bed-hot-enough': object
  'sheet-grips': object
  'bare-glass-wants-warmth': object
  'between-the-schools': object
  'bed-unmeasured': object
  'wants-burying': { residual: number }
  'no-need-for-thick': { residual: number }
  'more-than-buried': { residual: number }
  'raft-welds': object
  'raft-costs': object
  'stacked-splits': object
  'corner-hides': object
  'silk-goes-dull': object
}
const reason = reasonsOf<PolicyReasons>()

/** Which side a pair falls on, and why. */
export interface Verdict {
  /** Index of the side; null where the middle is the best start. */
  side: 0 | 1 | null
  because: Reason
  /** What the setting gets, from what the card would say. */
  value: (card: number) => number
}

/** The trials and checks that settle a question; ids of the knowledge above. */
export type Decider = 'fan-tower' | 'retraction-tower' | 'first-layer-sheet' | 'probe-grid' | 'seam-columns'

/** A question on which practice disagrees because both sides are right somewhere. Common practice, no source. */
export interface Policy {
  question: string
  /** Settings it bears on. */
  settings: SettingKey[]
  sides: [string, string]
  /** What decides between them. */
  decides: string
  /** The trial or check that settles it for a pair. */
  by: Decider
  /** What this pair's conditions say; null where the question does not arise. */
  pick: (machine: Machine, filament: Filament, card: MaterialCard) => Verdict | null
}

const asCard = (card: number) => card
const soft = (c: MaterialCard) => c.id === 'tpu-95a' || c.id === 'tpu-85a'
const glossy = (f: Filament) => f.family === 'pla-silk' || f.finish === 'silk'

/** Most unevenness, mm, that the thickest sensible first layer still buries. */
const buried = (m: Machine) => 0.5 * thickestLayer(m)

export const POLICIES = {
  'soft-fan': {
    question: 'Fan for soft filament',
    settings: ['fan', 'fanOffLayers', 'fanOverhang'],
    sides: ['little, 30–50 %, more only on bridges', 'full, 100 % from the first layers'],
    decides:
      'How well layers bond at the heat and speed chosen. A strong fan with a direct drive and a hot nozzle bears 100 %.',
    by: 'fan-tower',
    pick: (m, _, c) =>
      !soft(c)
        ? null
        : m.drive.kind === 'direct' && m.fan.strength >= 1.5
          ? { side: 1, because: reason('strong-fan-bears-full'), value: () => 100 }
          : { side: 0, because: reason('bonds-better-with-less'), value: asCard },
  },
  'soft-retraction': {
    question: 'Retraction for soft filament',
    settings: ['retract', 'retractLength'],
    sides: ['off', 'on, but short: under 0.5 mm for the softest'],
    decides: 'Tube or direct drive, and how soft it is.',
    by: 'retraction-tower',
    pick: (m, _, c) =>
      !c.flexible
        ? null
        : m.drive.kind === 'tube'
          ? { side: 0, because: reason('folds-in-tube', { family: c.id }), value: asCard }
          : { side: 1, because: reason('little-helps', { family: c.id }), value: asCard },
  },
  'abs-bed': {
    question: 'Bed heat for ABS and ASA',
    settings: ['bedFirst', 'bed', 'draughtWall'],
    sides: ['60–65 °C with a draught wall', '100–110 °C first, about 90 after'],
    decides: 'What the bed reaches, its surface, the size of the part, and whether the air is warm.',
    by: 'first-layer-sheet',
    pick: (m, _, c) =>
      c.id !== 'abs' && c.id !== 'asa'
        ? null
        : m.limits.bed < 90
          ? {
              side: 0,
              because: reason('bed-reaches', { limit: m.limits.bed }),
              // as warm as the bed gets; one that ends low does not jump to what a hot one would be given
              value: (card) =>
                m.limits.bed > 65 ? Math.min(card, m.limits.bed) : Math.min(65, m.limits.bed),
            }
          : { side: 1, because: reason('bed-hot-enough'), value: asCard },
  },
  'soft-bed': {
    question: 'Bed heat for TPU',
    settings: ['bedFirst', 'bed'],
    sides: ['none to 35 °C', '50–70 °C'],
    decides: 'The grip of the surface: a textured sheet holds by itself.',
    by: 'first-layer-sheet',
    pick: (m, _, c) =>
      !soft(c)
        ? null
        : m.bed.surface === 'textured-sheet'
          ? { side: 0, because: reason('sheet-grips'), value: () => 35 }
          : m.bed.surface === 'glass'
            ? { side: 1, because: reason('bare-glass-wants-warmth'), value: () => 50 }
            : { side: null, because: reason('between-the-schools'), value: asCard },
  },
  'first-height': {
    question: 'Height of the first layer',
    settings: ['firstHeight'],
    sides: ['about 90 % of a 0.2 mm layer, for squish', '0.3–0.4 mm, to bury an uneven bed'],
    decides: 'What unevenness is left after levelling, against the layer height.',
    by: 'probe-grid',
    pick: ({ bed: { residual } }) =>
      residual === null
        ? { side: null, because: reason('bed-unmeasured'), value: asCard }
        : residual > 0.1
          ? { side: 1, because: reason('wants-burying', { residual }), value: asCard }
          : { side: 0, because: reason('no-need-for-thick', { residual }), value: asCard },
  },
  raft: {
    question: 'Raft',
    settings: ['raft'],
    sides: ['never', 'for delicate or supported parts and for a warped bed'],
    decides: 'What is left of the bed’s unevenness, supports, and whether the underside must be clean.',
    by: 'probe-grid',
    pick: (m, _, c) => {
      const { residual } = m.bed
      return !c.flexible && residual !== null && residual > buried(m)
        ? { side: 1, because: reason('more-than-buried', { residual }), value: asCard }
        : { side: 0, because: reason(c.flexible ? 'raft-welds' : 'raft-costs'), value: asCard }
    },
  },
  'seam-place': {
    question: 'Place of the seam',
    settings: ['seamPlace', 'wipe', 'earlyStop'],
    sides: ['stacked, tucked into a corner', 'scattered'],
    decides: 'Whether ooze is under control, whether the part flexes, and which side is seen.',
    by: 'seam-columns',
    pick: (_, __, c) =>
      c.flexible
        ? { side: 1, because: reason('stacked-splits'), value: asCard }
        : { side: 0, because: reason('corner-hides'), value: asCard },
  },
  'gloss-fan': {
    question: 'Fan for a glossy face',
    settings: ['fan'],
    sides: ['less', 'more'],
    decides: 'The finish: silk and other gloss want less, plain plastic wants crisp edges.',
    by: 'fan-tower',
    pick: (_, f) =>
      glossy(f) ? { side: 0, because: reason('silk-goes-dull'), value: (card) => Math.min(card, 40) } : null,
  },
} satisfies Record<string, Policy>

export type PolicyId = keyof typeof POLICIES
export const POLICY_IDS = Object.keys(POLICIES) as PolicyId[]
export const policyOf = (id: PolicyId): Policy => POLICIES[id]

/** Where a pair stands on a question; null where it does not arise for it. */
export function policyFor(id: PolicyId, machine: Machine, filament: Filament): Verdict | null {
  return policyOf(id).pick(machine, filament, cardFor(filament))
}
