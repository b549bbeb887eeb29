import { daysInAir, dryingOf, dryness, rollFit, wears } from '../../material/filament'
import { LINER_HEAT } from '../../machine/machine'
import { found, type LintRules } from './rule'

/** Longest guide tube that soft filament is pushed through without folding, mm. Common practice, no source. */
const SOFT_TUBE = 250

export const ROLL_LINT = {
  'filled-nozzle': {
    severity: 'caution',
    find: ({ filament, machine }) => {
      const small = machine.nozzle.diameter < 0.4 && (wears(filament) || filament.finish === 'wood')
      const brass = machine.nozzle.material === 'brass' && wears(filament)
      return small || brass
        ? found('filled-nozzle', { small, brass, nozzle: machine.nozzle.diameter }, [], {
            on: `${filament.finish}/${machine.nozzle.diameter}/${machine.nozzle.material}`,
          })
        : null
    },
  },
  'soft-through-tube': {
    severity: 'caution',
    find: ({ card, machine }) =>
      card.flexible && machine.drive.kind === 'tube' && machine.drive.tubeLength > SOFT_TUBE
        ? found('soft-through-tube', { family: card.id, tubeLength: machine.drive.tubeLength }, [], {
            on: machine.drive.tubeLength,
          })
        : null,
  },
  'chips-glass': {
    severity: 'caution',
    find: ({ card, machine }) =>
      machine.bed.surface === 'glass' && (card.flexible || card.id === 'petg' || card.id === 'pp')
        ? found('chips-glass', { family: card.id }, [], { remedy: 'change-surface' })
        : null,
  },
  'liner-unknown': {
    severity: 'caution',
    find: ({ machine, n }) => {
      const hottest = Math.max(n('nozzle'), n('nozzleFirst'))
      return machine.hotEnd === null && hottest > LINER_HEAT
        ? found('liner-unknown', { nozzle: hottest, bears: LINER_HEAT }, ['nozzle'])
        : null
    },
  },
  'wet-roll': {
    severity: 'fault',
    find: ({ card, filament, today }) => {
      const state = dryness(filament, today)
      const d = dryingOf(filament)
      if (state !== 'due' && !(state === 'unknown' && d.hygroscopic)) return null
      return found(
        'wet-roll',
        {
          family: card.id,
          days: daysInAir(filament, today),
          bears: d.openDays,
          temperature: d.temperature,
          hours: d.hours,
        },
        [],
        { remedy: 'dry-filament', on: filament.dryings.length },
      )
    },
  },
  'roll-too-light': {
    severity: 'fault',
    find: ({ filament, part }) => {
      if (!part) return null
      const { fits, needed, left } = rollFit(filament, part.grams)
      return fits === 'no' || fits === 'tight'
        ? found('roll-too-light', { part: part.name, needed, left, fits }, [], {
            remedy: 'join-roll',
            on: `${Math.round(needed)}/${Math.round(left)}`,
          })
        : null
    },
  },
} satisfies LintRules
