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
  'strong-fan-bears-full': plain('A direct drive under a strong fan bears full cooling; check the bond.'),
  'bonds-better-with-less': plain('Layers bond better with less; a fan tower tells how much more it bears.'),
  'folds-in-tube': ({ family }) => `${familyName(family)} folds and squeezes in a tube: off.`,
  'little-helps': ({ family }) => `On a direct drive a little helps, and ${familyName(family)} bears it.`,
  'bed-reaches': ({ limit }) =>
    `This bed reaches ${limit} °C at most: 65 °C with a draught wall, for small parts.`,
  'bed-hot-enough': plain('This bed is hot enough for the sure way.'),
  'sheet-grips': plain('The textured sheet grips by itself: 35 °C.'),
  'bare-glass-wants-warmth': plain('Bare glass wants warmth: 50 °C.'),
  'between-the-schools': plain('In the middle of both schools until a test.'),
  'bed-unmeasured': plain('The bed was never measured: in the middle.'),
  'wants-burying': ({ residual }) => `${residual} mm of unevenness wants burying.`,
  'no-need-for-thick': ({ residual }) => `Only ${residual} mm of unevenness: no need for a thick one.`,
  'more-than-buried': ({ residual }) => `${residual} mm of unevenness is more than a first layer buries.`,
  'raft-welds': plain('A raft welds onto soft plastic.'),
  'raft-costs': plain('A raft costs time, grams and a rough underside.'),
  'stacked-splits': plain('A stacked seam splits on parts that flex.'),
  'corner-hides': plain('A corner hides it, until ooze is cured.'),
  'silk-goes-dull': plain('A silk finish goes dull under more.'),
}

