import { machineLimit } from '../derive'
import { wantedBed } from '../derive/temperature'
import { found, valuesFor, type LintRules } from './rule'

/** How far under the family’s heat a bed may end and still hold, °C. Common practice, no source. */
const BED_SHORT = 10

export const TEMPERATURE_LINT = {
  'machine-too-cool': {
    severity: 'fault',
    find: ({ card, filament, machine }) => {
      const least = (filament.label.nozzle ?? card.nozzle).min
      const limit = Math.min(machine.limits.nozzle, machineLimit('nozzle', machine) ?? Infinity)
      return limit < least
        ? found('machine-too-cool', { machine: machine.name, limit, least }, ['nozzle'], { on: limit })
        : null
    },
  },
  'bed-too-cool': {
    severity: 'fault',
    find: ({ card, machine }) => {
      const limit = machine.limits.bed
      const least = Math.min(card.bed.first, card.bed.rest) - BED_SHORT
      return card.bed.first >= 70 && limit < least
        ? found(
            'bed-too-cool',
            { machine: machine.name, limit, wanted: card.bed.first, family: card.id },
            ['bedFirst'],
            {
              on: limit,
              remedy: 'cover-frame',
            },
          )
        : null
    },
  },
  'label-needed': {
    severity: 'fault',
    find: ({ card, filament }) =>
      card.id === 'other' && !filament.label.nozzle ? found('label-needed', {}, ['nozzle']) : null,
  },
  'nozzle-off-label': {
    severity: 'caution',
    find: ({ card, filament, machine, n }) => {
      const { min, max } = filament.label.nozzle ?? card.nozzle
      const limit = machineLimit('nozzle', machine) ?? machine.limits.nozzle
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
    find: ({ card, machine, filament, n }) => {
      const top = Math.max(wantedBed('rest', machine, filament), card.bed.rest, filament.label.bed?.max ?? 0)
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
