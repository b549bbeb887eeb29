import { duration, figure, quantity } from '../../quantity/format'
import type { FindingReasons } from '../../diagnosis/evidence/findings'
import { FEATURE_NAMES } from '../../toolpath/features'
import { capital, heightsText } from '../names'
import { plain, type Statements } from './sentences'

const times = (n: number) => (n === 1 ? 'once' : `${n} times`)

/** What each finding of a path file says: what the file does, and why it matters. */
export const FINDING_STATEMENTS: Statements<FindingReasons> = {
  'first-fast': {
    text: ({ speed }) => `The first layer runs at ${quantity(speed, 'mm/s', 0)}.`,
    why: plain('Lines printed fast do not stick.'),
  },
  'first-calm': {
    text: ({ speed }) => `The first layer is printed at a calm ${quantity(speed, 'mm/s', 0)}.`,
    why: plain('If the first layer does not stick, its speed is not the reason.'),
  },
  'first-thin': {
    text: ({ height, residual }) =>
      `The first layer is ${quantity(height, 'mm', 2)} thin${residual === null ? '' : ` over ${quantity(residual, 'mm', 2)} of unevenness`}.`,
    why: plain('High spots scrape, low spots hang free.'),
  },
  'first-narrow': {
    text: ({ width }) => `First-layer lines are ${quantity(width, 'mm', 2)} wide, no wider than the nozzle.`,
    why: plain('Narrow lines have little contact with each other and with the bed.'),
  },
  'first-wide': {
    text: ({ width, share }) =>
      `First-layer lines are ${quantity(width, 'mm', 2)} wide, ${figure(share, 0)} % of the nozzle.`,
    why: plain('Thin features cannot be printed with lines this wide.'),
  },
  'first-overfed': {
    text: ({ flow }) => `First-layer flow is ${quantity(flow, '%', 0)} of what the layer needs.`,
    why: plain('The excess is pressed outwards and flares the base.'),
  },
  'first-underfed': {
    text: ({ flow }) => `First-layer flow is only ${quantity(flow, '%', 0)} of what the layer needs.`,
    why: plain('The lines do not touch each other.'),
  },
  'first-gaps': {
    text: ({ share }) => `${quantity(share, '%', 0)} of the base is left open between the lines.`,
    why: plain('These gaps come from the file, so the bed is not to blame.'),
  },
  'no-priming': {
    text: plain('Nothing primes the nozzle: no skirt, brim or purge line.'),
    why: plain('The start of the first line comes out empty.'),
  },
  primed: {
    text: plain('The nozzle is primed before the part begins.'),
    why: plain('The first line starts full.'),
  },
  'contact-tiny': {
    text: ({ contact, height }) =>
      `Only ${quantity(contact, 'mm²', 0)} on the bed hold a print ${quantity(height, 'mm', 0)} tall.`,
    why: plain('A knock of the nozzle is enough to tip it.'),
  },
  'islands-quick': {
    text: ({ islands, smallest }) =>
      `${islands} islands, the smallest ${quantity(smallest, 'mm²', 0)}, and only the first layer is slow.`,
    why: plain('Small pieces come loose when the next layers are printed fast.'),
  },
  'raft-there': {
    text: ({ layers }) => `The part stands on a raft of ${layers} layers.`,
    why: plain('An uneven bed no longer matters, but the underside is rough.'),
  },

  'fan-early': {
    text: ({ duty }) => `The fan blows at ${quantity(duty, '%', 0)} on the first two layers.`,
    why: plain('Lines that cool too early come off the bed.'),
  },
  'fan-late': {
    text: plain('The fan is off while the base is printed.'),
    why: plain('The fan does not lift the base.'),
  },
  'fan-steps': {
    text: ({ before, after, z }) =>
      `The fan goes from ${figure(before, 0)} to ${quantity(after, '%', 0)} at ${quantity(z, 'mm', 1)}.`,
    why: plain('Gloss changes where cooling does.'),
  },
  'heat-steps': {
    text: ({ before, after, z }) =>
      `The nozzle goes from ${figure(before, 0)} to ${quantity(after, '°C', 0)} at ${quantity(z, 'mm', 1)}.`,
    why: plain('Gloss and bond change at that height.'),
  },
  'layers-too-quick': {
    text: ({ seconds, needed, from, to }) =>
      `Layers take only ${quantity(seconds, 's', 1)} at ${heightsText(from, to)}; a line needs ${quantity(needed, 's', 1)} to set.`,
    why: plain('The next layer presses into soft plastic.'),
  },
  'layers-cool': {
    text: ({ needed }) =>
      `Every layer takes longer than the ${quantity(needed, 's', 1)} that a line needs to set.`,
    why: plain('Layers are not printed too quickly.'),
  },

  'slow-down-swings': {
    text: ({ top, least, from, to, more, held }) =>
      `Outer walls drop from ${figure(top, 0)} to ${quantity(least, 'mm/s', 0)} at ${heightsText(from, to)}${more > 0 ? ` and in ${more} more places` : ''}${held == null ? '' : `, so that these layers take ${quantity(held, 's', 1)}`}.`,
    why: ({ held }) =>
      `A change of speed shows as a band in gloss and width.${held == null ? '' : ' Here the minimum layer time causes it.'}`,
  },
  'speed-even': {
    text: ({ speed }) => `Outer walls keep ${quantity(speed, 'mm/s', 0)} on every layer.`,
    why: plain('Slowed layers are not what causes bands.'),
  },
  'outer-fastest': {
    text: ({ outer, inner }) =>
      `Outer walls are set to ${quantity(outer, 'mm/s', 0)}, inner walls to ${quantity(inner, 'mm/s', 0)}.`,
    why: plain('The outer wall is what people see, so it should be the slower one.'),
  },
  'outer-over-card': {
    text: ({ speed, card }) =>
      `Outer walls run at ${quantity(speed, 'mm/s', 0)}; the card gives a good surface at ${quantity(card, 'mm/s', 0)}.`,
    why: plain('Faster walls go dull and ring.'),
  },
  'speeds-apart': {
    text: ({ ratio }) =>
      `The fastest lines are ${quantity(ratio, '×', 1)} as fast as the slowest, without pressure compensation.`,
    why: plain('Lines get thicker and thinner where the speed changes.'),
  },
  unreachable: {
    text: ({ asked, reached }) =>
      `Outer walls are set to ${quantity(asked, 'mm/s', 0)} but average only ${quantity(reached, 'mm/s', 0)}.`,
    why: plain('Acceleration and corners hold the machine back, so a higher speed changes nothing.'),
  },
  'bridges-quick': {
    text: ({ speed }) => `Bridges are printed at ${quantity(speed, 'mm/s', 0)}, faster than the outer wall.`,
    why: plain('Bridges hold best at half the speed of the outer wall or slower.'),
  },

  'over-melt-cap': {
    text: ({ feature, rate, cap }) =>
      `${feature === null ? 'The print' : capital(FEATURE_NAMES[feature])} needs ${quantity(rate, 'mm³/s', 1)}, but the hot end can melt only ${quantity(cap, 'mm³/s', 1)}.`,
    why: plain('Lines come out too thin where the machine moves fastest.'),
  },
  'under-melt-cap': {
    text: ({ rate, cap }) =>
      `The file needs at most ${quantity(rate, 'mm³/s', 1)} of the ${quantity(cap, 'mm³/s', 1)} that the hot end can melt.`,
    why: plain('The hot end can keep up.'),
  },
  'outer-fed-off': {
    text: ({ outer, inner }) =>
      `Outer walls are ${quantity(outer, 'mm', 2)} wide, inner walls ${quantity(inner, 'mm', 2)}.`,
    why: plain('Either this is intended, or the flow of one of them is wrong.'),
  },
  'walls-thin': {
    text: ({ width, nozzle }) =>
      `Outer walls get enough plastic for only ${quantity(width, 'mm', 2)} from a ${quantity(nozzle, 'mm', 2)} nozzle.`,
    why: plain('Lines are pulled thin and separate from each other.'),
  },
  'more-than-roll': {
    text: ({ needed, left, z }) =>
      `The print needs ${quantity(needed, 'g', 0)}, but only ${quantity(left, 'g', 0)} are on the roll. The roll runs out at a height of about ${quantity(z, 'mm', 1)}.`,
    why: plain('Have a second roll ready to join mid-print.'),
  },

  'open-air-drag': {
    text: ({ without, all, longest }) =>
      `${without} of ${all} travel moves over open air have no retraction; the longest is ${quantity(longest, 'mm', 0)}.`,
    why: plain('The nozzle drips on the way and leaves a string.'),
  },
  'open-air-clean': {
    text: ({ all }) => `All ${all} travel moves over open air have retraction.`,
    why: plain('Missing retraction is not the cause.'),
  },
  'travel-slow': {
    text: ({ speed }) => `Travel moves run at ${quantity(speed, 'mm/s', 0)}.`,
    why: plain('Slow travel moves leave more time to ooze.'),
  },
  'over-pulled': {
    text: ({ passes, z }) =>
      `Near ${quantity(z, 'mm', 1)} the same piece of filament is pulled back through the extruder gear ${passes} times.`,
    why: plain('The gear grinds a notch into the filament and slips.'),
  },
  'pulls-few': {
    text: ({ passes }) => `No piece of filament is pulled back more than ${passes} times.`,
    why: plain('The gear does not grind the filament.'),
  },
  'restart-off': {
    text: ({ extra }) =>
      `Paths restart with ${quantity(extra, 'mm', 2)} ${extra > 0 ? 'more' : 'less'} than was pulled back.`,
    why: ({ extra }) =>
      extra > 0 ? 'Every start leaves a small blob.' : 'Every start comes out a little thin.',
  },

  'seam-stacked': {
    text: ({ share, corner }) =>
      `${quantity(share, '%', 0)} of the loops start right above the one below${corner === null ? '' : corner === 'outward' ? ', on an outward corner' : ', in an inward corner'}.`,
    why: plain('The ends form one line, which is a weak line on a part that flexes.'),
  },
  'seam-scattered': {
    text: plain('Loops start all around the part.'),
    why: plain('Each end leaves a bump of its own unless oozing is under control.'),
  },
  'ends-untreated': {
    text: plain('Outlines end without wipe, early stop or pressure compensation.'),
    why: plain('The pressure left in the nozzle pushes plastic out where the loop closes.'),
  },
  'ends-treated': {
    text: ({ early, wipe }) =>
      `Outlines end with ${[
        early === null ? '' : `an early stop of ${quantity(early, 'mm', 2)}`,
        wipe === null ? '' : `a wipe of ${quantity(wipe, 'mm', 2)}`,
      ]
        .filter(Boolean)
        .join(' and ')}.`,
    why: plain('The pressure drops before the loop closes.'),
  },
  'early-stop-long': {
    text: ({ early }) => `Extrusion stops ${quantity(early, 'mm', 2)} before outlines close.`,
    why: plain('Stopping that early leaves a notch.'),
  },

  'stops-over-part': {
    text: ({ times: n, seconds }) =>
      `The head stands still over the part ${times(n)}, up to ${duration(seconds)}.`,
    why: plain('Heat and drips damage soft walls and leave blobs.'),
  },
  'no-stops-over-part': {
    text: plain('The head never stands still over the part.'),
    why: plain('No pause marks the part.'),
  },
  'pauses-there': {
    text: ({ times: n }) => `The file pauses the machine ${times(n)}.`,
    why: plain('Whether a pause marks the part depends on where the head waits.'),
  },
  'off-full-step': {
    text: ({ height, step }) =>
      `Layers of ${quantity(height, 'mm', 3)} are not a multiple of the screw’s full step of ${quantity(step, 'mm', 4)}.`,
    why: plain('Between full steps the screw holds less firmly.'),
  },
  'on-full-step': {
    text: ({ height }) => `Layers of ${quantity(height, 'mm', 2)} land on full steps of the screw.`,
    why: plain('The layer height does not cause bands.'),
  },
  'heights-vary': {
    text: ({ least, most }) => `Layer heights vary from ${figure(least, 2)} to ${quantity(most, 'mm', 2)}.`,
    why: plain('The bands where the layer height changes come from the file. They are not a fault.'),
  },
  'steep-overhang': {
    text: ({ length, z }) =>
      `${quantity(length, 'mm', 0)} of outer wall have nothing below them at ${quantity(z, 'mm', 1)}.`,
    why: plain('Walls that lean more than 45° sag without support.'),
  },
  'support-there': {
    text: ({ length }) => `The file has ${quantity(length / 1000, 'm', 1)} of support lines.`,
    why: plain('Supports leave marks where they touch the part.'),
  },
}
