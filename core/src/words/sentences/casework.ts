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
  measured: 'measured',
  verified: 'verified',
  stale: 'stale',
}

/** @param say makes the sentence of a reason inside another one */
export const caseSentences = (say: (r: Reason) => string): Sentences<CaseReasons> => ({
  'setting-changed': ({ setting, from, to }) => `${settingText(setting, from)} → ${valueText(setting, to)}`,
  'procedure-done': ({ procedure }) => procedureName(procedure),
  'printed-anew': ({ departs }) =>
    `Path file anew: ${listed(departs.map((d) => `${settingText(d.setting, d.file)} → ${valueText(d.setting, d.recipe)}`))}`,

  'derived-first': plain('Derived from card, label and machine.'),
  'derived-from-relative': plain('Derived from card, label, machine and the nearest tested recipe.'),
  'derived-anew': plain('Derived anew from roll and machine.'),
  'started-from-relative': plain('Started from a tested relative.'),
  'set-by-hand': plain('Set by hand.'),
  'measured-by-hand': plain('Measured by hand.'),
  'as-asked': plain('As asked.'),
  'back-to-version': ({ version }) => `Back to version ${version}.`,
  'from-file': ({ text }) => `From a file: ${text}`,
  'path-file-values': ({ file }) => `As the path file ${file} has it.`,
  'taken-from-file': ({ reason }) => `Taken from a file: ${say(reason)}`,
  'attempt-on': ({ attempt, part, why }) => `Attempt ${attempt} on “${part}”: ${say(why)}`,
  'attempt-changes': ({ attempt, part, changes }) =>
    `“${part}”, attempt ${attempt}: ${changes.map(say).join('; ')}`,
  'attempt-taken-back': ({ attempt, part }) => `“${part}”: attempt ${attempt} taken back.`,
  'closed-back-to': ({ part, version }) => `“${part}” closed: back to version ${version}.`,
  'trial-found': ({ trial, piece, answer }) => `Trial ${trial}, ${lower(pieceName(piece))}: ${say(answer)}`,
  'measurement-found': ({ kind }) => `Measured: ${lower(MEASURED_WORDS[kind])}.`,
  'run-of-set': plain('Of the set.'),

  'start-family': ({ family, nozzle, bed }) =>
    `${cardOf(family).name}: the nozzle is at ${quantity(nozzle, '°C', 0)}${bed === null ? '' : ` and the bed at ${quantity(bed, '°C', 0)}`}.`,
  'start-tube': ({ length }) => `It pulls back ${quantity(length, 'mm', 1)}, as through a tube.`,
  'start-direct': ({ length }) => `It pulls back ${quantity(length, 'mm', 1)}, as a drive on the head.`,
  'start-fast': ({ speed, acceleration }) =>
    acceleration >= 4000
      ? `It is asked for ${quantity(acceleration, 'mm/s²', 0)}.`
      : `Outer walls are asked for at ${quantity(speed, 'mm/s', 0)}.`,
  'start-nozzle': ({ nozzle, width }) =>
    `Lines ${quantity(width, 'mm', 2)} wide want a nozzle of ${quantity(nozzle, 'mm', 2)}.`,
  'start-too-hot': ({ place, asked, bears }) =>
    `The file asks for a ${place} at ${quantity(asked, '°C', 0)}. The machine’s limit is left at ${quantity(bears, '°C', 0)}: raise it only if yours bears more.`,

  'changed-untested': plain('Changed by hand, not tested since.'),
  'relative-unproven': plain('From a tested relative, unproven on this roll.'),
  'card-untried': plain('From card and label; nothing was tried.'),
  'bed-measured': ({ residual, prints }) =>
    `Even to ${quantity(residual, 'mm', 2)}${prints === null ? '' : `, ${prints} prints ago`}.`,
  'bed-long-ago': ({ prints }) => `Measured ${prints} prints ago.`,
  'feed-measured': plain('The drive’s steps and the roll’s diameter are measured; no print tells more.'),
  'bed-not-measured': plain('Nobody has measured how even it is.'),
  'start-untried': plain('At its starting value; nothing was tried.'),
  'nozzle-changed-since': plain('The nozzle was changed since.'),
  'tested-days-ago': ({ days }) => `Tested ${days} days ago; the roll has aged since.`,
  'another-roll-since': plain('Another roll was opened since.'),
  'closed-with-it': ({ on }) =>
    `A case was closed with it${on === null ? '' : ` on ${on}`}: the fault went away.`,
  'aspect-chance': ({ aspect, state, chance }) =>
    `${ASPECTS[aspect].label} is ${READINESS_WORDS[state]}; chances are ${chance} in 100 that something is off there.`,

  'runs-left': ({ left, of }) => `${left} of ${of} prints are still to be graded.`,
  'no-effects': plain('These grades give no effects.'),
  'set-lead': ({ suspect, sign }) =>
    `${suspectName(suspect)} it is: changing it alone does the most against ${lower(signName(sign))}.`,
  'none-stands-out': plain('None of them stands out: it may take two together, or it is something else.'),
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
