import { reasonsOf } from '../quantity/reason'
import type { CriterionId } from './criteria'
import type { NumberKey } from '../recipe/settings'
import type { JointShape, PieceId, VariedKey } from './types'

/** Why these steps are proposed, with the values its sentence needs. */
export interface StepReasons {
  'flow-each-side': object
  'width-each-side': object
  'paper-each-side': object
  'whole-range': { of: 'label' | 'card'; min: number; max: number }
  'solid-flow-each-side': object
  /** Nothing is pulled back in the recipe. */
  'pulls-back-nothing': object
  'little-to-above': { drive: 'tube' | 'direct' }
  'fan-quarter-to-full': object
  'fan-off-to-half': object
  'fan-off-to-full': object
  'under-to-over-cap': { cap: number }
  'none-to-most': { top: number; drive: 'tube' | 'direct' }
  'early-stop-and-wipe': object
  'half-to-twice': object
  'two-then-one': object
  'one-to-five-centimetres': object
  'recipe-as-it-is': object
  'centimetre-to-third-of-bed': object
  'tenth-to-six-tenths': object
  'close-round-best': { trial: number }
}

/** Why a piece cannot be printed as planned. */
export interface PieceFaults {
  'piece-needs-fan': object
  'no-pressure-command': object
  'cannot-step': { piece: PieceId; key: VariedKey }
  'ends-not-numbers': { key: VariedKey }
  'step-count': { piece: PieceId; least: number; most: number }
  'ends-alike': { key: VariedKey }
  'end-out-of-bounds': { key: VariedKey; value: number; nearest: number }
  'into-the-bed': { key: VariedKey; value: number }
  'end-outside': { key: VariedKey; low: number; high: number }
  'too-wide': object
  'too-tall': object
  'too-many-layers': object
  'not-on-part': { piece: PieceId }
  'bands-too-low': { count: number; least: number }
}

/** What cannot be right about a reading. */
export interface ReadingFaults {
  'measure-not-a-number': object
  'measure-not-positive': object
  'measure-cannot-be': { cell: string; nominal: number; value: number; unit: 'mm' | 'g' }
  'grade-not-whole': { criterion: CriterionId | null }
}

/** What came of a trial. */
export interface OutcomeReasons {
  'few-graded': { piece: PieceId; count: number; least: number }
  'graded-alike': { key: VariedKey; from: number; to: number }
  'keep-in-use': object
  'keep-value': { key: VariedKey; value: number; from: number; to: number }
  'something-else-wrong': object
  'levels-differ': { key: VariedKey; p: number }
  'readings-disagree': { key: VariedKey }
  'look-at-odd-ones': object
  /** Chance, 0 to 1. */
  'might-be-accident': { key: VariedKey; p: number }
  'grade-once-more': object
  'best-at-end': { key: VariedKey; value: number }
  'goes-no-further': object
  'own-fan': { criterion: CriterionId; key: NumberKey; value: number; walls: boolean }
  'closer-next': { key: VariedKey; from: number; to: number }
  'print-next': { key: VariedKey; from: number; to: number }
  'best-at': { key: VariedKey; value: number; low: number; high: number }
  'nearly-as-good': { key: VariedKey; from: number; to: number }
  'criterion-decided': { criterion: CriterionId }

  'strings-from-elsewhere': object
  'shortest-cleanest': object
  'all-clean': { value: number }
  'clean-from': { value: number; not: number }
  'as-well': { value: number }
  'still-better-at': { key: VariedKey; value: number }
  'shortest-clean': { key: VariedKey; value: number; low: number; high: number }
  'as-clean-up-to': { key: VariedKey; value: number }
  'a-little-more': { key: VariedKey; value: number }
  'across-no-difference': { key: VariedKey }
  'across-better': { key: VariedKey; better: number; worse: number }

  'wall-flow': { measured: number; nominal: number; flow: number; plusMinus: number }
  'measure-all-sides': object
  'in-use-within': { flow: number }
  'solid-closes-best': { flow: number }
  'strips-show-no-best': object
  'measure-wall-or-strips': object

  'weigh-four': object
  'melts-all': { rate: number }
  'heap-left-out': { rate: number; share: number }
  'melt-loss': { loss: number; cap: number; plusMinus: number }

  'grade-columns': { count: number }
  'columns-alike': object
  'factor-counts': { key: VariedKey; grades: number; best: number }
  'factor-scatter': { key: VariedKey }

  'grade-two': object
  'no-joint-good': object
  'no-bridge-good': object
  'joints-disagree': object
  'bridges-disagree': object
  'smallest-gap': { gap: number; below: number | null }
  'offset-for-gap': { drawn: number; gap: number; offset: number }
  'gap-as-drawn': { gap: number }
  /** What one kind of joint says, where several were printed. */
  'joint-shape': { shape: JointShape; gap: number; below: number | null }
  'joint-shape-none': { shape: JointShape }
  'joint-shape-disagrees': { shape: JointShape }
  /** Gaps to draw from now on: one that holds by itself, one that turns by itself. */
  'joint-play': { snug: number; free: number | null }
  'lying-layers': { shape: JointShape; gap: number; layers: number }
  'upright-tells-offset': object
  'bridges-up-to': { span: number; beyond: number | null }

  'measure-three-bars': object

  'grade-posts': object
  'strings-are': { grade: number }
  'clean-enough': object
  'towers-tell': object
  'grade-both-halves': object
  'halves-alike': object
  'two-are-better': object
  'not-good-even-so': object
  'time-between': { short: number; long: number }
}

export const stepReason = reasonsOf<StepReasons>()
export const pieceFault = reasonsOf<PieceFaults>()
export const readingFault = reasonsOf<ReadingFaults>()
export const outcomeReason = reasonsOf<OutcomeReasons>()
