import { quantity } from '../../quantity/format'
import type { LintReasons } from '../../recipe/lint/rule'
import { familyName, listed, settingLabel, settingLabels } from '../names'
import { plain, type Statements } from './sentences'

/** What each rule of recipes says: what is so, and why it bites. */
export const LINT_STATEMENTS: Statements<LintReasons> = {
  'machine-too-cool': {
    text: ({ machine, limit, least }) =>
      `${machine} reaches ${quantity(limit, '°C')}; this roll needs at least ${quantity(least, '°C')}.`,
    why: plain('Its layers will not weld here. Print it on a hotter machine.'),
  },
  'bed-too-cool': {
    text: ({ machine, limit, wanted, family }) =>
      `${machine}’s bed reaches only ${quantity(limit, '°C')}; ${familyName(family)} needs ${quantity(wanted, '°C')}.`,
    why: plain(
      'Corners will lift. A closed frame, a draught wall, glue and a wide brim help; large parts need a hotter bed.',
    ),
  },
  'label-needed': {
    text: plain('This plastic has no card, and the label’s nozzle range is not entered.'),
    why: plain('Without the label the temperature is a guess. Enter what the label says.'),
  },
  'soft-through-tube': {
    text: ({ family, tubeLength }) =>
      `${familyName(family)} has to be pushed through ${quantity(tubeLength, 'mm')} of guide tube.`,
    why: plain(
      'Soft filament folds in a long tube. Print slowly, lead it past the tube if you can, or use a machine with a direct drive.',
    ),
  },
  'chips-glass': {
    text: ({ family }) => `${familyName(family)} prints on bare glass here.`,
    why: plain(
      'It can bond so firmly that it tears chips out of the glass. Put glue or another release layer on it first.',
    ),
  },
  'liner-unknown': {
    text: ({ nozzle }) =>
      `This recipe prints at ${quantity(nozzle, '°C')}, and nobody has noted whether the machine’s liner reaches the nozzle.`,
    why: ({ bears }) =>
      `A liner that reaches the nozzle is damaged above ${quantity(bears, '°C')} and gives off harmful fumes. Look at the hot end and note it with the machine.`,
  },
  'filled-nozzle': {
    text: ({ small, brass, nozzle }) =>
      `Filled filament on a ${small ? `${quantity(nozzle, 'mm')} ` : ''}${brass ? 'brass ' : ''}nozzle.`,
    why: ({ small, brass }) =>
      [
        small ? 'Fibres and grains clog a bore under 0.4 mm.' : '',
        brass ? 'Fibres and grains wear out brass within a roll, so use a hardened nozzle.' : '',
      ]
        .filter(Boolean)
        .join(' '),
  },
  'nozzle-off-label': {
    text: ({ settings, of, min, max }) =>
      `${listed(settings.map(settingLabel))} outside the ${of}’s ${min}–${max} °C.`,
    why: ({ above }) => (above ? 'Plastic browns, strings and drips.' : 'Layers do not weld.'),
  },
  'bed-above-card': {
    text: ({ bed }) => `The bed stays at ${quantity(bed, '°C')} after the first layer.`,
    why: ({ top }) => `Above ${quantity(top, '°C')} the base stays soft and bows under the weight on it.`,
  },
  'bed-first-above-card': {
    text: ({ bed, top, family }) =>
      `The bed starts at ${quantity(bed, '°C')}; ${familyName(family)} can take ${quantity(top, '°C')}.`,
    why: plain('The base flares and is hard to remove.'),
  },

  'first-flow-left': {
    text: ({ flow }) => `First-layer flow stands at ${flow} % of the overall flow.`,
    why: plain('Too much flow makes the base flare. A value like this is often left over from another job.'),
  },
  'flow-far': {
    text: ({ flow }) => `Overall flow is ${flow} %, but no wall has been measured.`,
    why: plain('Changing all of the flow hides a fault in one feature and throws off every dimension.'),
  },
  'feature-flow-far': {
    text: ({ settings, flows }) =>
      `${settings.map((k, i) => `${settingLabel(k)} ${flows[i]} %`).join(', ')}: far from 100 % without a test.`,
    why: plain('A few percent can fix one feature. More than that usually hides another problem.'),
  },
  'melt-cap-far': {
    text: ({ cap, usual }) =>
      `The melt rate cap is set to ${quantity(cap, 'mm³/s', 1)}. A hot end like this one usually melts about ${quantity(usual, 'mm³/s', 1)}.`,
    why: ({ believed }) =>
      `Until a melt-rate run shows more, speeds are held to ${quantity(believed, 'mm³/s', 1)}.`,
  },
  'over-melt-cap': {
    text: ({ setting, rate, cap }) =>
      `${settingLabel(setting)} would need ${quantity(rate, 'mm³/s', 1)}, but the hot end melts only ${quantity(cap, 'mm³/s', 1)}.`,
    why: plain('Fast lines come out too thin, layers are weak, and the extruder clicks.'),
  },

  'first-thicker-than-nozzle': {
    text: ({ height }) => `A first layer of ${quantity(height, 'mm')} is thicker than the nozzle is wide.`,
    why: plain('The plastic comes out as a round string and does not stick.'),
  },
  'first-height-far': {
    text: ({ residual }) => `The bed is uneven by ${quantity(residual, 'mm')}, half the first layer or more.`,
    why: plain('The nozzle scrapes on the high spots and hangs free over the low ones.'),
  },
  'first-thin': {
    text: ({ height, least }) =>
      `The first layer of ${quantity(height, 'mm')} is thinner than ${quantity(least, 'mm')}.`,
    why: ({ of }) =>
      of === 'nozzle'
        ? 'Under half the nozzle’s width, the nozzle scrapes over the bed and plastic cannot leave it.'
        : 'A first layer thinner than the others leaves no room for an uneven bed.',
  },
  'first-too-fast': {
    text: ({ speed }) => `The first layer runs at ${quantity(speed, 'mm/s')}.`,
    why: plain('Slow lines stick better, and it costs only a minute.'),
  },

  'retraction-beyond-drive': {
    text: ({ length, tubeLength }) =>
      `${quantity(length, 'mm')} of retraction ${tubeLength === null ? 'on a direct drive' : `on a ${quantity(tubeLength, 'mm')} tube`}.`,
    why: ({ most }) =>
      `More than ${quantity(most, 'mm', 1)} grinds the filament and leaves the next line too thin.`,
  },
  'retraction-short': {
    text: ({ length, usual }) =>
      `Retraction is ${quantity(length, 'mm')}, but this extruder usually needs ${quantity(usual, 'mm', 1)}.`,
    why: plain('Pressure stays in the nozzle and causes strings.'),
  },
  'soft-pulled-in-tube': {
    text: ({ family }) => `Retraction is on for ${familyName(family)} in a tube.`,
    why: plain('Soft filament folds and stretches instead of moving, and the feed stops mid-print.'),
  },
  'early-stop-long': {
    text: ({ volume }) =>
      `An early stop of ${quantity(volume, 'mm³', 3)} is more than twice the nozzle cubed.`,
    why: plain('Loops end in a notch.'),
  },

  'fan-on-shrinking': {
    text: ({ duty, family }) => `The fan runs at ${duty} % for ${familyName(family)}.`,
    why: plain('Cold air splits the layers and lifts the corners.'),
  },
  'fan-early': {
    text: plain('The fan runs from the very first layer.'),
    why: plain('Lines that cool at once do not stick to the bed.'),
  },
  'layer-time-swings': {
    text: ({ seconds, floor }) =>
      `A minimum layer time of ${quantity(seconds, 's')} with a floor of ${quantity(floor, 'mm/s')}.`,
    why: plain(
      'Some layers are slowed and their neighbours are not, and the change of speed shows as a band.',
    ),
  },
  'floor-low': {
    text: ({ speed }) => `Short layers may slow to ${quantity(speed, 'mm/s')}.`,
    why: plain('A change of speed this large shows in gloss and width.'),
  },

  'layer-too-thick': {
    text: ({ height }) => `A layer of ${quantity(height, 'mm')} is more than 75 % of the nozzle.`,
    why: plain('The line is no longer pressed onto the layer below.'),
  },
  'layer-off-step': {
    text: ({ height, step }) =>
      `A layer of ${quantity(height, 'mm')} is not a multiple of the full step of ${quantity(step, 'mm', 4)}.`,
    why: plain('Between full steps the screw holds less firmly, so layers come out uneven.'),
  },
  'line-narrow': {
    text: ({ settings, nozzle }) =>
      `${settingLabels(settings)}: narrower than the ${quantity(nozzle, 'mm')} nozzle.`,
    why: plain('The line is pulled thin, so its width is unpredictable.'),
  },
  'line-wide': {
    text: ({ settings, nozzle }) =>
      `${settingLabels(settings)}: over twice the ${quantity(nozzle, 'mm')} nozzle.`,
    why: plain('Hollows appear inside the line.'),
  },
  'seam-on-flexing': {
    text: ({ family, stacked }) =>
      `The seam of ${familyName(family)} is ${stacked ? 'stacked' : 'in one place'}.`,
    why: plain('A part that flexes can split along the seam.'),
  },

  'travel-slow': {
    text: ({ speed }) => `Travel moves at ${quantity(speed, 'mm/s')} leave time for strings to form.`,
    why: plain('The machine can go faster.'),
  },
  'speeds-apart': {
    text: ({ ratio }) => `Speeds differ ${quantity(ratio, '×', 1)} without pressure compensation.`,
    why: plain('Lines get thicker and thinner where the speed changes.'),
  },
  'outer-fastest': {
    text: plain('The outer wall is printed faster than the inner ones.'),
    why: plain('The outer wall is what people see, so it should be the slower one.'),
  },
  'over-label-speed': {
    text: ({ most }) => `The label allows ${quantity(most, 'mm/s')} at most.`,
    why: plain('Above that the maker guarantees nothing.'),
  },
  'held-at-limit': {
    text: ({ settings }) => `${settingLabels(settings)}: limited to what the machine can do.`,
    why: plain('This plastic would need more than the machine can do.'),
  },

  'brim-on-soft': {
    text: ({ lines, family }) => `A brim of ${lines} lines on ${familyName(family)}.`,
    why: plain('The brim sticks for good and cannot be trimmed cleanly.'),
  },
  'raft-on-soft': {
    text: ({ family }) => `A raft under ${familyName(family)}.`,
    why: plain('The raft sticks for good and will not come off.'),
  },
  'nothing-primes': {
    text: plain('No skirt, brim or raft primes the nozzle.'),
    why: plain('The start of the first line is missing.'),
  },
  'open-and-draughty': {
    text: ({ family }) => `${familyName(family)} on an open frame without a draught wall.`,
    why: plain('Moving air splits tall parts.'),
  },

  'contour-left': {
    text: ({ settings, offsets }) =>
      `${settings.map((k, i) => `${settingLabel(k)} ${quantity(offsets[i], 'mm', 3)}`).join(', ')} without a measured plate.`,
    why: plain(
      'An offset suits the roll it was measured on and is often left on by mistake for the next one.',
    ),
  },

  'wet-roll': {
    text: ({ family, days, bears }) =>
      days === null
        ? `Nobody knows how long this ${familyName(family)} has been open.`
        : `This roll has been open for ${days} days; ${familyName(family)} can take ${bears}.`,
    why: ({ temperature, hours }) =>
      `Dry it at ${quantity(temperature, '°C')} for ${quantity(hours, 'h')} first, because wet plastic hisses, strings and leaves pits.`,
  },
  'roll-too-light': {
    text: ({ part, needed, left }) =>
      `“${part}” needs ${quantity(needed, 'g', 0)}, and ${quantity(left, 'g', 0)} are left on the roll.`,
    why: ({ fits }) =>
      fits === 'no'
        ? 'Have a second roll ready to join mid-print, or print fewer.'
        : 'Scales and estimates can be off by that much.',
  },
}
