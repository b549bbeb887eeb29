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
    why: plain('Lines that are drawn fast do not take hold.'),
  },
  'first-calm': {
    text: ({ speed }) => `The first layer is laid at a calm ${quantity(speed, 'mm/s', 0)}.`,
    why: plain('Speed is not what keeps it from sticking.'),
  },
  'first-thin': {
    text: ({ height, residual }) =>
      `The first layer is ${quantity(height, 'mm', 2)} thin${residual === null ? '' : ` over ${quantity(residual, 'mm', 2)} of unevenness`}.`,
    why: plain('High spots scrape, low spots hang free.'),
  },
  'first-narrow': {
    text: ({ width }) => `First-layer lines are ${quantity(width, 'mm', 2)} wide, no wider than the nozzle.`,
    why: plain('Narrow lines touch each other and the bed with little.'),
  },
  'first-wide': {
    text: ({ width, share }) =>
      `First-layer lines are ${quantity(width, 'mm', 2)} wide, ${figure(share, 0)} % of the nozzle.`,
    why: plain('Thin features cannot be drawn with them.'),
  },
  'first-overfed': {
    text: ({ flow }) => `The first layer is fed ${quantity(flow, '%', 0)} of what fills it.`,
    why: plain('The excess is pressed outwards and flares the base.'),
  },
  'first-underfed': {
    text: ({ flow }) => `The first layer is fed only ${quantity(flow, '%', 0)} of what fills it.`,
    why: plain('Lines stand apart.'),
  },
  'first-gaps': {
    text: ({ share }) => `${quantity(share, '%', 0)} of the base is left open between the lines.`,
    why: plain('It is drawn that way: the bed is not to blame for these gaps.'),
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
      `${quantity(contact, 'mm²', 0)} on the bed carry a print ${quantity(height, 'mm', 0)} tall.`,
    why: plain('A knock of the nozzle is enough to tip it.'),
  },
  'islands-quick': {
    text: ({ islands, smallest }) =>
      `${islands} islands, the smallest ${quantity(smallest, 'mm²', 0)}, and only the first layer is slow.`,
    why: plain('Small pieces let go when the next layers are drawn fast.'),
  },
  'raft-there': {
    text: ({ layers }) => `The part stands on a raft of ${layers} layers.`,
    why: plain('The bed’s unevenness is out of the picture; the underside is rough.'),
  },

  'fan-early': {
    text: ({ duty }) => `The fan blows at ${quantity(duty, '%', 0)} on the first two layers.`,
    why: plain('Chilled lines let go of the bed.'),
  },
  'fan-late': {
    text: plain('The fan is off while the base is laid.'),
    why: plain('Moving air does not lift it.'),
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
      `Layers take only ${quantity(seconds, 's', 1)} at ${heightsText(from, to)}; a bead needs ${quantity(needed, 's', 1)} to set.`,
    why: plain('The next layer presses into soft plastic.'),
  },
  'layers-cool': {
    text: ({ needed }) =>
      `Every layer takes longer than the ${quantity(needed, 's', 1)} a bead needs to set.`,
    why: plain('Layers are not laid too quickly.'),
  },

  'slow-down-swings': {
    text: ({ top, least, from, to, more, held }) =>
      `Outer walls drop from ${figure(top, 0)} to ${quantity(least, 'mm/s', 0)} at ${heightsText(from, to)}${more > 0 ? ` and in ${more} more places` : ''}${held == null ? '' : `; these layers are brought to ${quantity(held, 's', 1)}`}.`,
    why: ({ held }) =>
      `A change of speed shows as a band in gloss and width${held == null ? '' : ': here the minimum layer time makes it'}.`,
  },
  'speed-even': {
    text: ({ speed }) => `Outer walls keep ${quantity(speed, 'mm/s', 0)} on every layer.`,
    why: plain('Bands do not come from the slow-down.'),
  },
  'outer-fastest': {
    text: ({ outer, inner }) =>
      `Outer walls are asked at ${quantity(outer, 'mm/s', 0)}, inner ones at ${quantity(inner, 'mm/s', 0)}.`,
    why: plain('The face is what people see; it wants the slower speed.'),
  },
  'outer-over-card': {
    text: ({ speed, card }) =>
      `Outer walls run at ${quantity(speed, 'mm/s', 0)}; the card shows a good face at ${quantity(card, 'mm/s', 0)}.`,
    why: plain('Faster walls go dull and ring.'),
  },
  'speeds-apart': {
    text: ({ ratio }) =>
      `The fastest lines are laid ${quantity(ratio, '×', 1)} as fast as the slowest, without pressure compensation.`,
    why: plain('The bead swells and starves where speeds meet.'),
  },
  unreachable: {
    text: ({ asked, reached }) =>
      `Outer walls are asked at ${quantity(asked, 'mm/s', 0)} but average ${quantity(reached, 'mm/s', 0)}.`,
    why: plain('Acceleration and corners hold the machine back; asking for more changes nothing.'),
  },
  'bridges-quick': {
    text: ({ speed }) => `Bridges are laid at ${quantity(speed, 'mm/s', 0)}, faster than the outer wall.`,
    why: plain('Half the outer speed or slower holds a bridge.'),
  },

  'over-melt-cap': {
    text: ({ feature, rate, cap }) =>
      `${feature === null ? 'The print' : capital(FEATURE_NAMES[feature])}: ${quantity(rate, 'mm³/s', 1)} asked; the hot end melts ${quantity(cap, 'mm³/s', 1)}.`,
    why: plain('Lines come out starved where it moves fastest.'),
  },
  'under-melt-cap': {
    text: ({ rate, cap }) =>
      `At most ${quantity(rate, 'mm³/s', 1)} of the ${quantity(cap, 'mm³/s', 1)} the hot end melts.`,
    why: plain('It is not asked for too much.'),
  },
  'outer-fed-off': {
    text: ({ outer, inner }) =>
      `Outer walls are laid ${quantity(outer, 'mm', 2)} wide, inner ones ${quantity(inner, 'mm', 2)}.`,
    why: plain('Either it is meant, or the flow of one of them is off.'),
  },
  'walls-thin': {
    text: ({ width, nozzle }) =>
      `Outer walls are fed for ${quantity(width, 'mm', 2)} from a ${quantity(nozzle, 'mm', 2)} nozzle.`,
    why: plain('Beads are pulled thin and part from each other.'),
  },
  'more-than-roll': {
    text: ({ needed, left, z }) =>
      `The print takes ${quantity(needed, 'g', 0)}; ${quantity(left, 'g', 0)} are on the roll. It runs out at about ${quantity(z, 'mm', 1)}.`,
    why: plain('Have a second roll ready to join mid-print.'),
  },

  'open-air-drag': {
    text: ({ without, all, longest }) =>
      `${without} of ${all} crossings through the air go without a pull-back, the longest ${quantity(longest, 'mm', 0)}.`,
    why: plain('The nozzle drips on the way and draws a string.'),
  },
  'open-air-clean': {
    text: ({ all }) => `All ${all} crossings through the air are made with a pull-back.`,
    why: plain('Retraction is carried out.'),
  },
  'travel-slow': {
    text: ({ speed }) => `Travels run at ${quantity(speed, 'mm/s', 0)}.`,
    why: plain('Slow travels give ooze time.'),
  },
  'over-pulled': {
    text: ({ passes, z }) =>
      `The same filament passes the drive gear ${passes} times backwards near ${quantity(z, 'mm', 1)}.`,
    why: plain('The gear grinds a notch into it and slips.'),
  },
  'pulls-few': {
    text: ({ passes }) => `No stretch of filament is pulled back more than ${passes} times.`,
    why: plain('The gear does not grind it.'),
  },
  'restart-off': {
    text: ({ extra }) =>
      `Paths restart with ${quantity(extra, 'mm', 2)} ${extra > 0 ? 'more' : 'less'} than was pulled back.`,
    why: ({ extra }) => (extra > 0 ? 'Every start is a small blob.' : 'Every start is a little empty.'),
  },

  'seam-stacked': {
    text: ({ share, corner }) =>
      `${quantity(share, '%', 0)} of the loops start right above the one below${corner === null ? '' : corner === 'outward' ? ', on an outward corner' : ', in an inward corner'}.`,
    why: plain('All their ends make one line, and a line of weakness on a part that flexes.'),
  },
  'seam-scattered': {
    text: plain('Loops start all around the part.'),
    why: plain('Each end is a bump of its own where ooze is not under control.'),
  },
  'ends-untreated': {
    text: plain('Outlines end without wipe, early stop or pressure compensation.'),
    why: plain('What is under pressure in the nozzle comes out where the loop closes.'),
  },
  'ends-treated': {
    text: ({ early, wipe }) =>
      `Outlines end with ${[
        early === null ? '' : `an early stop of ${quantity(early, 'mm', 2)}`,
        wipe === null ? '' : `a wipe of ${quantity(wipe, 'mm', 2)}`,
      ]
        .filter(Boolean)
        .join(' and ')}.`,
    why: plain('The pressure is let off before the loop closes.'),
  },
  'early-stop-long': {
    text: ({ early }) => `Feed stops ${quantity(early, 'mm', 2)} before outlines close.`,
    why: plain('So long a stop leaves a notch.'),
  },

  'stops-over-part': {
    text: ({ times: n, seconds }) =>
      `The head stands still over the part ${times(n)}, up to ${duration(seconds)}.`,
    why: plain('Heat and drips tear soft walls and leave blobs.'),
  },
  'no-stops-over-part': {
    text: plain('The head never stands still over the part.'),
    why: plain('No pause leaves its mark.'),
  },
  'pauses-there': {
    text: ({ times: n }) => `The file pauses the machine ${times(n)}.`,
    why: plain('Where the head waits decides whether the part is marked.'),
  },
  'off-full-step': {
    text: ({ height, step }) =>
      `Layers of ${quantity(height, 'mm', 3)} are no multiple of the screw’s full step of ${quantity(step, 'mm', 4)}.`,
    why: plain('Between full steps the screw holds less firmly.'),
  },
  'on-full-step': {
    text: ({ height }) => `Layers of ${quantity(height, 'mm', 2)} land on full steps of the screw.`,
    why: plain('The layer height does not make bands.'),
  },
  'heights-vary': {
    text: ({ least, most }) => `Layer heights vary from ${figure(least, 2)} to ${quantity(most, 'mm', 2)}.`,
    why: plain('Bands where they change are drawn, not faults.'),
  },
  'steep-overhang': {
    text: ({ length, z }) =>
      `${quantity(length, 'mm', 0)} of outer wall hang over nothing at ${quantity(z, 'mm', 1)}.`,
    why: plain('Past 45° walls sag without support.'),
  },
  'support-there': {
    text: ({ length }) => `${quantity(length / 1000, 'm', 1)} of support lines.`,
    why: plain('They leave scars where they touch.'),
  },
}
