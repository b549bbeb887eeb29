import { LEAST, MOST, above, below, group, set, setTo, step, when } from './entry'

export const SEAM = group('seam', {
  'seam-stacked': {
    name: 'Seam stacked',
    what: 'All loops start in one place.',
    prior: 'C',
    signs: { 'seam-line': 'S', 'crack-along-seam': 'S' },
    context: [
      when('seamStacked', 6, 'The seam is stacked.'),
      when('seamScattered', -10, 'The seam is scattered.'),
    ],
    tell: 'Read the paths: starts lie above one another.',
    by: ['read-paths'],
    mends: [
      set('seamPlace', 'tucked', 'A corner hides it.', { notWhen: 'seamScattered' }),
      set('seamPlace', 'scattered', 'A part that flexes wants its starts scattered.'),
    ],
    watch: ['seam-bumps-scattered'],
  },
  'seam-scattered': {
    name: 'Seam scattered',
    what: 'Starts lie everywhere and each shows.',
    prior: 'C',
    signs: { 'seam-bumps-scattered': 'S' },
    context: [
      when('seamScattered', 2, 'The seam is scattered.'),
      when('seamStacked', -8, 'The seam is stacked.'),
    ],
    tell: 'Read the paths: starts are spread.',
    by: ['read-paths'],
    mends: [set('seamPlace', 'turned-away', 'Out of sight.', { onlyWhen: 'seamScattered' })],
    watch: ['seam-line'],
  },
  'loop-end-overfill': {
    name: 'Too much where loops close',
    what: 'Start and end of the loop overlap.',
    prior: 'C',
    signs: { 'seam-blob': 'S', 'seam-line': 'M' },
    context: [when('noPressureRelief', 5, 'There is neither compensation, early stop nor wipe.')],
    tell: 'Seam columns differ with wipe and early stop.',
    by: ['seam-columns'],
    mends: [
      setTo('wipe', 'wipeStart', 'One nozzle width hides the end.', LEAST),
      setTo('earlyStop', 'earlyStopStart', 'The last bit is left to the pressure.', LEAST),
      set('flowOuter', 95, 'A slightly leaner face.', MOST),
    ],
    watch: ['seam-gap'],
  },
  'loop-start-starved': {
    name: 'Loop start starved',
    what: 'The loop begins before plastic comes.',
    prior: 'O',
    signs: { 'seam-gap': 'S' },
    context: [
      above('earlyStop', 0.1, 7, 'Early stop is {value}.'),
      above('retractOverBy', 0, 4, 'Retraction is {value} over the drive’s sense.'),
    ],
    tell: 'Seam columns with less early stop close.',
    by: ['seam-columns'],
    mends: [
      step('earlyStop', -0.03, 'Feed a little longer.'),
      step('restartExtra', 0.03, 'Feed a little more at the start.'),
    ],
    watch: ['seam-blob'],
  },
  'outer-wall-overfed': {
    name: 'Outer wall overfed',
    what: 'The face gets more than its share.',
    prior: 'O',
    against: ['outside-too-small', 'gaps-between-walls'],
    signs: { 'outside-too-big': 'M', 'blobs-on-wall': 'W', 'seam-blob': 'M', 'holes-too-small': 'M' },
    context: [
      above('flowOuter', 100, 7, 'Outer-wall flow is {value}.'),
      below('flowOuter', 98, -4, 'Outer-wall flow is {value}.'),
    ],
    tell: 'Measure a wall.',
    by: ['calipers'],
    mends: [set('flowOuter', 96, 'A slightly leaner face.', MOST)],
    watch: ['gaps-between-walls'],
  },
})
