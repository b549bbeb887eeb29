import { daysInAir, dryingOf, dryness, rollFit } from '../../material/filament'
import { found, type LintRules } from './rule'

export const ROLL_LINT = {
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
