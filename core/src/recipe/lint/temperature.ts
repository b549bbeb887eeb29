import { found, valuesFor, type LintRules } from './rule'

export const TEMPERATURE_LINT = {
  'machine-too-cool': {
    severity: 'fault',
    find: ({ card, filament, machine }) => {
      const least = (filament.label.nozzle ?? card.nozzle).min
      const limit = machine.limits.nozzle
      return limit < least
        ? found('machine-too-cool', { machine: machine.name, limit, least }, ['nozzle'], { on: limit })
        : null
    },
  },
  'nozzle-off-label': {
    severity: 'caution',
    find: ({ card, filament, machine, n }) => {
      const { min, max } = filament.label.nozzle ?? card.nozzle
      const limit = machine.limits.nozzle
      const off = (['nozzle', 'nozzleFirst'] as const).filter(
        (k) => n(k) > max || n(k) < Math.min(min, limit),
      )
      return off.length
        ? found(
            'nozzle-off-label',
            { settings: off, of: filament.label.nozzle ? 'label' : 'card', min, max, above: n(off[0]) > max },
            off,
            {
              mend: valuesFor(off, (k) => Math.min(limit, Math.max(min, Math.min(max, n(k))))),
              on: `${min}-${max}`,
            },
          )
        : null
    },
  },
  'bed-above-card': {
    severity: 'caution',
    find: ({ card, filament, n }) => {
      const top = Math.max(card.bed.rest, filament.label.bed?.max ?? 0)
      return n('bed') > top
        ? found('bed-above-card', { bed: n('bed'), top }, ['bed'], { mend: { bed: card.bed.rest }, on: top })
        : null
    },
  },
  'bed-first-above-card': {
    severity: 'caution',
    find: ({ card, filament, n }) => {
      const top = Math.max(card.bed.top, filament.label.bed?.max ?? 0)
      return n('bedFirst') > top
        ? found('bed-first-above-card', { bed: n('bedFirst'), top, family: card.id }, ['bedFirst'], {
            mend: { bedFirst: card.bed.first },
            on: top,
          })
        : null
    },
  },
} satisfies LintRules
