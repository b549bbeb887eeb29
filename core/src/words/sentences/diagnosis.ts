import type { FindingReasons } from '../../diagnosis/evidence/findings'
import type { AttemptOutcome, DiagnosisReasons, Strayed } from '../../diagnosis/reasons'
import { suspectOf } from '../../knowledge/suspects'
import { figure, quantity } from '../../quantity/format'
import type { Reason } from '../../quantity/reason'
import {
  bareText,
  factText,
  listed,
  lookName,
  lower,
  settingLabel,
  settingText,
  signName,
  signNames,
  suspectName,
  valueText,
} from '../names'
import { FINDING_STATEMENTS } from './findings'
import { LINT_STATEMENTS } from './lint'
import { plain, type Sentences } from './sentences'

/** What came of an attempt, in words. */
/** A value of a file that was hardly meant, and what the roll allows. */
function strayText({ setting, file, outside }: Strayed): string {
  if (typeof file !== 'number') return lower(settingText(setting, file))
  const label = lower(settingLabel(setting))
  // lines and layers are counted: their label says what
  if (!outside) return `${label} at ${bareText(setting, file)}`
  const { min, max, of } = outside
  return `${label} at ${valueText(setting, file)}, but the ${of === 'label' ? 'label' : 'plastic'} allows ${min > 0 ? `${figure(min, 0)}–` : 'at most '}${quantity(max, '°C', 0)}`
}

export const OUTCOME_WORDS: Record<AttemptOutcome, string> = {
  gone: 'gone',
  better: 'better',
  same: 'no change',
  worse: 'worse',
}
const HERE = { pair: 'this pair', machine: 'this machine', family: 'this family' }
const ANSWERS = {
  there: 'If it is there',
  'not-there': 'If it is not',
  found: 'If it is found',
  'not-found': 'If not',
}
const LIMITED_BY = {
  machine: 'the machine cannot go further',
  range: 'the label or the card does not allow more',
  setting: 'no further step is possible',
}
const quoted = (suspects: DiagnosisReasons['each-by-its-own']['suspects']) =>
  listed(suspects.map((id) => `“${suspectName(id)}”`))

