import { ASPECTS, type ReadinessState } from '../../casework/aspects'
import type { CaseReasons } from '../../casework/reasons'
import { cardOf } from '../../material/cards'
import { figure, quantity } from '../../quantity/format'
import type { Reason } from '../../quantity/reason'
import {
  listed,
  lower,
  pieceName,
  procedureName,
  settingLabel,
  settingText,
  signName,
  signNames,
  suspectName,
  valueText,
} from '../names'
import type { MeasuredKind } from '../../measurement/types'
import { plain, type Sentences } from './sentences'

/** What a kind of measurement is called. */
export const MEASURED_WORDS: Record<MeasuredKind, string> = {
  sizes: 'Sizes',
  bed: 'The bed',
  feed: 'Feed of 100 mm',
  purge: 'Weight of a purge',
  drying: 'Weight before and after drying',
  roll: 'Weight of the roll',
  diameter: 'Diameter of the filament',
  thread: 'A hanging thread',
  heater: 'Swing of a heater',
  bands: 'Bands',
  ripples: 'Ripples after corners',
}

/** How well one side of a pair is known, in words. */
export const READINESS_WORDS: Record<ReadinessState, string> = {
  untested: 'untested',
  'from-card': 'from card',
  narrowed: 'narrowed down',
  measured: 'measured',
  verified: 'verified',
  stale: 'stale',
}

/** @param say makes the sentence of a reason inside another one */
export const caseSentences = (say: (r: Reason) => string): Sentences<CaseReasons> => ({
  'setting-changed': ({ setting, from, to }) => `${settingText(setting, from)} → ${valueText(setting, to)}`,
  'procedure-done': ({ procedure }) => procedureName(procedure),
  'printed-anew': ({ departs }) =>
    `G-code file made again: ${listed(departs.map((d) => `${settingText(d.setting, d.file)} → ${valueText(d.setting, d.recipe)}`))}`,

  'derived-first': plain('Derived from card, label and machine.'),
  'derived-from-relative': plain('Derived from card, label, machine and the nearest tested recipe.'),
  'derived-anew': plain('Derived again from roll and machine.'),
  'started-from-relative': plain('Started from a tested relative.'),
  'set-by-hand': plain('Set by hand.'),
  'measured-by-hand': plain('Measured by hand.'),
  'as-asked': plain('As you chose.'),
  'back-to-version': ({ version }) => `Back to version ${version}.`,
  'from-file': ({ text }) => `From a file: ${text}`,
  'path-file-values': ({ file }) => `Copied from the G-code file ${file}.`,
  'taken-from-file': ({ reason }) => `Taken from a file: ${say(reason)}`,
  'attempt-on': ({ attempt, part, why }) => `Attempt ${attempt} on “${part}”: ${say(why)}`,
  'attempt-changes': ({ attempt, part, changes }) =>
    `“${part}”, attempt ${attempt}: ${changes.map(say).join('; ')}`,
  'attempt-taken-back': ({ attempt, part }) => `“${part}”: attempt ${attempt} taken back.`,
  'closed-back-to': ({ part, version }) => `“${part}” closed: back to version ${version}.`,
  'trial-found': ({ trial, piece, answer }) => `Trial ${trial}, ${lower(pieceName(piece))}: ${say(answer)}`,
  'measurement-found': ({ kind }) => `Measured: ${lower(MEASURED_WORDS[kind])}.`,
  'run-of-set': plain('One print of the planned set.'),

  'start-family': ({ family, nozzle, bed }) =>
    `${cardOf(family).name}: the nozzle is at ${quantity(nozzle, '°C', 0)}${bed === null ? '' : ` and the bed at ${quantity(bed, '°C', 0)}`}.`,
  'start-tube': ({ length }) =>
    `The file retracts ${quantity(length, 'mm', 1)}, which is usual for a guide tube.`,
  'start-direct': ({ length }) =>
    `The file retracts ${quantity(length, 'mm', 1)}, which is usual for a direct drive.`,
  'start-fast': ({ speed, acceleration }) =>
    acceleration >= 4000
      ? `The file sets an acceleration of ${quantity(acceleration, 'mm/s²', 0)}.`
      : `The file prints outer walls at ${quantity(speed, 'mm/s', 0)}.`,
  'start-nozzle': ({ nozzle, width }) =>
    `Lines ${quantity(width, 'mm', 2)} wide need a nozzle of ${quantity(nozzle, 'mm', 2)}.`,
  'start-too-hot': ({ place, asked, bears }) =>
    `The file sets the ${place} to ${quantity(asked, '°C', 0)}. The machine’s limit stays at ${quantity(bears, '°C', 0)}; raise it only if your machine can take more.`,

  'changed-untested': plain('Changed by hand, not tested since.'),
  'relative-unproven': plain('From a tested relative, unproven on this roll.'),
  'card-untried': plain('From the card and the label; not tried yet.'),
  'bed-measured': ({ residual, prints }) =>
    `The bed is even to ${quantity(residual, 'mm', 2)}${prints === null ? '' : `, ${prints} prints ago`}.`,
  'bed-long-ago': ({ prints }) => `The bed was last measured ${prints} prints ago.`,
  'known-within': ({ setting, plusMinus }) =>
    `${settingLabel(setting)} is known to within ± ${valueText(setting, plusMinus)}. Measure the extruder steps and the filament diameter to know it better.`,
  'feed-measured': plain(
    'You have measured the extruder steps and the filament diameter, so a test print would add nothing.',
  ),
  'bed-not-measured': plain('The bed has not been measured yet.'),
  'start-untried': plain('Still at its starting value; not tried yet.'),
  'nozzle-changed-since': plain('The nozzle has been changed since then.'),
  'tested-days-ago': ({ days }) => `Tested ${days} days ago; the roll has aged since.`,
  'another-roll-since': plain('Another roll has been opened since then.'),
  'closed-with-it': ({ on }) =>
    `A case was closed with these values${on === null ? '' : ` on ${on}`} because the fault went away.`,
  'aspect-chance': ({ aspect, state, chance }) =>
    `${ASPECTS[aspect].label} is ${READINESS_WORDS[state]}. The chance that something is wrong there is ${chance} in 100.`,

  'runs-left': ({ left, of }) => `${left} of ${of} prints are still to be graded.`,
  'no-effects': plain('The grades do not show which setting made a difference.'),
  'set-lead': ({ suspect, sign }) =>
    `The cause is ${lower(suspectName(suspect))}. Changing it on its own does the most against ${lower(signName(sign))}.`,
  'none-stands-out': plain(
    'None of them stands out. It may take two together, or the cause is something else.',
  ),
  'factor-effect': ({ setting, from, to, effect }) =>
    `${settingText(setting, from)} → ${valueText(setting, to)}: ${effect >= 0 ? '+' : '−'}${figure(Math.abs(effect), 1)} steps.`,

  'case-cured': ({ suspects, changes, signs, outcome }) =>
    `${listed(suspects.map(suspectName), 'or')}: ${changes.map(say).join(' and ')} made ${signNames(signs) || 'it'} ${outcome === 'gone' ? 'go away' : 'better'}.`,
  'changed-nothing': ({ changes, worse }) =>
    `${changes.map(say).join(' and ')} changed nothing${worse ? ' for the better' : ''}.`,
  'no-cure-found': ({ part }) => `No cure was found for “${part}”.`,
  'closed-without-attempt': plain('Closed without an attempt.'),
  'signs-left': ({ signs }) => `Still there: ${signNames(signs)}.`,
})
