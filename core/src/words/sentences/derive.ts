import type { Finish } from '../../material/filament'
import { figure, quantity } from '../../quantity/format'
import type { Reason } from '../../quantity/reason'
import type { Grade } from '../../recipe/derive'
import type { DeriveReasons } from '../../recipe/derive/reasons'
import { EASY } from '../../recipe/derive/temperature'
import type { PolicyReasons } from '../../recipe/policies'
import type { RelativeReasons } from '../../recipe/relative'
import { settingOf, type ValueFaults } from '../../recipe/settings'
import { familyName, lower, settingLabel } from '../names'
import { plain, type Sentences } from './sentences'

const degrees = (value: number) => quantity(value, '°C')
const range = ({ min, max }: { min: number; max: number }) => `${min}–${max} °C`
const tail = (say: (r: Reason) => string, because: Reason | null) => (because ? ` ${say(because)}` : '')
const GRADE_SHARE: Record<Grade, string> = {
  fine: 'Three tenths',
  standard: 'Half',
  coarse: 'Seven tenths',
}

const FILLED_WITH: Partial<Record<Finish, string>> = {
  wood: 'Wood-filled',
  glow: 'Glow-in-the-dark',
  filled: 'Filled',
  metal: 'Metal-filled',
  fibre: 'Fibre-filled',
}

export const policySentences: Sentences<PolicyReasons> = {
  'strong-fan-bears-full': plain(
    'A direct drive can take full cooling from a strong fan. Check that the layers still bond.',
  ),
  'bonds-better-with-less': plain(
    'Layers bond better with less fan. Print a fan tower to see how much the plastic can take.',
  ),
  'folds-in-tube': ({ family }) =>
    `${familyName(family)} folds and stretches in a tube, so retraction is off.`,
  'little-helps': ({ family }) =>
    `On a direct drive a little retraction helps, and ${familyName(family)} can take it.`,
  'bed-reaches': ({ limit }) =>
    `This bed reaches only ${limit} °C, so it uses 65 °C with a draught wall. That works for small parts.`,
  'bed-hot-enough': plain('This bed gets hot enough for the safer of the two usual methods.'),
  'sheet-grips': plain('A textured sheet holds the part without much heat, so 35 °C is enough.'),
  'bare-glass-wants-warmth': plain('Bare glass holds better when it is warm, so the bed starts at 50 °C.'),
  'between-the-schools': plain('Halfway between the two usual practices until you have tested it.'),
  'bed-unmeasured': plain('The bed has not been measured, so this is a middle value.'),
  'wants-burying': ({ residual }) =>
    `The bed is uneven by ${residual} mm, so the first layer should be thick enough to cover that.`,
  'no-need-for-thick': ({ residual }) =>
    `The bed is uneven by only ${residual} mm, so the first layer need not be thick.`,
  'more-than-buried': ({ residual }) =>
    `The bed is uneven by ${residual} mm, which is more than a first layer can cover.`,
  'raft-welds': plain('A raft sticks to soft plastic for good.'),
  'raft-costs': plain('A raft costs time and plastic and leaves a rough underside.'),
  'stacked-splits': plain('A seam in one line can split on parts that flex.'),
  'corner-hides': plain('Keep the seam in a corner until the oozing is fixed.'),
  'silk-goes-dull': plain('More fan makes a silk finish dull.'),
}

const onRelative = (found: string, { filament, machine }: { filament: string; machine: string | null }) =>
  `${found} on ${filament}${machine === null ? '' : ` with ${machine}`}, so it is unproven on this roll.`
export const relativeSentences: Sentences<RelativeReasons> = {
  'measured-on-relative': (v) => onRelative('Measured', v),
  'mended-on-relative': (v) => onRelative('Found in a case', v),
}

export const valueFaultSentences: Sentences<ValueFaults> = {
  'not-on-off': ({ setting }) => `${settingLabel(setting)} is either on or off.`,
  'no-such-choice': ({ setting }) => {
    const s = settingOf(setting)
    return `${s.label} is one of: ${s.kind === 'choice' ? s.choices.map((c) => c.label).join(', ') : ''}.`
  },
  'not-a-number': ({ setting }) => {
    const s = settingOf(setting)
    return `${s.label} needs a number in ${s.kind === 'number' ? s.unit : ''}.`
  },
  'out-of-bounds': ({ setting }) => {
    const s = settingOf(setting)
    return s.kind === 'number' ? `${s.label} lies between ${s.min} and ${s.max} ${s.unit}.` : ''
  },
}

