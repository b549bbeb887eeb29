import { figure, quantity } from '../../quantity/format'
import { settingOf } from '../../recipe/settings'
import { CRITERIA } from '../../trials/criteria'
import { PIECES } from '../../trials/pieces'
import type { OutcomeReasons, PieceFaults, ReadingFaults, StepReasons } from '../../trials/reasons'
import { TOP_GRADE } from '../../trials/criteria'
import { JOINT_WORDS } from '../../trials/types'
import { variedOf } from '../../trials/varied'
import { lower, variedLabel, variedText } from '../names'
import { plain, type Sentences } from './sentences'

const driveName = (drive: 'tube' | 'direct') => (drive === 'direct' ? 'a direct drive' : 'this tube')
const signed = (v: number) => `${v >= 0 ? '+' : '−'}${figure(Math.abs(v), 2)}`

export const stepSentences: Sentences<StepReasons> = {
  'flow-each-side': plain('Eight hundredths of the flow on either side.'),
  'width-each-side': plain('A good tenth of a millimetre on either side.'),
  'paper-each-side': plain('As far up and down as a sheet of paper is thick, and never into the bed.'),
  'whole-range': ({ of, min, max }) => `The whole of the ${of}: ${min}–${max} °C.`,
  'solid-flow-each-side': plain('Six hundredths of the flow on either side.'),
  'pulls-back-nothing': plain(
    'Retraction is off in this recipe. The tower tells whether a short one keeps strings away; taking what it finds turns retraction on.',
  ),
  'little-to-above': ({ drive }) =>
    `From next to nothing to a little above what ${driveName(drive)} usually needs.`,
  'fan-quarter-to-full': plain('From a quarter to full: the card wants much.'),
  'fan-off-to-half': plain('From off to half: the card wants little.'),
  'fan-off-to-full': plain('From off to full.'),
  'under-to-over-cap': ({ cap }) => `From well under to well over the ${quantity(cap, 'mm³/s', 1)} in use.`,
  'none-to-most': ({ top, drive }) =>
    `From none to ${top}, what ${drive === 'direct' ? 'a direct drive' : 'a tube'} may need.`,
  'early-stop-and-wipe': plain(
    'None, the nozzle’s cube and twice that; with and without a wipe of one nozzle.',
  ),
  'half-to-twice': plain('From half of what is in use to nearly twice.'),
  'two-then-one': plain('Two columns, then one.'),
  'one-to-five-centimetres': plain('From one to five centimetres.'),
  'recipe-as-it-is': plain('The recipe as it is.'),
  'centimetre-to-third-of-bed': plain('From a centimetre to a third of the bed.'),
  'tenth-to-six-tenths': plain('From a tenth to six tenths of a millimetre.'),
  'close-round-best': ({ trial }) => `Close round the best of trial ${trial}.`,
}

export const pieceFaultSentences: Sentences<PieceFaults> = {
  'piece-needs-fan': plain('This machine has no part fan.'),
  'no-pressure-command': plain('This machine has no command for pressure compensation.'),
  'cannot-step': ({ piece, key }) => `${PIECES[piece].name} cannot step ${lower(variedLabel(key))}.`,
  'ends-not-numbers': ({ key }) => `${variedLabel(key)}: both ends are numbers.`,
  'step-count': ({ piece, least, most }) => `${PIECES[piece].name} has ${least} to ${most} steps.`,
  'ends-alike': ({ key }) => `${variedLabel(key)}: the two ends are the same, nothing would change.`,
  'end-out-of-bounds': ({ key, value, nearest }) => {
    const { label, unit } = variedOf(key)
    return `${label}: ${value} ${unit} is out of bounds; ${nearest} ${unit} is the nearest this machine can do.`
  },
  'into-the-bed': ({ key, value }) => `${variedLabel(key)}: ${value} mm would press the nozzle into the bed.`,
  'end-outside': ({ key, low, high }) => {
    const { label, unit } = variedOf(key)
    return `${label} is from ${low} to ${high} ${unit}.`
  },
  'too-wide': plain('This piece is too large for the bed: take fewer steps.'),
  'not-on-part': ({ piece }) => `${PIECES[piece].name} is a piece of its own: it cannot be made on a part.`,
  'bands-too-low': ({ count, least }) =>
    `${count} bands are too many for these heights: each needs ${quantity(least, 'mm', 1)} at least.`,
  'too-many-layers': plain('These are more layers than can be laid: take higher ones.'),
  'too-tall': plain('This piece is too tall for the machine: take fewer steps.'),
}

export const readingFaultSentences: Sentences<ReadingFaults> = {
  'measure-not-a-number': plain('A measurement is a number.'),
  'measure-not-positive': plain('A measurement is above 0.'),
  'measure-cannot-be': ({ cell, nominal, value, unit }) =>
    `${cell} should be about ${quantity(nominal, unit, 2)}: ${quantity(value, unit, 2)} cannot be that.`,
  'grade-not-whole': ({ criterion }) =>
    `${criterion === null ? 'A grade' : CRITERIA[criterion].name}: a grade is a whole number from 0 to ${TOP_GRADE}.`,
}