const onRelative = (found: string, { filament, machine }: { filament: string; machine: string | null }) =>
  `${found} on ${filament}${machine === null ? '' : ` with ${machine}`}: unproven on this roll.`
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
    return `${say(reason)} Held at the machine's limit of ${quantity(limit, s.kind === 'number' ? s.unit : '')}.`
  },

  'same-as-rest': plain('Same as the rest: hot enough is hot enough, and one thing less to change.'),
  'nozzle-of-card': ({ family, start, ...r }) =>
    `${familyName(family)} usually starts at ${degrees(start)} in ${range(r)}.`,
  'relative-within-label': ({ tested, ...r }) =>
    `The relative's tested ${degrees(tested)} lies within the label's ${range(r)}. Unproven on this roll.`,
  'nearest-to-relative': ({ tested, ...r }) =>
    `Nearest to the relative's tested ${degrees(tested)} within the label's ${range(r)}.`,
  'share-of-label': ({ share, ...r }) =>
    `${figure(share, 0)} % of the way up the label's ${range(r)}, where the family's start lies in its own range. A tower will find the best.`,
  'wide-label': ({ family, start, demand, min, max }) =>
    demand <= EASY
      ? `The label’s ${range({ min, max })} is meant for fast printing as well. These speeds use ${figure(demand * 100, 0)} % of what the hot end melts, so ${familyName(family)} starts at ${degrees(start)}. Common practice, no source.`
      : `The label’s ${range({ min, max })} is meant for fast printing as well. These speeds use ${figure(demand * 100, 0)} % of what the hot end melts, so the start is higher than the usual ${degrees(start)}. Common practice, no source.`,
  'filling-heat': ({ family, finish, start, hotter }) =>
    hotter < 0
      ? `Wood particles char in a hot nozzle, so ${familyName(family)} with wood starts at ${degrees(start)}. Common practice, no source.`
      : `${FILLED_WITH[finish] ?? 'Filled'} ${familyName(family)} flows less easily and starts ${degrees(hotter)} hotter, at ${degrees(start)}. Common practice, no source.`,
  'bed-of-card': ({ family, value, layer, because }) =>
    `${familyName(family)} wants ${degrees(value)} on the ${layer === 'first' ? 'first layer' : 'rest'}.${tail(say, because)}`,
  'within-label': ({ value, ...r }) => `${degrees(value)} lies within the label's ${range(r)}.`,
  'nearest-within-label': ({ value, ...r }) => `Nearest to ${degrees(value)} within the label's ${range(r)}.`,
  'no-chamber': plain('This machine has no chamber heater.'),
  'splits-in-cold': ({ family }) => `${familyName(family)} splits in cold air.`,
  'needs-no-chamber': ({ family }) => `${familyName(family)} needs no warm chamber.`,

  'nominal-diameter': ({ diameter }) => `Nominal ${quantity(diameter, 'mm')}.`,
  'measured-diameter': ({ count, spread, ovality }) =>
    `Mean of ${count} ${count === 1 ? 'place' : 'places'}, spread ${quantity(spread, 'mm', 3)}${ovality === null ? '' : `, ovality up to ${quantity(ovality, 'mm', 3)}`}.`,
  'melt-of-card': ({ family }) =>
    `${familyName(family)} through 0.4 mm of brass on a usual hot end, from memory.`,
  'melt-scaled': ({ diameter, hardened, highFlow }) =>
    `Scaled to ${figure(diameter)} mm of ${hardened ? 'hardened steel, which conducts less' : 'brass'}${highFlow ? ' under a high-flow melt zone, which melts about twice as much' : ''}. Common practice, no source. A melt-rate run finds the real cap.`,
  'density-of-card': ({ family }) => `${familyName(family)}, from memory.`,
  'starts-at-hundred': ({ setting }) =>
    `${settingLabel(setting)} starts at 100 % and moves only after a test.`,
  'lets-raft-go': plain('Less of it lets the raft go.'),

  'wants-retraction': ({ family, drive }) =>
    `${familyName(family)} on a ${drive === 'tube' ? 'guide tube' : 'direct drive'} wants a pull-back.`,
  'direct-start': ({ family, length }) =>
    `${familyName(family)} on a direct drive starts at ${quantity(length, 'mm')}.`,
  'softer-pulled-less': ({ shore, cardShore }) =>
    `This roll is ${shore}A and the card assumes ${cardShore}A: softer filament is pulled back less. Common practice, no source.`,
  'filling-pulled-less': ({ length }) =>
    `Wood particles settle into a plug when the filament is pulled back far, so retraction starts at ${quantity(length, 'mm')}. Common practice, no source.`,
  'soft-on-tube-most': plain(
    'If retraction is switched on at all for soft filament on a tube, 2 mm is the most to begin with.',
  ),
  'tube-of-card': ({ family, length }) =>
    `${familyName(family)} starts at ${quantity(length, 'mm')} on a 400 mm tube.`,
  'tube-rule': ({ family, tubeLength }) =>
    `10 mm per metre of the ${quantity(tubeLength, 'mm')} tube and 1 mm for the drive, leaned to ${familyName(family)}. Common practice, no source.`,
  'tube-capped': ({ family, tubeLength }) =>
    `The rule of thumb for a ${quantity(tubeLength, 'mm')} tube asks more than ${familyName(family)} stands: 8 mm is the most. A shorter tube would do better.`,
  'soft-pulled-slowly': plain('Soft filament is pulled slowly.'),
  'tube-pull-speed': plain('Tubes take 25–50 mm/s.'),
  'short-pull-speed': plain('Short pulls need no hurry.'),
  'no-restart-extra': plain('Nothing extra until starts look starved.'),
  'no-lift': plain('No lift until the nozzle is seen to catch.'),
  'short-hops': plain('Hops under about four nozzle widths rarely string.'),
  'wipe-one-nozzle': plain('One nozzle width hides the end of a loop.'),
  'early-stop-off': plain('Off until a seam test asks for it.'),
  'pressure-off': plain('Off until the lines test has been printed: a wrong value is worse than none.'),

  'fan-off-base': ({ family }) => `${familyName(family)}: fan off while the base takes hold.`,
  'fan-at-once': plain('Full duty on the first layer with fan.'),
  'no-part-fan': plain('This machine has no part fan.'),
  'fan-of-card': ({ family, duty, because }) =>
    `${familyName(family)} wants ${duty} % after the base.${tail(say, because)}`,
  'fan-overhang': ({ family, duty }) => `${familyName(family)} bears ${duty} % on overhangs.`,
  'fan-bridge': ({ duty }) => `As on overhangs: ${duty} %.`,
  'five-seconds': plain('About 5 s keeps the finish even.'),
  'bead-sets': ({ nozzle, solidAt, seconds, fan, margin, held, crystallising }) =>
    `A bead falls from ${degrees(nozzle)} to ${degrees(solidAt)} in ${quantity(seconds, 's', 1)} with the fan at ${fan} %${margin === undefined ? '' : `; ${figure(margin, 1)} times that for the warm wall under it and for what is not known of the fan`}${held ? '; held within 4–20 s' : ''}. ${crystallising ? 'The heat of crystallising is counted in.' : 'It sets as a glass: no heat of crystallising.'}`,
  'floor-keeps-change-small': plain('A floor of 15 mm/s keeps the change of speed small.'),

  'thicker-on-screws': plain('A little thicker than the rest on a hand-levelled bed.'),
  'as-layers-on-probe': plain('As the other layers on a probed bed.'),
  'twice-residual': ({ residual }) =>
    `At least twice the ${quantity(residual, 'mm')} left after levelling, and no thinner than the other layers.`,
  'half-nozzle-first': plain('Half the nozzle: a thinner first layer is smeared instead of pressed down.'),
  'first-on-full-step': ({ reason, step }) =>
    `${say(reason)} Moved to the nearest full step of the Z screw (${quantity(step, 'mm', 4)}).`,
  'first-line-grips': plain('120 % of the nozzle grips well without losing details.'),
  'half-outer-first': plain('Half the outer wall’s speed, between 20 and 30 mm/s for rigid plastic.'),
  'z-found-on-machine': plain('Found on the machine with the first-layer test.'),
  'many-islands-only': plain('Only for parts that start as many small islands.'),
  'no-faster-than-first': plain('No faster than the first layer.'),

  'two-loops': plain('Two loops prime the nozzle.'),
  'brim-welds': plain('A brim welds onto soft plastic.'),
  'brim-on-open': ({ family }) =>
    `${familyName(family)} shrinks and this frame is open: 12 lines for large parts, fewer for small ones.`,
  'no-brim': plain('No brim until corners lift.'),
  'as-first-lines': plain('As the first layer’s lines.'),
  'joined-brim': plain('Joined to the part.'),
  'no-tabs': plain('None until corners lift.'),
  'one-thick-layer': plain('One thick layer holds the bed.'),
  'two-top-layers': plain('Two or three make an even floor.'),
  'raft-margin': plain('5 mm; 10 is plenty.'),
  'three-quarter-gap': plain('About three quarters of a layer lets go by hand.'),
  'raft-lines-wide': plain('3 to 3.5 times the nozzle.'),
  'raft-lines-slow': plain('About 8 mm/s: these lines are thick.'),
  'raft-density': plain('More grips harder and is harder to remove.'),
  'as-other-lines': plain('As other solid layers: an even floor.'),
  'as-slow-as-first': plain('As slow as a first layer.'),
  'raft-closed': plain('Closed, so that the part stands on an even floor.'),
  'raft-crossed': plain('Lines of the part lie across the raft’s top lines.'),
  'supports-weld': plain('Supports weld onto soft plastic.'),
  'supports-if-it-hangs': plain('Only for a part that hangs: see it under Parts.'),
  'past-sixty': plain('Past 60° a face needs carrying.'),
  'comes-off-in-sheets': plain('Loose lines come off in sheets.'),
  'one-layer-of-air': plain('One layer of air lets go and still carries.'),
  'splits-in-moving-air': ({ family }) =>
    `${familyName(family)} splits in moving air and this frame is open.`,
  'not-needed-here': plain('Not needed here.'),

  'share-of-nozzle': ({ grade }) => `${GRADE_SHARE[grade]} of the nozzle.`,
  'on-full-step': ({ grade, step }) =>
    `The multiple of the screw's full step (${quantity(step, 'mm', 4)}) next under ${lower(GRADE_SHARE[grade])} of the nozzle.`,
  'no-full-step': ({ step }) =>
    `No multiple of the screw's full step (${quantity(step, 'mm', 4)}) fits this nozzle.`,
  'silk-width': plain('Silk shows best with lines of about 125 % of the nozzle.'),
  'presses-lines': plain('A little wider than the nozzle presses lines together.'),
  'as-outer-wall': plain('As the outer wall.'),
  'as-infill-lines': plain('As the infill’s lines.'),
  'as-solid-lines': plain('As the layers under it.'),
  'walls-as-above': plain('As in the layers above.'),
  'spiral-if-meant': plain('Only for a hollow thing that is meant so; it is easily left on.'),
  'gives-alike': plain('Gyroid gives alike to every side.'),
  'lines-quickest': plain('Lines are laid quickest.'),
  'wall-thickness': plain('Walls of about 1.2 mm.'),
  'top-thickness': plain('About 0.8 mm closes a top.'),
  'bottom-thickness': plain('About 0.6 mm.'),
  'less-is-softer': plain('Less is softer.'),
  'enough-infill': plain('Enough for most parts.'),
  'inside-first': plain('Bears steep overhangs; outside first measures truer.'),
  'seam-at-back': plain('The back, where a machine is rarely looked at.'),

  'good-face': ({ family, speed }) =>
    `${familyName(family)} shows a good face at ${quantity(speed, 'mm/s')}.`,
  'careful-first': plain(
    'Slow enough for a good face; brisk saves time and risks ripples, dull faces and starved lines.',
  ),
  'fast-machine': ({ family, speed, times }) =>
    `This machine is built for fast moves, so ${familyName(family)} starts at ${quantity(speed, 'mm/s')}, ${figure(times, 1)} times the usual. Common practice, no source.`,
  'filling-slower': ({ family, finish, speed }) =>
    `${FILLED_WITH[finish] ?? 'Filled'} ${familyName(family)} flows less easily, so this starts at ${quantity(speed, 'mm/s')}. Common practice, no source.`,
  brisk: ({ family, speed, times }) =>
    `Brisk: ${figure(times, 1)} times what ${familyName(family)} shows its best face at, ${quantity(speed, 'mm/s')}. Look for ripples after corners, a dull face and thin lines.`,
  'softer-goes-slower': ({ shore, cardShore, speed }) =>
    `A roll of ${shore}A wants another pace than the card’s ${cardShore}A: ${quantity(speed, 'mm/s')}, in proportion to hardness. Common practice, no source.`,
  'softer-melts-less': ({ shore, cardShore }) =>
    `A roll of ${shore}A feeds another rate than the card’s ${cardShore}A, in proportion to hardness. Common practice, no source.`,
  'where-nobody-looks': ({ family, speed }) =>
    `${familyName(family)}: ${quantity(speed, 'mm/s')} where nobody looks.`,
  'no-faster-than-face': plain('No faster than the face: gaps in solid layers show.'),
  'last-layer-seen': plain('The last layer is the one people see.'),
  'one-speed-for-soft': plain('As the inner walls: soft filament wants one speed.'),
  'third-faster': plain('A third faster than inner walls.'),
  'bridge-of-card': ({ family, speed }) => `${familyName(family)} bridges at ${speed} mm/s.`,
  'half-outer-or-slower': plain('Half the outer wall or slower.'),
  'curls-less-slow': plain(
    'Three quarters of the outer wall: edges that hang curl less when they are laid slowly.',
  ),
  'nearly-a-bridge': plain('Laid mostly on air: as slowly as a bridge.'),
  'half-outer': plain('Half the outer wall.'),
  'twenty-nozzles': plain('Around holes of about twenty nozzle widths across.'),
  'no-time-for-ooze': plain('Fast travels leave ooze no time.'),
  'open-frame-rings': plain('An open frame rings early.'),
  'stiff-frame-bears': plain('A stiff frame bears 2000 mm/s² on the face.'),
  'ripples-hidden': plain('A little more where ripples do not show.'),
  'brisk-travels': plain('Travels may be brisk.'),
  'gentle-first-layer': plain('Gentle: fresh lines hold on to little.'),
  'share-of-acceleration': ({ share, frame }) =>
    `${figure(share, 0)} % of the machine’s limit, which an ${frame} frame can take without ringing much.`,
  'machine-set-to': plain('What the machine is set to.'),
  'square-corner-speed': plain(
    'Speed through a square corner that the junction deviation comes to. This machine keeps the other rule.',
  ),
  'square-corner-deviation': plain(
    'What gives a square corner the same speed. This machine keeps the other rule.',
  ),
  'label-speed': ({ speed }) => `The label allows ${quantity(speed, 'mm/s')} at most.`,
  'melt-capped': ({ family, width, height, speed, rate, cap }) =>
    `A ${figure(width)} × ${figure(height)} mm line at ${quantity(speed, 'mm/s', 0)} asks ${quantity(rate, 'mm³/s', 1)}; this nozzle melts ${quantity(cap, 'mm³/s', 1)} of ${familyName(family)}.`,

  'fine-as-nozzle': ({ grade, step }) =>
    `${GRADE_SHARE[grade]} of the nozzle would be too thin to print cleanly. This is the smallest multiple of the Z screw’s full step (${quantity(step, 'mm', 4)}) that prints well.`,
  'melts-no-thicker': ({ height }) =>
    `Thicker lines than ${quantity(height, 'mm')} would ask more than this nozzle melts of so soft a plastic, even at walking pace.`,
  'zero-until-plate': plain('Zero until a size plate is measured.'),
  'zero-until-flare': plain('Zero until the base is seen to flare.'),
})
