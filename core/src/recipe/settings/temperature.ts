import { entriesOf } from './types'

const { number } = entriesOf('temperature')
const HEAT_SLACK = 0.5

export const TEMPERATURE = {
  nozzleFirst: number(
    'Nozzle, first layer',
    '°C',
    [150, 350, 1],
    'Heat of the nozzle while the first layer goes down.',
    {
      aka: ['first layer temperature', 'initial nozzle temperature', 'hot end, first layer'],
      up: 'better grip on the bed',
      down: 'less ooze while travelling',
      inFile: { read: (r) => r.firstLayer?.nozzle, slack: HEAT_SLACK },
      write: (value) => ({ kind: 'nozzle', where: 'first', value }),
    },
  ),
  nozzle: number('Nozzle', '°C', [150, 350, 1], 'Heat of the nozzle from the second layer on.', {
    aka: ['printing temperature', 'hot end temperature', 'extruder temperature', 'nozzle temperature'],
    up: 'stronger bond between layers, more strings',
    down: 'cleaner travels, weaker bond, duller face',
    inFile: { read: (r) => (r.layerCount > 1 ? r.rest.nozzle : null), slack: HEAT_SLACK },
    write: (value) => ({ kind: 'nozzle', where: 'rest', value }),
  }),
  bedFirst: number(
    'Bed, first layer',
    '°C',
    [0, 140, 1],
    'Heat of the bed while the first layer goes down.',
    {
      aka: ['first layer bed temperature', 'heated bed, first layer'],
      up: 'better grip',
      down: 'less flare at the base',
      inFile: { read: (r) => r.firstLayer?.bed, slack: HEAT_SLACK },
      write: (value) => ({ kind: 'bed', where: 'first', value }),
    },
  ),
  bed: number('Bed', '°C', [0, 140, 1], 'Heat of the bed from the second layer on.', {
    aka: ['bed temperature', 'heated bed', 'build plate temperature'],
    up: 'corners stay down',
    down: 'base keeps its shape',
    inFile: { read: (r) => (r.layerCount > 1 ? r.rest.bed : null), slack: HEAT_SLACK },
    write: (value) => ({ kind: 'bed', where: 'rest', value }),
  }),
  chamber: number(
    'Chamber',
    '°C',
    [0, 90, 1],
    'Heat of the air around the part; 0 where the machine has no heater for it.',
    {
      aka: ['enclosure temperature', 'build volume temperature'],
      up: 'less stress in big parts',
      down: 'crisper small details',
    },
  ),
}
