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
  'flow-each-side': plain('From 8 % less flow to 8 % more.'),
  'width-each-side': plain('From a good tenth of a millimetre less to as much more.'),
  'paper-each-side': plain('As far up and down as a sheet of paper is thick, but never into the bed.'),
  'whole-range': ({ of, min, max }) => `The whole of the ${of}: ${min}–${max} °C.`,
  'solid-flow-each-side': plain('From 6 % less flow to 6 % more.'),
  'pulls-back-nothing': plain(
    'Retraction is off in this recipe. The tower shows whether a short one prevents strings. Taking its result turns retraction on.',
  ),
  'little-to-above': ({ drive }) =>
    `From next to nothing to a little above what ${driveName(drive)} usually needs.`,
  'fan-quarter-to-full': plain('From a quarter to full, because this plastic usually needs a lot of fan.'),
  'fan-off-to-half': plain('From off to half, because this plastic usually needs little fan.'),
  'fan-off-to-full': plain('From off to full.'),
  'under-to-over-cap': ({ cap }) => `From well under to well over the ${quantity(cap, 'mm³/s', 1)} in use.`,
  'none-to-most': ({ top, drive }) =>
    `From none to ${top}, what ${drive === 'direct' ? 'a direct drive' : 'a tube'} may need.`,
  'early-stop-and-wipe': plain(
    'Zero, the nozzle diameter cubed, and twice that; each with and without a wipe of one nozzle width.',
  ),
  'half-to-twice': plain('From half of what is in use to nearly twice.'),
  'two-then-one': plain('Two columns, then one.'),
  'one-to-five-centimetres': plain('From one to five centimetres.'),
  'recipe-as-it-is': plain('The recipe as it is.'),
  'centimetre-to-third-of-bed': plain('From a centimetre to a third of the bed.'),
  'tenth-to-six-tenths': plain('From a tenth to six tenths of a millimetre.'),
  'close-round-best': ({ trial }) => `A narrow range around the best value of trial ${trial}.`,
}

export const pieceFaultSentences: Sentences<PieceFaults> = {
  'piece-needs-fan': plain('This machine has no part fan.'),
  'no-pressure-command': plain('This machine has no command for pressure compensation.'),
  'cannot-step': ({ piece, key }) => `${PIECES[piece].name} cannot step ${lower(variedLabel(key))}.`,
  'ends-not-numbers': ({ key }) => `${variedLabel(key)}: enter a number for both ends.`,
  'step-count': ({ piece, least, most }) => `${PIECES[piece].name} has ${least} to ${most} steps.`,
  'ends-alike': ({ key }) => `${variedLabel(key)}: the two ends are the same, so nothing would change.`,
  'end-out-of-bounds': ({ key, value, nearest }) => {
    const { label, unit } = variedOf(key)
    return `${label}: ${value} ${unit} is out of bounds; ${nearest} ${unit} is the nearest this machine can do.`
  },
  'into-the-bed': ({ key, value }) => `${variedLabel(key)}: ${value} mm would press the nozzle into the bed.`,
  'end-outside': ({ key, low, high }) => {
    const { label, unit } = variedOf(key)
    return `${label} is from ${low} to ${high} ${unit}.`
  },
  'too-wide': plain('This piece is too large for the bed. Use fewer steps.'),
  'not-on-part': ({ piece }) => `${PIECES[piece].name} is a piece of its own: it cannot be made on a part.`,
  'bands-too-low': ({ count, least }) =>
    `${count} bands are too many for these heights: each needs ${quantity(least, 'mm', 1)} at least.`,
  'too-many-layers': plain('This piece has too many layers. Use a larger layer height.'),
  'too-tall': plain('This piece is too tall for the machine. Use fewer steps.'),
}