/** @param say makes the sentence of a reason inside another one */
export const diagnosisSentences = (say: (r: Reason) => string): Sentences<DiagnosisReasons> => ({
  'context-rule': ({ suspect, rule, value }) => {
    const found = suspectOf(suspect).context[rule]
    return found ? found.words.replace('{value}', factText(found.fact, value)) : ''
  },
  'sign-seen': ({ sign }) => `“${signName(sign)}” was seen.`,
  'sign-explained-better': ({ sign }) =>
    `“${signName(sign)}” was seen, but other suspects explain it better.`,
  'sign-absent': ({ sign }) => `“${signName(sign)}” was not seen.`,
  'others-not-marked': plain('Other signs that it usually causes were not marked.'),
  'sign-against': ({ sign }) => `“${signName(sign)}” was seen, which is the opposite.`,
  'attempt-outcome': ({ attempt, outcome }) =>
    `Attempt ${attempt} targeted this suspect: ${OUTCOME_WORDS[outcome]}.`,
  'other-way-was-worse': ({ attempt, setting }) =>
    `Attempt ${attempt} moved ${lower(settingLabel(setting))} the other way and made it worse.`,
  'path-finding': ({ finding }) => findingText(finding),
  'marked-heights': ({ match }) => `Marked on the part: ${say(match)}`,
  'look-found': ({ look, found }) => `${lookName(look)}: ${found ? 'it is so' : 'it is not so'}.`,
  'found-elsewhere': ({ look, found }) =>
    `${lookName(look)}, on another part: ${found ? 'it was so there' : 'it was not so there'}.`,
  'cause-before': ({ cases, of, scope }) =>
    `This was the cause in ${cases} of ${of} closed ${of === 1 ? 'case that counts' : 'cases that count'} here, on ${HERE[scope]}.`,

  'mend-helps': ({ suspect, mend }) => suspectOf(suspect).mends[mend]?.why ?? '',
  'recipe-has-it': ({ setting, value, why }) =>
    `The recipe already has ${settingText(setting, value)}; the path file does not. ${say(why)}`,
  'print-recipe': ({ departs }) =>
    `The file was not made from this recipe: ${listed(
      departs.map(
        (d) =>
          `${lower(settingLabel(d.setting))} ${valueText(d.setting, d.file)} instead of ${valueText(d.setting, d.recipe)}`,
      ),
    )}. Print the recipe’s values first.`,
  'strays-in-file': ({ strays, departs }) =>
    `The file that was printed has ${listed(strays.map(strayText))}. That looks left over from another job.${
      departs.length
        ? ` It also has ${listed(
            departs.map(
              (d) =>
                `${lower(settingLabel(d.setting))} ${valueText(d.setting, d.file)} instead of ${valueText(d.setting, d.recipe)}`,
            ),
          )}.`
        : ''
    } Print the part with the recipe’s values before you look for a fault in the machine.`,
  'nothing-left-but': ({ look }) =>
    `No setting can go any further for this. ${lookName(look)} shows what to do next.`,
  'step-failed': ({ look }) => `One step was not enough. ${lookName(look)} will find the value.`,
  'nothing-left': ({ suspect }) =>
    `No setting can go any further for ${lower(suspectName(suspect))}. Look through the file’s values.`,
  'not-in-force': ({ setting, hangsOn }) =>
    `${settingLabel(setting)} has no effect${hangsOn ? ` because ${lower(settingLabel(hangsOn))} is off` : ' on this machine'}.`,
  'at-limit': ({ setting, value, by }) =>
    `${settingLabel(setting)} stays at ${valueText(setting, value)} because ${LIMITED_BY[by]}.`,
  'breaks-rule': ({ setting, to, rule }) => `${settingText(setting, to)} is left out: ${lintText(rule)}`,
  'no-corner': plain(
    'This part is round, so there is no corner to hide the seam in. Turn the seam to one side instead.',
  ),
  'moves-size-off': ({ setting, to, sign }) =>
    `${settingText(setting, to)} is left out because it would move a size further off: ${lower(signName(sign))}.`,
  worsens: ({ signs }) => `This change can make these worse: ${signNames(signs)}.`,
  'other-way': ({ suspect, by }) =>
    `${suspectName(suspect)} calls for the opposite change. ${lookName(by)} shows which is right.`,
  'several-at-work': ({ suspects }) =>
    `More than one fault is likely here: ${quoted(suspects)}. Fix one at a time and look again.`,
  'outside-range': ({ of, min, max }) => `Outside the ${of}'s ${min}–${max} °C.`,
  'above-card-bed': ({ top }) => `Above the ${top} °C the card gives.`,
  'soft-on-tube-bears': plain('Soft filament on a tube can take 2–3 mm of retraction at most.'),
  'goes-back-on': ({ attempt, signs }) =>
    `This undoes attempt ${attempt}, which helped with ${signNames(signs)}. That may come back.`,

  'leads-after': ({ answer, suspect, still, chance }) =>
    `${ANSWERS[answer]}: ${lower(suspectName(suspect))} ${still ? 'still leads' : 'leads'} with ${chance} %.`,
  'cures-share': ({ share }) => `Cures it in about ${share} of 100 cases like this.`,
  'pulls-both-ways': ({ setting, first, firstTo, second, secondTo, by }) =>
    `${settingLabel(setting)}: ${lower(suspectName(first))} calls for ${valueText(setting, firstTo)}, but ${lower(suspectName(second))} calls for ${valueText(setting, secondTo)}. ${by === null ? 'Find out first which of the two it is.' : `${lookName(by)} shows which of the two it is.`}`,
  'cannot-tell-which': ({ suspects, sign }) =>
    `If “${signName(sign)}” goes away you will not know which of ${quoted(suspects)} it was.`,
  'each-by-its-own': ({ suspects }) =>
    `${quoted(suspects)} cause different signs, so each can still be judged by its own.`,
})

/** What a broken rule says. */
function lintText(rule: Reason): string {
  const statements: { [code: string]: { text: (values: never) => string } | undefined } = LINT_STATEMENTS
  return statements[rule.code]?.text(rule.values as never) ?? ''
}

/** What a finding that is kept as a reason says. */
function findingText(finding: Reason): string {
  const statements: { [code: string]: { text: (values: never) => string } | undefined } = FINDING_STATEMENTS
  return statements[finding.code]?.text(finding.values as FindingReasons[keyof FindingReasons] as never) ?? ''
}
