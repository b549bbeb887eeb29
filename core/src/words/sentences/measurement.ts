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
    `These sizes cannot separate ${listed(terms.map(term))}. Measure another length to tell them apart.`,
  'axes-alike': (v) =>
    `X and Y are both off by ${signed(v.value, 2)} ± ${quantity(v.plusMinus, '%', 2)} of the length.`,
  'axes-differ': (v) =>
    `X is off by ${signed(v.x, 2)} % and Y by ${signed(v.y, 2)} % of the length. Plastic alone would shrink both equally.`,
  'like-shrink': (v) =>
    `The plastic shrinks this much as it cools. Its card says ${quantity(v.card, '%', 1)}; you measured ${quantity(v.value, '%', 2)}.`,
  'machine-scale': (v) =>
    `The machine’s ${v.axis.toUpperCase()} goes ${signed(v.value, 2)} % too ${v.value > 0 ? 'far' : 'short'}. Correct the machine’s steps, not the recipe.`,
  'part-of-flow': (v) =>
    `The wall is ${signed(v.wall, 3)} mm off. That part of the ${signed(v.contour, 3)} mm comes from flow, so correct the flow first.`,
  'speeds-unequal': (v) =>
    `Walls and infill differ in speed by a factor of ${figure(v.ratio, 1)}, which makes sizes less certain. Print both at one speed before you measure.`,
  'speed-spreads': (v) =>
    `Walls printed at ${quantity(v.fast, 'mm/s', 0)} are ${quantity(Math.abs(v.spread), 'mm', 2)} ${v.spread < 0 ? 'smaller' : 'larger'} than those at ${quantity(v.slow, 'mm/s', 0)}, and the results here are for the average. Print all walls at one speed or use pressure compensation. An offset cannot fix this.`,
  'wall-would-tell': plain('Measure a wall of one line as well to see how much of this comes from flow.'),
  'zero-would-tell': plain(
    'Close the caliper and type what it shows. Then Verimend can tell whether holes need a correction of their own.',
  ),
  'not-round': (v) =>
    `The ${quantity(v.nominal, 'mm', 1)} round differs by ${quantity(v.spread, 'mm', 2)} with the direction. That comes from belts or play, not from a recipe value.`,
  'as-scale-or-contour': (v) =>
    `You can correct this with a scale of ${quantity(v.scale, '%', 2)} or with a contour offset of ${quantity(v.contour, 'mm', 3)}. Use one, not both.`,
  'soft-takes-scale': plain('Soft plastic shrinks, so the scale is the usual choice (common practice).'),
  'leaves-after': (v) =>
    `After the correction, single sizes still vary by ± ${quantity(v.plusMinus, 'mm', 2)}.`,
  'nothing-significant': plain(
    'The differences are no larger than measuring error, so nothing is corrected.',
  ),

  'too-few-sizes': plain('Nothing is measured yet.'),
  'no-number': plain('Enter a number.'),
  'below-zero': plain('Enter a size above 0.'),
  'maybe-inches': (v) => `This looks like inches. Is it ${quantity(v.as, 'mm', 2)}?`,
  'maybe-swapped': (v) => `This is closer to ${v.other}. Are the two swapped?`,
  'far-off': (v) =>
    `${quantity(v.value, 'mm', 2)} is far from ${quantity(v.nominal, 'mm', 2)}. Is a digit missing?`,
  'repeats-apart': (v) => `The readings differ by ${quantity(v.spread, 'mm', 2)}. Measure once more.`,

  'grid-empty': plain('This text contains no numbers.'),
  'grid-row-short': (v) => `Row ${v.row} has ${v.count} numbers, the others ${v.wanted}.`,
  'grid-not-number': (v) => `Row ${v.row}: “${v.text}” is not a number.`,
  'grid-commas': (v) =>
    `Row ${v.row}: commas stand within numbers and between them. Write points in the numbers, or semicolons between them.`,
  'grid-too-large': plain('A grid has at most 2500 places.'),
  'grid-no-shape': plain('A grid needs at least two rows and two columns.'),
  'grid-far': (v) => `${figure(v.value, 2)} mm cannot be a bed height.`,
  'bed-too-few': (v) => `${v.count} places are measured; a plane needs three.`,
  'bed-in-line': plain('All places lie in one line. Measure at least one place beside it.'),
  'bed-tilt': (v) =>
    `The bed rises by ${quantity(v.across, 'mm', 2)} ± ${quantity(v.plusMinus, 'mm', 2)} from its lowest to its highest corner.`,
  'bed-flat': (v) => `The bed stands level to ± ${quantity(v.plusMinus, 'mm', 2)}.`,
  'bed-bow': (v) =>
    `Levelling cannot remove the last ${quantity(v.bow, 'mm', 2)} between the lowest and the highest point (single readings vary by ${quantity(v.u, 'mm', 3)}).`,
  'bed-odd': (v) =>
    `The reading at ${figure(v.x, 0)}, ${figure(v.y, 0)} is ${quantity(Math.abs(v.off), 'mm', 2)} ${v.off > 0 ? 'higher' : 'lower'} than all others suggest, so it is left out. Probe there again.`,
  'bow-not-cured': (v) => `No amount of levelling will fix a bow of ${quantity(v.bow, 'mm', 2)}.`,
  'screw-turn': (v) =>
    `${v.screw.charAt(0).toUpperCase()}${v.screw.slice(1)}: ${inEighths(v.turns)} turn ${v.clockwise ? 'clockwise' : 'anticlockwise'} (${figure(v.turns, 2)}), the bed goes ${v.up ? 'up' : 'down'} ${quantity(v.move, 'mm', 2)}.`,
  'screw-stays': (v) => `${v.screw.charAt(0).toUpperCase()}${v.screw.slice(1)}: leave as it is.`,
  'first-height-buries': (v) =>
    `A first layer of ${quantity(v.height, 'mm', 2)} covers the ${quantity(v.residual, 'mm', 2)} that is left.`,
  'nothing-buries': (v) =>
    `${quantity(v.residual, 'mm', 2)} is more than a first layer of ${quantity(v.most, 'mm', 2)} can cover. Use a stored map of the bed, a raft, or another plate.`,
  'gap-mean': (v) =>
    `The gap is ${quantity(v.gap, 'mm', 2)} in the middle. Move the nozzle by ${signed(v.change, 2)} mm.`,
  'screw-drifts': (v) =>
    `The ${v.screw} screw goes ${v.perWeek < 0 ? 'down' : 'up'} ${quantity(Math.abs(v.perWeek), 'mm', 2)} a week against the others. A drop of thread lock or a stiffer spring helps.`,

  'feed-factor': (v) =>
    `Multiply the extruder steps by ${figure(v.factor, 4)} ± ${figure(v.plusMinus, 4)}${v.steps === null ? '' : `: ${figure(v.steps, 2)} steps/mm`}. This belongs to the machine and holds for every roll.`,
  'feed-right': (v) => `The feed is right to ± ${quantity(v.plusMinus, '%', 1)}.`,
  'read-once-more': plain('One reading is not enough to correct anything. Measure once more.'),
  'repeats-enough': (v) => `${v.count} readings are enough for half a percent.`,
  'repeats-more': (v) =>
    `${v.wanted} readings would pin this down to half a percent; you have ${v.count} so far.`,
  'purge-share': (v) =>
    `${quantity(v.share, '%', 1)} ± ${quantity(v.plusMinus, '%', 1)} of what the length should weigh came out.`,
  'density-is': (v) =>
    `If the feed is right, the density is ${quantity(v.density, 'g/cm³', 3)} ± ${figure(v.plusMinus, 3)}.`,
  'water-lost': (v) =>
    `The roll lost ${quantity(v.share, '%', 2)} ± ${quantity(v.plusMinus, '%', 2)} of its weight.`,
  'dry-enough': plain('The roll lost less than a fifth of a percent, so it is dry enough.'),
  'was-wet': plain('The roll was wet. Keep drying it until two weighings an hour apart agree.'),
  'gained-weight': plain(
    'The roll weighs more than before. Either it took up water, or the two weights are swapped.',
  ),
  'metres-left': (v) => `${quantity(v.metres, 'm', 0)} are left, ${quantity(v.grams, 'g', 0)}.`,
  'diameter-is': (v) =>
    `${quantity(v.mean, 'mm', 3)} ± ${quantity(v.plusMinus, 'mm', 3)} from ${v.count} ${v.count === 1 ? 'place' : 'places'}; the label says ${quantity(v.nominal, 'mm', 2)}.`,
  'diameter-area': (v) =>
    `This feeds ${quantity(v.share, '%', 1)} of what the label’s diameter would. Either put the diameter in the recipe or set the flow to ${quantity(v.flow, '%', 1)} of its value, but not both.`,
  'diameter-right': plain('The diameter matches the label, so nothing needs correcting.'),
  'diameter-uneven': (v) =>
    `The diameter varies by ${quantity(v.spread, 'mm', 2)} along the roll. That causes unevenly spaced bands, which no setting can fix.`,
  'diameter-oval': (v) =>
    `The filament is oval by ${quantity(v.ovality, 'mm', 2)}, so the extruder grips it unevenly.`,
  'bore-is': (v) =>
    `The nozzle bore measures about ${quantity(v.bore, 'mm', 2)} ± ${quantity(v.plusMinus, 'mm', 2)}; ${quantity(v.nominal, 'mm', 2)} is on record.`,
  'bore-worn': plain('The bore is wider than on record. The nozzle is worn, or another one is fitted.'),
  'bore-narrow': plain(
    'The bore is narrower than on record. The nozzle is partly blocked, or another one is fitted.',
  ),
  'bore-fits': plain('This matches the nozzle on record.'),
  'heater-swing': (v) =>
    `${quantity(v.mean, '°C', 1)} on average, swinging by ${quantity(v.swing, '°C', 1)}${v.period === null ? '' : ` every ${quantity(v.period, 's', 0)}`}. Let the controller tune itself.`,
  'heater-steady': (v) => `${quantity(v.mean, '°C', 1)}, steady to ${quantity(v.swing, '°C', 1)}.`,
  'too-few-readings': (v) => `You have ${v.count} readings; ${v.wanted} are needed.`,

  'spacing-is': (v) => `The bands are ${quantity(v.spacing, 'mm', 2)} ± ${figure(v.plusMinus, 2)} apart.`,
  'no-spacing': plain('No regular spacing was found. Random heights would look the same.'),
  'cause-fits': (v) =>
    `${(CAUSE_WORDS[v.cause] ?? v.cause).replace(/^./, (c) => c.toUpperCase())} fits: ${quantity(v.period, 'mm', 2)}, ${signed(v.off, 1)} %.`,
  'layer-times-step': (v) =>
    `Layers at these bands take ${quantity(v.inside, 's', 1)}, the others ${quantity(v.outside, 's', 1)}. The layer time changes there (by chance in ${figure(v.p * 100, 0)} of 100).`,
  'none-fits': plain('Nothing on this machine repeats at that spacing.'),
  'frequency-constant': (v) =>
    `The ripples keep ${quantity(v.frequency, 'Hz', 0)} ± ${figure(v.plusMinus, 0)} at every speed, so the frame or the head is shaking.`,
  'spacing-constant': (v) =>
    v.pitch === null
      ? `The ripples stay ${quantity(v.spacing, 'mm', 2)} apart at every speed, so they come from belt, pulley or motor and not from a shaking frame.`
      : `The ripples stay ${quantity(v.spacing, 'mm', 2)} apart at every speed, which is the spacing of the belt’s teeth. Check the belt’s tension and its idlers.`,
  'cannot-tell-ripples': plain('These readings cannot show which it is. Measure again at twice the speed.'),
  'acceleration-allows': (v) =>
    `About ${quantity(v.acceleration, 'mm/s²', 0)} at the outer wall leaves crests of ${quantity(v.allowed, 'mm', 2)}.`,
}