export const readingFaultSentences: Sentences<ReadingFaults> = {
  'measure-not-a-number': plain('Enter a number.'),
  'measure-not-positive': plain('Enter a measurement above 0.'),
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
    return `${graded} graded. Grade at least ${least} different ones so that a curve can be fitted.`
  },
  'graded-alike': ({ key, from, to }) =>
    `Between ${variedText(key, from)} and ${variedText(key, to)} these grades show no difference.`,
  'keep-in-use': plain('Keep the current value.'),
  'keep-value': ({ key, value, from, to }) =>
    from < to
      ? `Keep ${variedText(key, value)}. Anything from ${variedText(key, from)} to ${variedText(key, to)} is good.`
      : `Keep ${variedText(key, value)}.`,
  'something-else-wrong': plain('The fault comes from something else.'),
  'levels-differ': ({ key, p }) =>
    `This trial and earlier ones differ by more than chance (p ${figure(p, 3)}), so something besides ${lower(variedLabel(key))} has changed.`,
  'readings-disagree': ({ key }) =>
    `These readings disagree with each other. No curve over ${lower(variedLabel(key))} fits them.`,
  'look-at-odd-ones': plain('Look again at the ones that stand out, or print the piece once more.'),
  'might-be-accident': ({ key, p }) =>
    `Grades like these come up by chance in ${figure(100 * p, 0)} of 100 trials, so no ${lower(variedLabel(key))} is taken from them.`,
  'grade-once-more': plain('Grade once more with fresh eyes, or print it with fewer and wider steps.'),
  'best-at-end': ({ key, value }) => `The best value is at the end of the range, ${variedText(key, value)}.`,
  'goes-no-further': plain(
    'The machine, the roll or the setting cannot go further. Take this value, or look for another cause.',
  ),
  'own-fan': ({ criterion, key, value, walls }) =>
    `For ${lower(CRITERIA[criterion].name)} alone, ${lower(settingOf(key).label)} of ${quantity(value, '%', 0)} is best${walls ? ', the same as for walls' : ''}.`,
  'closer-next': ({ key, from, to }) =>
    `To know it more closely, print the next one from ${variedText(key, from)} to ${variedText(key, to)}.`,
  'print-next': ({ key, from, to }) =>
    `Print the next one from ${variedText(key, from)} to ${variedText(key, to)}.`,
  'best-at': ({ key, value, low, high }) =>
    `The best value is ${variedText(key, value)}, with 95 % certainty between ${variedText(key, low)} and ${variedText(key, high)}.`,
  'nearly-as-good': ({ key, from, to }) =>
    `Anything from ${variedText(key, from)} to ${variedText(key, to)} is nearly as good.`,
  'criterion-decided': ({ criterion }) => `${CRITERIA[criterion].name} decided.`,

  'strings-from-elsewhere': plain(
    'The length makes no difference that shows, so the strings come from something else.',
  ),
  'as-well': ({ value }) =>
    `A longer retraction does no better than ${quantity(value, 'mm', 1)} and wears the filament more.`,
  'clean-from': ({ value, not }) =>
    `Clean from ${quantity(value, 'mm', 1)} up, but not at ${quantity(not, 'mm', 1)}. A longer retraction wears the filament more.`,
  'all-clean': ({ value }) =>
    `Every length is clean, so ${quantity(value, 'mm', 1)} is enough and wears the filament least.`,
  'shortest-cleanest': plain('The shortest length is the cleanest. Print the next one shorter.'),
  'still-better-at': ({ key, value }) =>
    `The print still gets better at ${variedText(key, value)}, the end of the range. Print the next one further.`,
  'shortest-clean': ({ key, value, low, high }) =>
    `The shortest length that stays clean is ${variedText(key, value)}, with 95 % certainty between ${variedText(key, low)} and ${variedText(key, high)}.`,
  'as-clean-up-to': ({ key, value }) =>
    `Longer ones up to ${variedText(key, value)} are just as clean, and no better.`,
  'a-little-more': ({ key, value }) =>
    `${variedText(key, value)} is suggested, because a little more costs next to nothing and a little less leaves strings.`,
  'across-no-difference': ({ key }) => `${variedLabel(key)} makes no difference that shows.`,
  'across-better': ({ key, better, worse }) =>
    `${variedLabel(key)}: ${variedText(key, better)} does better than ${variedText(key, worse)}.`,

  'wall-flow': ({ measured, nominal, flow, plusMinus }) =>
    `The wall measures ${quantity(measured, 'mm', 3)} instead of ${quantity(nominal, 'mm', 3)}, so the flow should be ${quantity(flow, '%', 1)} ± ${figure(plusMinus, 1)}.`,
  'measure-all-sides': plain(
    'Measure all four sides, because one or two readings show little about measuring error.',
  ),
  'in-use-within': ({ flow }) =>
    `The current ${quantity(flow, '%', 1)} is within that, so nothing has to change.`,
  'solid-closes-best': ({ flow }) =>
    `Solid layers close best at ${quantity(flow, '%', 1)} of the overall flow.`,
  'strips-show-no-best': plain(
    'The strips of solid layers show no clear best, so leave their flow as it is.',
  ),
  'measure-wall-or-strips': plain('Measure the wall of the box, or grade three strips.'),

  'weigh-four': plain('Weigh at least four heaps.'),
  'melts-all': ({ rate }) =>
    `Up to ${quantity(rate, 'mm³/s', 1)} no more than 5 % is lost, so the hot end can melt all of that.`,
  'heap-left-out': ({ rate, share }) =>
    `The heap at ${quantity(rate, 'mm³/s', 1)} is left out, because at ${figure(100 * share, 0)} % of the expected weight it does not fit the others.`,
  'melt-loss': ({ loss, cap, plusMinus }) =>
    `Above ${quantity(loss, 'mm³/s', 1)}, more than 5 % is lost. The cap is set 10 % below that: ${quantity(cap, 'mm³/s', 1)} ± ${figure(plusMinus, 1)}.`,

  'grade-columns': ({ count }) => `Grade at least ${count} columns, at different values of each.`,
  'columns-alike': plain(
    'The columns do not differ by more than anyone’s grades do by chance, so nothing is changed.',
  ),
  'factor-counts': ({ key, grades, best }) =>
    `${variedLabel(key)} makes a difference of ${figure(grades, 1)} grades. The best is ${variedText(key, best)}.`,
  'factor-scatter': ({ key }) => `${variedLabel(key)} makes no difference that stands out of the grading.`,

  'grade-two': plain('Grade at least two.'),
  'no-joint-good': plain('No joint moves. Print the next one with wider gaps.'),
  'no-bridge-good': plain('No bridge is good. Print the next one with shorter gaps.'),
  'joints-disagree': plain(
    'These readings disagree, because a wider gap is fused while a narrower one is free. Try those again.',
  ),
  'bridges-disagree': plain(
    'These readings disagree, because a shorter bridge sags while a longer one holds. Look at those again.',
  ),
  'smallest-gap': ({ gap, below }) =>
    `The smallest gap that moves is ${quantity(gap, 'mm', 2)}${below === null ? ', the narrowest there was' : `; ${quantity(below, 'mm', 2)} does not`}. Model joints no tighter.`,
  'joint-shape': ({ shape, gap, below }) =>
    `${JOINT_WORDS[shape]}: moves from ${quantity(gap, 'mm', 2)} on${below === null ? '' : `, not at ${quantity(below, 'mm', 2)}`}.`,
  'joint-shape-none': ({ shape }) => `${JOINT_WORDS[shape]}: none moves.`,
  'joint-shape-disagrees': ({ shape }) =>
    `${JOINT_WORDS[shape]}: a wider gap is fused where a narrower one is free. Try those again.`,
  'joint-play': ({ snug, free }) =>
    `Model joints that should stay where you put them with a gap of ${quantity(snug, 'mm', 2)}${free === null ? '. None moved freely, so joints that should turn freely need more than you tried' : `, and joints that should turn freely with ${quantity(free, 'mm', 2)}`}.`,
  'lying-layers': ({ shape, gap, layers }) =>
    `${JOINT_WORDS[shape]}: leave ${quantity(gap, 'mm', 2)}, which is ${layers} ${layers === 1 ? 'layer' : 'layers'}. The contour offset does not change a gap between layers, so model it that wide.`,
  'upright-tells-offset': plain(
    'Only an upright joint can show a contour offset, and these lie on their side.',
  ),
  'bridges-up-to': ({ span, beyond }) =>
    `Bridges hold up to ${quantity(span, 'mm', 0)}${beyond === null ? ', the widest there was' : `, but not ${quantity(beyond, 'mm', 0)}`}. Put supports under longer ones.`,

  'measure-three-bars': plain('Measure at least three bars of different length.'),
  'offset-for-gap': ({ drawn, gap, offset }) =>
    `For a gap modelled at ${quantity(drawn, 'mm', 2)}, set the contour offset to ${signed(offset)} mm. This is a workaround; a gap modelled at ${quantity(gap, 'mm', 2)} does not need it.`,
  'gap-as-drawn': ({ gap }) =>
    `Joints that print in place can be modelled with a gap of ${quantity(gap, 'mm', 2)}.`,
  'grade-posts': plain('Grade the strings between the posts.'),
  'strings-are': ({ grade }) => `Strings: ${CRITERIA.strings.grades[grade]}.`,
  'clean-enough': plain('The posts are clean enough.'),
  'towers-tell': plain('A temperature tower and then a retraction tower show which of the two it is.'),
  'grade-both-halves': plain('Grade both halves.'),
  'halves-alike': plain('Both halves look the same, so the layer time is not the problem.'),
  'two-are-better': plain('Two at a time come out better, so layers need more time.'),
  'not-good-even-so': plain('It is still not good enough. Try more fan or a lower temperature first.'),
  'time-between': ({ short, long }) =>
    `${quantity(short, 's', 1)} a layer is too little and ${quantity(long, 's', 1)} is enough. Nothing between was tried.`,
}
