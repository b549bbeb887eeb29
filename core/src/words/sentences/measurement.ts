import { figure, quantity } from '../../quantity/format'
import type { MeasurementReasons } from '../../measurement/reasons'
import { listed } from '../names'
import { plain, type Sentences } from './sentences'

/** A figure with its sign; none where it rounds to nought. */
const signed = (v: number, digits: number) => {
  const shown = figure(Math.abs(v), digits)
  return Number(shown) === 0 ? shown : `${v > 0 ? '+' : '−'}${shown}`
}
/** What the terms of a size are called. */
export const SIZE_TERM_WORDS: Record<string, string> = {
  contour: 'the contour',
  hole: 'the holes',
  scaleX: 'the scale along X',
  scaleY: 'the scale along Y',
  scaleZ: 'the scale along Z',
  height: 'the height',
  flare: 'the flare at the base',
  corner: 'the rounding of the corners',
  skew: 'the angle between X and Y',
  speed: 'the speed of the faces',
}
const term = (id: string) => SIZE_TERM_WORDS[id] ?? id
const inTerm = (id: string, value: number, plusMinus: number): string => {
  if (id.startsWith('scale')) return `${signed(value * 100, 2)} ± ${quantity(plusMinus * 100, '%', 2)}`
  if (id === 'skew')
    return `${signed((value * 180) / Math.PI, 2)} ± ${quantity((plusMinus * 180) / Math.PI, '°', 2)}`
  const each = id === 'speed' ? ' for each 10 mm/s' : ''
  return `${signed(value, 3)} ± ${quantity(plusMinus, 'mm', 3)}${each}`
}
/** What a cause of bands is called. */
export const CAUSE_WORDS: Record<string, string> = {
  'screw-lead': 'one turn of the Z screw',
  'step-beat': 'the layer height against the screw’s full steps',
  'drive-gear': 'one turn of the drive gear',
  'nozzle-heater': 'the swing of the nozzle’s heater',
  'bed-heater': 'the swing of the bed’s heater',
  'belt-tooth': 'one tooth of the belt',
  'pulley-turn': 'one turn of the pulley',
}
const inEighths = (turns: number) => {
  const whole = Math.floor(turns + 1 / 32)
  const sixteenths = Math.round((turns - whole) * 16)
  if (sixteenths === 16) return String(whole + 1)
  const [over, under] =
    sixteenths % 8 === 0
      ? [sixteenths / 8, 2]
      : sixteenths % 4 === 0
        ? [sixteenths / 4, 4]
        : sixteenths % 2 === 0
          ? [sixteenths / 2, 8]
          : [sixteenths, 16]
  const part = sixteenths ? `${over}/${under}` : ''
  return [whole || '', part].filter(Boolean).join(' ') || '0'
}

