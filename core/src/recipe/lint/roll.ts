import { daysInAir, dryingOf, dryness, rollFit, wears } from '../../material/filament'
import { found, type LintRules } from './rule'

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
