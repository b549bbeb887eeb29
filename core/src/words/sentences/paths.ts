import type { GcodeFaults, LineFaults } from '../../gcode/program'
import type { MotionAssumptions } from '../../motion/timeline'
import { bytes, figure, quantity } from '../../quantity/format'
import { LAYER_QUANTITIES, type HeightReasons, type QuantityId } from '../../toolpath/correlate'
import { plain, type Sentences } from './sentences'

export const gcodeFaultSentences: Sentences<GcodeFaults> = {
  empty: plain('This file is empty.'),
  binary: plain('This is a binary file. Verimend reads plain-text G-code.'),
  packed: plain('This is a packed file (zip or 3MF). Unpack it and drop the G-code inside.'),
  'too-large': ({ bytes: most }) => `This file is larger than ${bytes(most)}, the most Verimend reads.`,
  'too-many-moves': ({ moves }) =>
    `This file holds more than ${moves / 1e6} million moves; Verimend stops there.`,
  'not-gcode': plain('This file does not read as G-code: most of its lines are something else.'),
  'nothing-fed': plain('This file lays no plastic: the head moves, but nothing is fed on the way.'),
  'no-movement': plain('This file moves nothing: there is no G0, G1, G2 or G3 with a place to go.'),
}

export const lineFaultSentences: Sentences<LineFaults> = {
  'no-word': plain('Something here is neither a word nor a number.'),
  'axis-without-number': plain('An axis stands without a number.'),
  'off-machine': ({ coordinate }) => `A coordinate of ${coordinate} is off any machine.`,
  'much-filament': ({ length }) =>
    `${length} mm of filament in one move is a slip; the move is taken without it.`,
  'arc-plane': plain('An arc outside the XY plane is taken as a straight line.'),
  exponent: plain('A number is written with an exponent, which G-code does not have; the line is left out.'),
  'arc-radius-small': plain('An arc’s radius is too small for its ends; it is taken as a straight line.'),
  'arc-without-centre': plain('An arc has neither a centre nor a radius; it is taken as a straight line.'),
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