export const measurementSentences: Sentences<MeasurementReasons> = {
  'term-stands': (v) =>
    `${term(v.term).replace(/^the (.)/, (_, c: string) => `The ${c}`)}: ${inTerm(v.term, v.value, v.plusMinus)}.`,
  'not-apart': ({ terms }) =>
    `These sizes cannot tell apart ${listed(terms.map(term))}: another length would.`,
  'axes-alike': (v) =>
    `X and Y are off alike, by ${signed(v.value, 2)} ± ${quantity(v.plusMinus, '%', 2)} of the length.`,
  'axes-differ': (v) =>
    `X is off by ${signed(v.x, 2)} % and Y by ${signed(v.y, 2)} % of the length: the plastic would do the same to both.`,
  'like-shrink': (v) =>
    `That is what the plastic does as it cools: its card says ${quantity(v.card, '%', 1)}, measured ${quantity(v.value, '%', 2)}.`,
  'machine-scale': (v) =>
    `The machine’s ${v.axis.toUpperCase()} goes ${signed(v.value, 2)} % too ${v.value > 0 ? 'far' : 'short'}: correct its steps, not the recipe.`,
  'part-of-flow': (v) =>
    `A wall is ${signed(v.wall, 3)} mm off: so much of the ${signed(v.contour, 3)} mm is the flow’s. Correct the flow first.`,
  'speeds-unequal': (v) =>
    `Walls and fill run at speeds ${figure(v.ratio, 1)} times apart, which spreads sizes: equal speeds first make the rest surer.`,
  'speed-spreads': (v) =>
    `Sizes printed at ${quantity(v.fast, 'mm/s', 0)} are ${quantity(Math.abs(v.spread), 'mm', 2)} ${v.spread < 0 ? 'smaller' : 'larger'} outside than those at ${quantity(v.slow, 'mm/s', 0)}: the rest is told for the mean of the two. One speed for all faces, or pressure compensation, mends this; no offset does.`,
  'wall-would-tell': plain('Measure a wall of one line as well: it tells how much of this is the flow’s.'),
  'zero-would-tell': plain(
    'Close the jaws and type what it shows: then it can be told whether holes need a correction of their own.',
  ),
  'not-round': (v) =>
    `The ${quantity(v.nominal, 'mm', 1)} round differs by ${quantity(v.spread, 'mm', 2)} with the direction: belts or play, not a recipe’s value.`,
  'as-scale-or-contour': (v) =>
    `Taken as a scale it is ${quantity(v.scale, '%', 2)}; taken as an edge it is a contour offset of ${quantity(v.contour, 'mm', 3)}. Only one of the two.`,
  'soft-takes-scale': plain('A soft plastic shrinks: the scale is the usual answer (common practice).'),
  'leaves-after': (v) =>
    `After the correction single sizes still scatter by ± ${quantity(v.plusMinus, 'mm', 2)}.`,
  'nothing-significant': plain('Nothing stands out of the scatter: nothing is corrected.'),

  'too-few-sizes': plain('Nothing is measured yet.'),
  'no-number': plain('That is no number.'),
  'below-zero': plain('A size is above 0.'),
  'maybe-inches': (v) => `That looks like inches: ${quantity(v.as, 'mm', 2)}?`,
  'maybe-swapped': (v) => `That is nearer to ${v.other}: are the two swapped?`,
  'far-off': (v) =>
    `${quantity(v.value, 'mm', 2)} is far from ${quantity(v.nominal, 'mm', 2)}: is a digit missing?`,
  'repeats-apart': (v) => `The repeats lie ${quantity(v.spread, 'mm', 2)} apart: measure once more.`,

  'grid-empty': plain('There are no numbers in it.'),
  'grid-row-short': (v) => `Row ${v.row} has ${v.count} numbers, the others ${v.wanted}.`,
  'grid-not-number': (v) => `Row ${v.row}: “${v.text}” is no number.`,
  'grid-commas': (v) =>
    `Row ${v.row}: commas stand within numbers and between them. Write points in the numbers, or semicolons between them.`,
  'grid-too-large': plain('A grid has at most 2500 places.'),
  'grid-no-shape': plain('A grid has two rows and two columns at least.'),
  'grid-far': (v) => `${figure(v.value, 2)} mm is no height of a bed.`,
  'bed-too-few': (v) => `${v.count} places are measured; a plane needs three.`,
  'bed-in-line': plain('The places lie in a line: one beside it is needed.'),
  'bed-tilt': (v) =>
    `The bed rises by ${quantity(v.across, 'mm', 2)} ± ${quantity(v.plusMinus, 'mm', 2)} from its lowest to its highest corner.`,
  'bed-flat': (v) => `The bed stands level to ± ${quantity(v.plusMinus, 'mm', 2)}.`,
  'bed-bow': (v) =>
    `What no levelling takes away: ${quantity(v.bow, 'mm', 2)} from hollow to hill (one reading scatters by ${quantity(v.u, 'mm', 3)}).`,
  'bed-odd': (v) =>
    `The reading at ${figure(v.x, 0)}, ${figure(v.y, 0)} lies ${quantity(Math.abs(v.off), 'mm', 2)} ${v.off > 0 ? 'over' : 'under'} what all others say: it is left out. Probe there again.`,
  'bow-not-cured': (v) => `No amount of levelling will cure this: ${quantity(v.bow, 'mm', 2)} bow.`,
  'screw-turn': (v) =>
    `${v.screw.charAt(0).toUpperCase()}${v.screw.slice(1)}: ${inEighths(v.turns)} turn ${v.clockwise ? 'clockwise' : 'anticlockwise'} (${figure(v.turns, 2)}), the bed goes ${v.up ? 'up' : 'down'} ${quantity(v.move, 'mm', 2)}.`,
  'screw-stays': (v) => `${v.screw.charAt(0).toUpperCase()}${v.screw.slice(1)}: stays.`,
  'first-height-buries': (v) =>
    `A first layer of ${quantity(v.height, 'mm', 2)} buries the ${quantity(v.residual, 'mm', 2)} that is left.`,
  'nothing-buries': (v) =>
    `${quantity(v.residual, 'mm', 2)} is more than a first layer of ${quantity(v.most, 'mm', 2)} can bury: a kept map of the bed, a raft, or another plate.`,
  'gap-mean': (v) =>
    `The gap is ${quantity(v.gap, 'mm', 2)} in the middle: move the nozzle by ${signed(v.change, 2)} mm.`,
  'screw-drifts': (v) =>
    `The ${v.screw} screw goes ${v.perWeek < 0 ? 'down' : 'up'} ${quantity(Math.abs(v.perWeek), 'mm', 2)} a week against the others: a drop of thread lock, or a stiffer spring.`,

  'feed-factor': (v) =>
    `Multiply the drive’s steps by ${figure(v.factor, 4)} ± ${figure(v.plusMinus, 4)}${v.steps === null ? '' : `: ${figure(v.steps, 2)} steps/mm`}. That is the machine’s, for every roll.`,
  'feed-right': (v) => `The feed is right to ± ${quantity(v.plusMinus, '%', 1)}.`,
  'read-once-more': plain('One reading corrects nothing: read it once more.'),
  'repeats-enough': (v) => `${v.count} repeats are enough for half a percent.`,
  'repeats-more': (v) => `${v.wanted} repeats would make it sure to half a percent; ${v.count} so far.`,
  'purge-share': (v) =>
    `${quantity(v.share, '%', 1)} ± ${quantity(v.plusMinus, '%', 1)} of what the length should weigh came out.`,
  'density-is': (v) =>
    `If the feed is right, the density is ${quantity(v.density, 'g/cm³', 3)} ± ${figure(v.plusMinus, 3)}.`,
  'water-lost': (v) =>
    `It lost ${quantity(v.share, '%', 2)} ± ${quantity(v.plusMinus, '%', 2)} of its weight.`,
  'dry-enough': plain('Less than a fifth of a percent: it is dry enough.'),
  'was-wet': plain('It was wet. Dry it on until two weighings an hour apart agree.'),
  'gained-weight': plain('It weighs more than before: it took up water, or the two weighings are swapped.'),
  'metres-left': (v) => `${quantity(v.metres, 'm', 0)} are left, ${quantity(v.grams, 'g', 0)}.`,
  'diameter-is': (v) =>
    `${quantity(v.mean, 'mm', 3)} ± ${quantity(v.plusMinus, 'mm', 3)} from ${v.count} ${v.count === 1 ? 'place' : 'places'}; the roll says ${quantity(v.nominal, 'mm', 2)}.`,
  'diameter-area': (v) =>
    `That feeds ${quantity(v.share, '%', 1)} of what the roll’s word would. Take the diameter into the recipe, or set the flow to ${quantity(v.flow, '%', 1)} of what it is: not both.`,
  'diameter-right': plain('It is what the roll says: nothing to make up for.'),
  'diameter-uneven': (v) =>
    `It varies by ${quantity(v.spread, 'mm', 2)} along the roll: bands at no even spacing come of that, and no setting cures them.`,
  'diameter-oval': (v) =>
    `It is oval by ${quantity(v.ovality, 'mm', 2)}: the drive grips it now more, now less.`,
  'bore-is': (v) =>
    `The bore is about ${quantity(v.bore, 'mm', 2)} ± ${quantity(v.plusMinus, 'mm', 2)}; noted is ${quantity(v.nominal, 'mm', 2)}.`,
  'bore-worn': plain('It is wider than noted: worn, or another nozzle is in.'),
  'bore-narrow': plain('It is narrower than noted: partly blocked, or another nozzle is in.'),
  'bore-fits': plain('It is the nozzle that is noted.'),
  'heater-swing': (v) =>
    `${quantity(v.mean, '°C', 1)} on average, swinging by ${quantity(v.swing, '°C', 1)}${v.period === null ? '' : ` every ${quantity(v.period, 's', 0)}`}: let the controller tune itself.`,
  'heater-steady': (v) => `${quantity(v.mean, '°C', 1)}, steady to ${quantity(v.swing, '°C', 1)}.`,
  'too-few-readings': (v) => `There are ${v.count} readings; it takes ${v.wanted}.`,

  'spacing-is': (v) => `They stand ${quantity(v.spacing, 'mm', 2)} ± ${figure(v.plusMinus, 2)} apart.`,
  'no-spacing': plain('No spacing stands out: heights strewn at random would do as well.'),
  'cause-fits': (v) =>
    `${(CAUSE_WORDS[v.cause] ?? v.cause).replace(/^./, (c) => c.toUpperCase())} fits: ${quantity(v.period, 'mm', 2)}, ${signed(v.off, 1)} %.`,
  'layer-times-step': (v) =>
    `Layers at these bands take ${quantity(v.inside, 's', 1)}, the others ${quantity(v.outside, 's', 1)}: the time between layers steps there (by chance in ${figure(v.p * 100, 0)} of 100).`,
  'none-fits': plain('None of what this machine repeats fits that spacing.'),
  'frequency-constant': (v) =>
    `They keep ${quantity(v.frequency, 'Hz', 0)} ± ${figure(v.plusMinus, 0)} at every speed: the frame or the head swings.`,
  'spacing-constant': (v) =>
    v.pitch === null
      ? `They keep ${quantity(v.spacing, 'mm', 2)} at every speed: something of the drive, not a swinging frame.`
      : `They keep ${quantity(v.spacing, 'mm', 2)} at every speed, as the belt’s teeth stand: its tension and its idlers.`,
  'cannot-tell-ripples': plain('These readings tell neither: measure at a speed twice as high.'),
  'acceleration-allows': (v) =>
    `About ${quantity(v.acceleration, 'mm/s²', 0)} at the outer wall leaves crests of ${quantity(v.allowed, 'mm', 2)}.`,
}
