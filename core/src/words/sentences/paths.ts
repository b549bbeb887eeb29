import type { GcodeFaults, LineFaults } from '../../gcode/program'
import type { RewriteFaults } from '../../gcode/rewrite/faults'
import type { MotionAssumptions } from '../../motion/timeline'
import { bytes, figure, quantity } from '../../quantity/format'
import type { ChangeFaults } from '../../rewrite/change'
import { LAYER_QUANTITIES, type HeightReasons, type QuantityId } from '../../toolpath/correlate'
import { plain, type Sentences } from './sentences'

export const gcodeFaultSentences: Sentences<GcodeFaults> = {
  empty: plain('This file is empty.'),
  binary: plain('This is a binary file. Verimend reads plain-text G-code.'),
  packed: plain('This is a packed file (zip or 3MF). Unpack it and drop the G-code inside.'),
  'too-large': ({ bytes: most }) => `This file is larger than ${bytes(most)}, the most Verimend reads.`,
  'too-many-moves': ({ moves }) =>
    `This file holds more than ${moves / 1e6} million moves; Verimend stops there.`,
  'not-gcode': plain('This file does not look like G-code, because most of its lines are something else.'),
  'nothing-fed': plain('This file prints nothing. The head moves, but no filament is fed.'),
  'no-movement': plain('This file has no moves. There is no G0, G1, G2 or G3 with coordinates.'),
}

export const lineFaultSentences: Sentences<LineFaults> = {
  'no-word': plain('Something on this line is neither a word nor a number.'),
  'axis-without-number': plain('An axis has no number.'),
  'off-machine': ({ coordinate }) => `A coordinate of ${coordinate} is outside any machine.`,
  'much-filament': ({ length }) =>
    `One move asks for ${length} mm of filament, which must be an error. The move is kept and its filament ignored.`,
  'arc-plane': plain('An arc outside the XY plane is taken as a straight line.'),
  exponent: plain(
    'A number is written with an exponent, which G-code does not have. It was read as it is meant, but your machine may read it differently.',
  ),
  'exponent-unclear': plain(
    'An E right after a number could be an exponent or the filament to feed, so this line was left out.',
  ),
  'axis-twice': plain('The same axis has two numbers on one line, so this line was left out.'),
  'arc-radius-small': plain('An arc’s radius is too small for its ends; it is taken as a straight line.'),
  'arc-without-centre': plain('An arc has neither a centre nor a radius; it is taken as a straight line.'),
}

export const rewriteSentences: Sentences<RewriteFaults & ChangeFaults> = {
  'rewrite-line-unclear': ({ line }) =>
    `Line ${line} would have to change, but Verimend cannot tell for certain what it does. The file was left alone.`,
  'rewrite-unknown-move': ({ line, code }) =>
    `Line ${line} moves the head with ${code}, which Verimend does not follow. The file was left alone.`,
  'rewrite-arc': ({ line }) =>
    `The arc on line ${line} would have to become another arc. The file was left alone.`,
  'rewrite-outside': ({ line }) =>
    `With this change line ${line} would leave the machine. Choose a smaller value.`,
  'rewrite-other-file': plain('The file has changed since it was read. Drop it again.'),
  'change-not-told': plain('This file does not say what it was printed with here, so it cannot be changed.'),
  'change-bands-low': ({ count, layers, least }) =>
    `With ${count} bands one would have ${layers} ${layers === 1 ? 'layer' : 'layers'}, and it needs ${least}. Choose fewer steps, or more height.`,
  'change-does-nothing': plain('This change would do nothing in this file.'),
  'change-into-bed': ({ height }) =>
    `The nozzle would be ${figure(height, 2)} mm above the bed on the first layer, which is too close. Choose a smaller step.`,
  'change-only-more': ({ have }) =>
    `This file already has ${figure(have, 0)}. Verimend can add more to it, but cannot take any away.`,
  'change-no-room': plain('The bed has no room for this around the part. Choose a smaller value.'),
  'change-lies-there': plain(
    'The file already prints something where this would go. Choose a smaller value, or add less of it.',
  ),
  'change-one-by-one': plain(
    'This file does not print layer by layer, so the nozzle would hit a wall around the parts.',
  ),
  'change-no-command': plain('The machine has no command for this. Set the commands in the machine’s form.'),
  'change-on-machine': plain(
    'The machine does this by itself (G10 and G11), so set the value on the machine.',
  ),
  'change-beyond-machine': ({ limit, unit }) =>
    `This machine allows at most ${quantity(limit, unit, 0)}. Choose a smaller value.`,
  'change-laid-anew': plain(
    'No finished file can be given this value, because the lines themselves would lie elsewhere. Set it in the program that makes your files.',
  ),
  'change-not-clean': plain(
    'The changed file did not read back as it should, so Verimend does not hand it out. Please set the value in the program that made the file.',
  ),
}

export const motionSentences: Sentences<MotionAssumptions> = {
  'motion-limits': ({ speed, acceleration, zSpeed }) =>
    `At most ${speed} mm/s and ${acceleration} mm/s², ${zSpeed} mm/s in Z.`,
  'corner-deviation': ({ deviation }) => `Corners by junction deviation ${deviation} mm.`,
  'corner-change': ({ limit }) => `Corners by corner change of ${limit} mm/s at once.`,
  'feed-acceleration': ({ acceleration }) =>
    `The drive gear speeds up at ${acceleration} mm/s². Heating and homing are not counted.`,
}

/** A quantity as the subject of a sentence; `many` where its verb is in the plural. */
const SUBJECTS: Record<QuantityId, { what: string; many?: true }> = {
  outerAsked: { what: 'Outer walls', many: true },
  outerSpeed: { what: 'Outer walls, as reached,', many: true },
  seconds: { what: 'Layer time' },
  meltPeak: { what: 'Peak melt rate' },
  meltMean: { what: 'Mean melt rate' },
  fan: { what: 'The fan' },
  nozzle: { what: 'Nozzle heat' },
  bed: { what: 'Bed heat' },
  width: { what: 'Line width' },
  height: { what: 'Layer height' },
  retractions: { what: 'Retractions a layer', many: true },
  openAir: { what: 'Open-air travel without a pull-back' },
  stop: { what: 'Standing still' },
  supported: { what: 'What rests on the layer below' },
  overhang: { what: 'Outer wall over nothing' },
}
const VERBS = { drops: 'drop', rises: 'rise', steps: 'change' }

export const heightSentences: Sentences<HeightReasons> = {
  'changes-at-heights': ({ quantity: id, change, inside, outside, from, to, held }) => {
    const { what, many } = SUBJECTS[id]
    const { unit, digits } = LAYER_QUANTITIES[id]
    const verb = VERBS[change] + (many ? '' : 's')
    const how =
      change === 'steps'
        ? `at the edges of ${figure(from, 1)}–${quantity(to, 'mm', 1)}`
        : `from ${figure(outside, digits)} to ${quantity(inside, unit, digits)} between ${figure(from, 1)} and ${quantity(to, 'mm', 1)}`
    return `${what} ${verb} ${how}${held ? ': the layer time limit slows them' : ''}.`
  },
}