export const outcomeSentences: Sentences<OutcomeReasons> = {
  'few-graded': ({ piece, count, least }) => {
    const { place, places } = PIECES[piece]
    const graded =
      count === 0 ? 'Nothing is' : count === 1 ? `Only one ${place} is` : `Only ${count} ${places} are`
    return `${graded} graded: ${least} different ones are the least that a curve can be laid through.`
  },
  'graded-alike': ({ key, from, to }) =>
    `Between ${variedText(key, from)} and ${variedText(key, to)} it makes no difference that can be told from these grades.`,
  'keep-in-use': plain('Keep what is in use.'),
  'keep-value': ({ key, value, from, to }) =>
    from < to
      ? `Keep ${variedText(key, value)}: it is good from ${variedText(key, from)} to ${variedText(key, to)}.`
      : `Keep ${variedText(key, value)}.`,
  'something-else-wrong': plain('What is wrong here comes from something else.'),
  'levels-differ': ({ key, p }) =>
    `This trial and earlier ones differ in level by more than the scatter (p ${figure(p, 3)}): something besides ${lower(variedLabel(key))} has changed.`,
  'readings-disagree': ({ key }) =>
    `These readings disagree with each other: no curve over ${lower(variedLabel(key))} runs through them.`,
  'look-at-odd-ones': plain('Look again at those that stand off, or print it once more.'),
  'might-be-accident': ({ key, p }) =>
    `Grades as orderly as these over ${lower(variedLabel(key))} come by accident in ${figure(100 * p, 0)} of 100 trials: nothing is read out of them.`,
  'grade-once-more': plain('Grade once more with fresh eyes, or print it with fewer and wider steps.'),
  'best-at-end': ({ key, value }) => `Best is at the end of the range, ${variedText(key, value)}.`,
  'goes-no-further': plain(
    'The machine, the roll or the setting goes no further: take it, or look for another cause.',
  ),
  'own-fan': ({ criterion, key, value, walls }) =>
    `${CRITERIA[criterion].name} alone: ${lower(settingOf(key).label)} ${quantity(value, '%', 0)}${walls ? ', as walls have it' : ''}.`,
  'closer-next': ({ key, from, to }) =>
    `To know it more closely, print the next one from ${variedText(key, from)} to ${variedText(key, to)}.`,
  'print-next': ({ key, from, to }) =>
    `Print the next one from ${variedText(key, from)} to ${variedText(key, to)}.`,
  'best-at': ({ key, value, low, high }) =>
    `Best at ${variedText(key, value)}, 95 % between ${variedText(key, low)} and ${variedText(key, high)}.`,
  'nearly-as-good': ({ key, from, to }) =>
    `From ${variedText(key, from)} to ${variedText(key, to)} it is nearly as good.`,
  'criterion-decided': ({ criterion }) => `${CRITERIA[criterion].name} decided.`,

  'strings-from-elsewhere': plain(
    'Longer or shorter makes no difference beyond the scatter: strings come from something else.',
  ),
  'as-well': ({ value }) =>
    `A longer pull-back does no better than ${quantity(value, 'mm', 1)}, and works the filament more.`,
  'clean-from': ({ value, not }) =>
    `Clean from ${quantity(value, 'mm', 1)} on, but not at ${quantity(not, 'mm', 1)}. A longer retraction works the filament more.`,
  'all-clean': ({ value }) =>
    `Clean at every length: ${quantity(value, 'mm', 1)} is enough, and works the filament least.`,
  'shortest-cleanest': plain('The shortest is the cleanest: print the next one shorter.'),
  'still-better-at': ({ key, value }) =>
    `It still gets better at ${variedText(key, value)}: the end of the range. Print the next one further.`,
  'shortest-clean': ({ key, value, low, high }) =>
    `The shortest that stays clean is ${variedText(key, value)}, 95 % between ${variedText(key, low)} and ${variedText(key, high)}.`,
  'as-clean-up-to': ({ key, value }) => `Up to ${variedText(key, value)} it is as clean and no better.`,
  'a-little-more': ({ key, value }) =>
    `${variedText(key, value)} is proposed: a little more costs next to nothing, a little less leaves strings.`,
  'across-no-difference': ({ key }) => `${variedLabel(key)} makes no difference beyond the scatter.`,
  'across-better': ({ key, better, worse }) =>
    `${variedLabel(key)}: ${variedText(key, better)} does better than ${variedText(key, worse)}.`,

  'wall-flow': ({ measured, nominal, flow, plusMinus }) =>
    `The wall measures ${quantity(measured, 'mm', 3)} against ${quantity(nominal, 'mm', 3)}: flow ${quantity(flow, '%', 1)} ± ${figure(plusMinus, 1)}.`,
  'measure-all-sides': plain('Measure all four sides: one or two readings say little about the scatter.'),
  'in-use-within': ({ flow }) =>
    `The ${quantity(flow, '%', 1)} in use lies within that: nothing has to change.`,
  'solid-closes-best': ({ flow }) => `Solid layers close best at ${quantity(flow, '%', 1)} of it.`,
  'strips-show-no-best': plain('The strips of solid layers show no best: leave their flow as it is.'),
  'measure-wall-or-strips': plain('Measure the wall of the box, or grade three strips.'),

  'weigh-four': plain('Weigh four heaps at least.'),
  'melts-all': ({ rate }) =>
    `Up to ${quantity(rate, 'mm³/s', 1)} no more than a twentieth is lost: it melts all of that.`,
  'heap-left-out': ({ rate, share }) =>
    `The heap at ${quantity(rate, 'mm³/s', 1)} is left out: at ${figure(100 * share, 0)} % of what was asked it stands off from all the others.`,
  'melt-loss': ({ loss, cap, plusMinus }) =>
    `From ${quantity(loss, 'mm³/s', 1)} on a twentieth is lost; the cap is a tenth below: ${quantity(cap, 'mm³/s', 1)} ± ${figure(plusMinus, 1)}.`,

  'grade-columns': ({ count }) => `Grade at least ${count} columns, at different values of each.`,
  'columns-alike': plain('All columns are graded alike: neither makes a difference that can be seen.'),
  'factor-counts': ({ key, effect, best }) => {
    const { label, unit, digits } = variedOf(key)
    return `${label}: ${signed(effect)} from least to most; best at ${quantity(best, unit, digits)}.`
  },
  'factor-scatter': ({ key, effect }) => `${variedLabel(key)}: ${signed(effect)}, no more than the scatter.`,

  'grade-two': plain('Grade two at least.'),
  'no-joint-good': plain('No joint is good: print the next one with wider gaps.'),
  'no-bridge-good': plain('No bridge is good: print the next one with shorter gaps.'),
  'joints-disagree': plain(
    'These readings disagree: a wider gap is fused where a narrower one is free. Try those again.',
  ),
  'bridges-disagree': plain(
    'These readings disagree: a shorter bridge sags where a longer one holds. Try those again.',
  ),
  'smallest-gap': ({ gap, below }) =>
    `The smallest gap that moves is ${quantity(gap, 'mm', 2)}${below === null ? ', the narrowest there was' : `; ${quantity(below, 'mm', 2)} does not`}. Draw joints no tighter.`,
  'joint-shape': ({ shape, gap, below }) =>
    `${JOINT_WORDS[shape]}: moves from ${quantity(gap, 'mm', 2)} on${below === null ? '' : `, not at ${quantity(below, 'mm', 2)}`}.`,
  'joint-shape-none': ({ shape }) => `${JOINT_WORDS[shape]}: none moves.`,
  'joint-shape-disagrees': ({ shape }) =>
    `${JOINT_WORDS[shape]}: a wider gap is fused where a narrower one is free. Try those again.`,
  'joint-play': ({ snug, free }) =>
    `Draw what is to hold by itself with ${quantity(snug, 'mm', 2)}${free === null ? '; none moved freely, so what is to turn by itself needs more than was tried' : `, and what is to turn by itself with ${quantity(free, 'mm', 2)}`}.`,
  'lying-layers': ({ shape, gap, layers }) =>
    `${JOINT_WORDS[shape]}: leave ${quantity(gap, 'mm', 2)}, which is ${layers} ${layers === 1 ? 'layer' : 'layers'}. The contour offset does not open a gap between layers: draw it so.`,
  'upright-tells-offset': plain('Only an upright joint tells a contour offset: these lie on their side.'),
  'bridges-up-to': ({ span, beyond }) =>
    `It bridges ${quantity(span, 'mm', 0)}${beyond === null ? ', the widest there was' : `, but not ${quantity(beyond, 'mm', 0)}`}. Put supports under what is longer.`,

  'measure-three-bars': plain('Measure three bars of different length at least.'),
  'offset-for-gap': ({ drawn, gap, offset }) =>
    `For a gap drawn at ${quantity(drawn, 'mm', 2)} the contour has to move by ${signed(offset)} mm: then it is as free as ${quantity(gap, 'mm', 2)} was here. A stop-gap: a gap drawn at ${quantity(gap, 'mm', 2)} needs none.`,
  'gap-as-drawn': ({ gap }) => `Parts that print in place may be drawn with ${quantity(gap, 'mm', 2)}.`,
  'grade-posts': plain('Grade what hangs between the posts.'),
  'strings-are': ({ grade }) => `Strings: ${CRITERIA.strings.grades[grade]}.`,
  'clean-enough': plain('Clean enough.'),
  'towers-tell': plain('A temperature tower, then a retraction tower, tells which of the two it is.'),
  'grade-both-halves': plain('Grade both halves.'),
  'halves-alike': plain('Both halves are alike: time between layers is not what it lacks.'),
  'two-are-better': plain('Two at a time come out better: layers lack time.'),
  'not-good-even-so': plain('Even so it is not good yet: more air, or cooler plastic, comes first.'),
  'time-between': ({ short, long }) =>
    `${quantity(short, 's', 1)} a layer is too little, ${quantity(long, 's', 1)} is enough; what lies between was not tried.`,
}
