import { cardOf, type MaterialCard } from '../materials/cards'
import type { Filament } from '../materials/filament'
import type { Machine } from '../materials/machine'
import type { SettingKey } from '../recipe/settings'
import type { CheckId, TrialId } from './checks'

/** Which side a pair falls on, and why. */
export interface Verdict {
  /** Index of the side; null where the middle is the best start. */
  side: 0 | 1 | null
  because: string
  /** What the setting gets, from what the card would say. */
  value: (card: number) => number
}

/** A question on which practice disagrees because both sides are right somewhere. Common practice, no source. */
export interface Dispute {
  question: string
  /** Settings it bears on. */
  settings: SettingKey[]
  sides: [string, string]
  /** What decides between them. */
  decides: string
  /** The trial or check that settles it for a pair. */
  by: CheckId | TrialId
  /** What this pair's conditions say; null where the question does not arise. */
  pick: (machine: Machine, filament: Filament, card: MaterialCard) => Verdict | null
}

const asCard = (card: number) => card
const soft = (c: MaterialCard) => c.id === 'tpu-95a' || c.id === 'tpu-85a'
const glossy = (f: Filament) => f.family === 'pla-silk' || f.finish === 'silk'

/** Most unevenness, mm, that the thickest sensible first layer still buries. */
const buried = (m: Machine) => 0.5 * 0.75 * m.nozzle.diameter

export const DISPUTES = {
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
          ? {
              side: 1,
              because: 'A direct drive under a strong fan bears full cooling; check the bond.',
              value: () => 100,
            }
          : {
              side: 0,
              because: 'Layers bond better with less; a fan tower tells how much more it bears.',
              value: asCard,
            },
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
          ? { side: 0, because: `${c.name} folds and squeezes in a tube: off.`, value: asCard }
          : {
              side: 1,
              because: `On a direct drive a little helps, and ${c.name} bears it.`,
              value: asCard,
            },
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
              because: `This bed reaches ${m.limits.bed} °C at most: 65 °C with a draught wall, for small parts.`,
              value: () => Math.min(65, m.limits.bed),
            }
          : {
              side: 1,
              because: 'This bed is hot enough for the sure way.',
              value: asCard,
            },
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
          ? {
              side: 0,
              because: 'The textured sheet grips by itself: 35 °C.',
              value: () => 35,
            }
          : m.bed.surface === 'glass'
            ? { side: 1, because: 'Bare glass wants warmth: 50 °C.', value: () => 50 }
            : { side: null, because: 'In the middle of both schools until a test.', value: asCard },
  },
  'first-height': {
    question: 'Height of the first layer',
    settings: ['firstHeight'],
    sides: ['about 90 % of a 0.2 mm layer, for squish', '0.3–0.4 mm, to bury an uneven bed'],
    decides: 'What unevenness is left after levelling, against the layer height.',
    by: 'probe-grid',
    pick: (m) =>
      m.bed.residual === null
        ? {
            side: null,
            because: 'The bed was never measured: in the middle.',
            value: asCard,
          }
        : m.bed.residual > 0.1
          ? { side: 1, because: `${m.bed.residual} mm of unevenness wants burying.`, value: asCard }
          : {
              side: 0,
              because: `Only ${m.bed.residual} mm of unevenness: no need for a thick one.`,
              value: asCard,
            },
  },
  raft: {
    question: 'Raft',
    settings: ['raft'],
    sides: ['never', 'for delicate or supported parts and for a warped bed'],
    decides: 'What is left of the bed’s unevenness, supports, and whether the underside must be clean.',
    by: 'probe-grid',
    pick: (m, _, c) =>
      !c.flexible && m.bed.residual !== null && m.bed.residual > buried(m)
        ? {
            side: 1,
            because: `${m.bed.residual} mm of unevenness is more than a first layer buries.`,
            value: asCard,
          }
        : {
            side: 0,
            because: c.flexible
              ? 'A raft welds onto soft plastic.'
              : 'A raft costs time, grams and a rough underside.',
            value: asCard,
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
        ? { side: 1, because: 'A stacked seam splits on parts that flex.', value: asCard }
        : { side: 0, because: 'A corner hides it, until ooze is cured.', value: asCard },
  },
  'gloss-fan': {
    question: 'Fan for a glossy face',
    settings: ['fan'],
    sides: ['less', 'more'],
    decides: 'The finish: silk and other gloss want less, plain plastic wants crisp edges.',
    by: 'fan-tower',
    pick: (_, f, c) =>
      glossy(f) && c.fan.rest > 40
        ? { side: 0, because: 'A silk finish goes dull under more.', value: () => 40 }
        : glossy(f)
          ? { side: 0, because: 'A silk finish goes dull under more.', value: asCard }
          : null,
  },
} satisfies Record<string, Dispute>

export type DisputeId = keyof typeof DISPUTES
export const DISPUTE_IDS = Object.keys(DISPUTES) as DisputeId[]
export const disputeOf = (id: DisputeId): Dispute => DISPUTES[id]

/** Where a pair stands in a dispute; null where it does not arise for it. */
export function decideDispute(id: DisputeId, machine: Machine, filament: Filament): Verdict | null {
  return disputeOf(id).pick(machine, filament, cardOf(filament.family))
}
