import { roundTo, settingOf } from '../settings'
import { found, usualRetraction, type LintRules } from './rule'

const length = settingOf('retractLength')

export const RETRACTION_LINT = {
  'retraction-beyond-drive': {
    severity: 'caution',
    find: (s) => {
      const { card, machine, n, values } = s
      if (!values.retract.value) return null
      const tube = machine.drive.kind === 'tube'
      const usual = usualRetraction(s)
      const most = card.flexible ? (tube ? 3 : 0.8) : tube ? Math.max(7, 1.5 * usual) : 2
      return n('retractLength') > most + 1e-9
        ? found(
            'retraction-beyond-drive',
            { length: n('retractLength'), tubeLength: tube ? machine.drive.tubeLength : null, most },
            ['retractLength'],
            { mend: { retractLength: roundTo(length, Math.min(most, usual)) }, on: most },
          )
        : null
    },
  },
  'retraction-short': {
    severity: 'caution',
    find: (s) => {
      if (!s.values.retract.value || s.card.flexible || s.measured('retractLength')) return null
      const usual = usualRetraction(s)
      const now = s.n('retractLength')
      return now < 0.6 * usual
        ? found('retraction-short', { length: now, usual }, ['retractLength'], {
            mend: { retractLength: roundTo(length, usual) },
            on: usual,
          })
        : null
    },
  },
  'soft-pulled-in-tube': {
    severity: 'fault',
    find: ({ card, machine, values }) =>
      card.flexible && machine.drive.kind === 'tube' && values.retract.value
        ? found('soft-pulled-in-tube', { family: card.id }, ['retract'], { mend: { retract: false } })
        : null,
  },
  'early-stop-long': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const usual = machine.nozzle.diameter ** 3
      return n('earlyStop') > 2 * usual
        ? found('early-stop-long', { volume: n('earlyStop') }, ['earlyStop'], {
            mend: { earlyStop: roundTo(settingOf('earlyStop'), usual) },
            on: usual,
          })
        : null
    },
  },
} satisfies LintRules