/** @param say makes the sentence of a reason inside another one */
export const deriveSentences = (say: (r: Reason) => string): Sentences<DeriveReasons> => ({
  practice: ({ reason }) => `${say(reason)} Common practice, no source.`,
  'held-at-limit': ({ reason, limit, setting }) => {
    const s = settingOf(setting)
    return `${say(reason)} Limited to the machine’s maximum of ${quantity(limit, s.kind === 'number' ? s.unit : '')}.`
  },

  'same-as-rest': plain(
    'Same temperature as the other layers: it is hot enough, and you have one thing less to change.',
  ),
  'nozzle-of-card': ({ family, start, ...r }) =>
    `${familyName(family)} usually starts at ${degrees(start)} in ${range(r)}.`,
  'relative-within-label': ({ tested, ...r }) =>
    `The relative's tested ${degrees(tested)} lies within the label's ${range(r)}. Unproven on this roll.`,
  'nearest-to-relative': ({ tested, ...r }) =>
    `Nearest to the relative's tested ${degrees(tested)} within the label's ${range(r)}.`,
  'share-of-label': ({ share, ...r }) =>
    `${figure(share, 0)} % of the way up the label’s ${range(r)}, the point at which this plastic usually starts in its own range. A temperature tower will find the best value.`,
  'wide-label': ({ family, start, demand, min, max }) =>
    demand <= EASY
      ? `The label’s ${range({ min, max })} is meant for fast printing as well. These speeds use ${figure(demand * 100, 0)} % of what the hot end melts, so ${familyName(family)} starts at ${degrees(start)}. Common practice, no source.`
      : `The label’s ${range({ min, max })} is meant for fast printing as well. These speeds use ${figure(demand * 100, 0)} % of what the hot end melts, so the start is higher than the usual ${degrees(start)}. Common practice, no source.`,
  'filling-heat': ({ family, finish, start, hotter }) =>
    hotter < 0
      ? `Wood particles char in a hot nozzle, so ${familyName(family)} with wood starts at ${degrees(start)}. Common practice, no source.`
      : `${FILLED_WITH[finish] ?? 'Filled'} ${familyName(family)} flows less easily and starts ${degrees(hotter)} hotter, at ${degrees(start)}. Common practice, no source.`,
  'bed-of-card': ({ family, value, layer, because }) =>
    `${familyName(family)} usually needs a bed at ${degrees(value)} ${layer === 'first' ? 'on the first layer' : 'after the first layer'}.${tail(say, because)}`,
  'within-label': ({ value, ...r }) => `${degrees(value)} lies within the label's ${range(r)}.`,
  'nearest-within-label': ({ value, ...r }) => `Nearest to ${degrees(value)} within the label's ${range(r)}.`,
  'no-chamber': plain('This machine has no chamber heater.'),
  'splits-in-cold': ({ family }) => `${familyName(family)} splits in cold air.`,
  'needs-no-chamber': ({ family }) => `${familyName(family)} needs no warm chamber.`,

  'nominal-diameter': ({ diameter }) => `Nominal ${quantity(diameter, 'mm')}.`,
  'measured-diameter': ({ count, spread, ovality }) =>
    `Mean of ${count} ${count === 1 ? 'place' : 'places'}, spread ${quantity(spread, 'mm', 3)}${ovality === null ? '' : `, ovality up to ${quantity(ovality, 'mm', 3)}`}.`,
  'melt-of-card': ({ family }) =>
    `A usual hot end with a 0.4 mm brass nozzle melts this much ${familyName(family)}, from memory.`,
  'melt-scaled': ({ diameter, hardened, highFlow }) =>
    `Scaled to ${figure(diameter)} mm of ${hardened ? 'hardened steel, which conducts less' : 'brass'}${highFlow ? ' under a high-flow melt zone, which melts about twice as much' : ''}. Common practice, no source. A melt-rate run finds the real cap.`,
  'density-of-card': ({ family }) => `${familyName(family)}, from memory.`,
  'starts-at-hundred': ({ setting }) =>
    `${settingLabel(setting)} starts at 100 % and moves only after a test.`,
  'lets-raft-go': plain('Less flow here makes the raft easier to remove.'),

  'wants-retraction': ({ family, drive }) =>
    `${familyName(family)} needs retraction on a ${drive === 'tube' ? 'guide tube' : 'direct drive'}.`,
  'direct-start': ({ family, length }) =>
    `${familyName(family)} on a direct drive starts at ${quantity(length, 'mm')}.`,
  'softer-pulled-less': ({ shore, cardShore }) =>
    `This roll is ${shore}A and the card assumes ${cardShore}A. Softer filament is pulled back less. Common practice, no source.`,
  'filling-pulled-less': ({ length }) =>
    `Wood particles settle into a plug when the filament is pulled back far, so retraction starts at ${quantity(length, 'mm')}. Common practice, no source.`,
  'soft-on-tube-most': plain(
    'If retraction is switched on at all for soft filament on a tube, 2 mm is the most to begin with.',
  ),
  'tube-of-card': ({ family, length }) =>
    `${familyName(family)} starts at ${quantity(length, 'mm')} on a 400 mm tube.`,
  'tube-rule': ({ family, tubeLength }) =>
    `10 mm per metre of the ${quantity(tubeLength, 'mm')} tube plus 1 mm for the extruder, adjusted for ${familyName(family)}. Common practice, no source.`,
  'tube-capped': ({ family, tubeLength }) =>
    `The rule of thumb for a ${quantity(tubeLength, 'mm')} tube gives more than ${familyName(family)} can take, so this stops at 8 mm. A shorter tube would help.`,
  'soft-pulled-slowly': plain('Pull soft filament back slowly, or it stretches.'),
  'tube-pull-speed': plain('Through a tube, 25–50 mm/s works well.'),
  'short-pull-speed': plain('A short retraction does not need to be fast.'),
  'no-restart-extra': plain('No extra filament unless the starts of lines look thin.'),
  'no-lift': plain('No lift unless you see the nozzle catch on the print.'),
  'short-hops': plain('Travel moves under about four nozzle widths rarely leave strings.'),
  'wipe-one-nozzle': plain('One nozzle width hides the end of a loop.'),
  'early-stop-off': plain('Off unless the seam columns show that you need it.'),
  'pressure-off': plain(
    'Off until you have printed the pressure lines, because a wrong value is worse than none.',
  ),

  'fan-off-base': ({ family }) => `The fan stays off while the base of ${familyName(family)} sticks.`,
  'fan-at-once': plain('Full fan speed from the first layer that uses the fan.'),
  'no-part-fan': plain('This machine has no part fan.'),
  'fan-of-card': ({ family, duty, because }) =>
    `${familyName(family)} usually needs the fan at ${duty} % above the base.${tail(say, because)}`,
  'fan-overhang': ({ family, duty }) => `${familyName(family)} can take ${duty} % fan on overhangs.`,
  'fan-bridge': ({ duty }) => `Bridges get the same fan as overhangs, ${duty} %.`,
  'five-seconds': plain('About 5 s a layer keeps the finish even.'),
  'bead-sets': ({ nozzle, solidAt, seconds, fan, margin, held, crystallising }) =>
    `A line cools from ${degrees(nozzle)} to ${degrees(solidAt)} in ${quantity(seconds, 's', 1)} with the fan at ${fan} %.${crystallising ? ' This includes the heat the plastic gives off as it crystallises.' : ''}${margin === undefined ? '' : ` The layer gets ${figure(margin, 1)} times that, because the wall under it is warm and the fan’s strength is uncertain.`}${held ? ' The result is kept between 4 and 20 s.' : ''}`,
  'floor-keeps-change-small': plain(
    'Slowed layers never go below this, so that the change of speed stays small.',
  ),

  'thicker-on-screws': plain('A little thicker than the rest on a hand-levelled bed.'),
  'as-layers-on-probe': plain('Same height as the other layers, because the bed is probed.'),
  'twice-residual': ({ residual }) =>
    `At least twice the ${quantity(residual, 'mm')} left after levelling, and no thinner than the other layers.`,
  'half-nozzle-first': plain(
    'Half the nozzle diameter, because a thinner first layer is smeared instead of pressed down.',
  ),
  'first-on-full-step': ({ reason, step }) =>
    `${say(reason)} Moved to the nearest full step of the Z screw (${quantity(step, 'mm', 4)}).`,
  'first-line-grips': plain('120 % of the nozzle grips well without losing details.'),
  'half-outer-first': plain('Half the outer wall’s speed, between 20 and 30 mm/s for rigid plastic.'),
  'z-found-on-machine': plain('Found on the machine with the first-layer test.'),
  'many-islands-only': plain('Useful only for parts that start as many small islands.'),
  'no-faster-than-first': plain('No faster than the first layer.'),

  'two-loops': plain('Two loops prime the nozzle.'),
  'brim-welds': plain('A brim welds onto soft plastic.'),
  'brim-on-open': ({ family }) =>
    `${familyName(family)} shrinks and this frame is open: 12 lines for large parts, fewer for small ones.`,
  'no-brim': plain('No brim until corners lift.'),
  'as-first-lines': plain('Same width as the lines of the first layer.'),
  'joined-brim': plain('The brim touches the part.'),
  'no-tabs': plain('No corner tabs until corners lift.'),
  'one-thick-layer': plain('One thick layer holds the raft on the bed.'),
  'two-top-layers': plain('Two or three top layers make an even floor for the part.'),
  'raft-margin': plain('A margin of 5 mm is enough; 10 mm is plenty.'),
  'three-quarter-gap': plain('A gap of about three quarters of a layer lets you pull the raft off by hand.'),
  'raft-lines-wide': plain('Raft lines are 3 to 3.5 times as wide as the nozzle.'),
  'raft-lines-slow': plain('About 8 mm/s, because these lines are thick.'),
  'raft-density': plain('A denser raft holds better but is harder to remove.'),
  'as-other-lines': plain('Same density as other solid layers, for an even floor.'),
  'as-slow-as-first': plain('Printed as slowly as a first layer.'),
  'raft-closed': plain('Lines touch each other, so that the part stands on an even floor.'),
  'raft-crossed': plain('The part’s lines cross the top lines of the raft.'),
  'supports-weld': plain('Supports stick to soft plastic for good.'),
  'supports-if-it-hangs': plain('Only for a part with overhangs. Parts shows you where they are.'),
  'past-sixty': plain('Overhangs of more than 60° need support.'),
  'comes-off-in-sheets': plain('Lines set wide apart come off in sheets.'),
  'one-layer-of-air': plain('A gap of one layer comes off easily and still supports the surface.'),
  'splits-in-moving-air': ({ family }) =>
    `${familyName(family)} splits in moving air and this frame is open.`,
  'not-needed-here': plain('A draught wall is not needed here.'),

  'share-of-nozzle': ({ grade }) => `${GRADE_SHARE[grade]} of the nozzle diameter.`,
  'on-full-step': ({ grade, step }) =>
    `The largest multiple of the Z screw’s full step (${quantity(step, 'mm', 4)}) below ${lower(GRADE_SHARE[grade])} of the nozzle diameter.`,
  'no-full-step': ({ step }) =>
    `No multiple of the screw's full step (${quantity(step, 'mm', 4)}) fits this nozzle.`,
  'silk-width': plain('Silk shows best with lines of about 125 % of the nozzle.'),
  'presses-lines': plain('A little wider than the nozzle presses lines together.'),
  'as-outer-wall': plain('Same width as the outer wall.'),
  'as-infill-lines': plain('Same width as the infill lines.'),
  'as-solid-lines': plain('Same width as in the layers under it.'),
  'walls-as-above': plain('Same number of walls as in the layers above.'),
  'spiral-if-meant': plain('Only for parts meant to be hollow. It is easy to leave on by mistake.'),
  'gives-alike': plain('Gyroid flexes equally in every direction.'),
  'lines-quickest': plain('Straight lines print fastest.'),
  'wall-thickness': plain('Walls of about 1.2 mm.'),
  'top-thickness': plain('About 0.8 mm closes a top.'),
  'bottom-thickness': plain('About 0.6 mm makes a closed bottom.'),
  'less-is-softer': plain('Less infill makes the part softer.'),
  'enough-infill': plain('This much infill is enough for most parts.'),
  'inside-first': plain('Inside first copes with steep overhangs; outside first gives more accurate sizes.'),
  'seam-at-back': plain('The seam goes to the back, where people rarely look.'),

  'good-face': ({ family, speed }) =>
    `${familyName(family)} gets a good surface at ${quantity(speed, 'mm/s')}.`,
  'careful-first': plain(
    'Slow enough for a good surface. Brisk saves time but risks ripples, dull surfaces and thin lines.',
  ),
  'fast-machine': ({ family, speed, times }) =>
    `This machine is built for fast moves, so ${familyName(family)} starts at ${quantity(speed, 'mm/s')}, ${figure(times, 1)} times the usual. Common practice, no source.`,
  'filling-slower': ({ family, finish, speed }) =>
    `${FILLED_WITH[finish] ?? 'Filled'} ${familyName(family)} flows less easily, so this starts at ${quantity(speed, 'mm/s')}. Common practice, no source.`,
  brisk: ({ family, speed, times }) =>
    `Brisk is ${figure(times, 1)} times the speed at which ${familyName(family)} looks its best, ${quantity(speed, 'mm/s')}. Watch for ripples after corners, a dull surface and thin lines.`,
  'softer-goes-slower': ({ shore, cardShore, speed }) =>
    `This roll is ${shore}A and the card assumes ${cardShore}A, so the speed becomes ${quantity(speed, 'mm/s')}, in proportion to hardness. Common practice, no source.`,
  'softer-melts-less': ({ shore, cardShore }) =>
    `This roll is ${shore}A and the card assumes ${cardShore}A, so the melt rate changes in proportion to hardness. Common practice, no source.`,
  'where-nobody-looks': ({ family, speed }) =>
    `${quantity(speed, 'mm/s')} for ${familyName(family)}, because nobody sees the inner walls.`,
  'no-faster-than-face': plain('No faster than the outer wall, because gaps in solid layers show.'),
  'last-layer-seen': plain('The last layer is the one people see.'),
  'one-speed-for-soft': plain(
    'Same speed as the inner walls, because soft filament prints best at one speed.',
  ),
  'third-faster': plain('A third faster than inner walls.'),
  'bridge-of-card': ({ family, speed }) => `${familyName(family)} bridges at ${speed} mm/s.`,
  'half-outer-or-slower': plain('Half the speed of the outer wall, or slower.'),
  'curls-less-slow': plain(
    'Three quarters of the outer wall’s speed, because overhanging edges curl less when they are printed slowly.',
  ),
  'nearly-a-bridge': plain('As slow as a bridge, because it is printed mostly over air.'),
  'half-outer': plain('Half the speed of the outer wall.'),
  'twenty-nozzles': plain('For holes up to about twenty nozzle widths across.'),
  'no-time-for-ooze': plain('Fast travel moves leave less time to ooze.'),
  'open-frame-rings': plain('An open frame starts to ring at lower accelerations.'),
  'stiff-frame-bears': plain('A stiff frame can take 2000 mm/s² on the outer wall.'),
  'ripples-hidden': plain('A little more is fine where ripples do not show.'),
  'brisk-travels': plain('Travel moves can be fast, because they print nothing.'),
  'gentle-first-layer': plain('Gentle, because fresh lines are not stuck firmly yet.'),
  'share-of-acceleration': ({ share, frame }) =>
    `${figure(share, 0)} % of the machine’s limit, which an ${frame} frame can take without ringing much.`,
  'machine-set-to': plain('The value set on the machine.'),
  'square-corner-speed': plain(
    'The corner speed that this junction deviation gives. This machine uses junction deviation instead.',
  ),
  'square-corner-deviation': plain(
    'The junction deviation that gives the same corner speed. This machine uses the corner speed instead.',
  ),
  'label-speed': ({ speed }) => `The label allows ${quantity(speed, 'mm/s')} at most.`,
  'melt-capped': ({ family, width, height, speed, rate, cap }) =>
    `A ${figure(width)} × ${figure(height)} mm line at ${quantity(speed, 'mm/s', 0)} needs ${quantity(rate, 'mm³/s', 1)}, but this nozzle melts only ${quantity(cap, 'mm³/s', 1)} of ${familyName(family)}.`,

  'fine-as-nozzle': ({ grade, step }) =>
    `${GRADE_SHARE[grade]} of the nozzle would be too thin to print cleanly. This is the smallest multiple of the Z screw’s full step (${quantity(step, 'mm', 4)}) that prints well.`,
  'melts-no-thicker': ({ height }) =>
    `Lines thicker than ${quantity(height, 'mm')} would need more than the nozzle can melt of this soft plastic, even at very low speed.`,
  'zero-until-plate': plain('Zero until you have measured a size plate.'),
  'zero-until-flare': plain('Zero unless you see the base flare out.'),
})
