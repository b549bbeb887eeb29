import { TRIALS, type LookId } from './checks'
import { suspectOf, type SuspectId } from './suspects'

/** What a look shows of a suspect, where the suspect's own way to tell speaks of another look. */
const TELLS: { [L in LookId]?: { [S in SuspectId]?: string } } = {
  'paper-gauge': {
    'nozzle-gap-too-large': 'Paper slides through without any drag.',
    'nozzle-gap-too-small': 'Paper is held fast, or tears.',
    'bed-tilted': 'Paper drags in one corner and slides in another.',
    'cold-gap-offset': 'The paper drags differently hot than cold.',
  },
  'first-layer-sheet': {
    'nozzle-gap-too-large': 'Lines are round and stand apart.',
    'nozzle-gap-too-small': 'Lines are see-through or scraped.',
  },
  'probe-grid': {
    'bed-tilted': 'Heights fall evenly towards one side.',
    'bed-warped': 'A patch or the middle stands off what is otherwise even.',
    'first-layer-too-thin': 'The heights differ by more than half a first layer.',
  },
  'level-screws': { 'bed-tilted': 'One corner wants more than a quarter turn.' },
  'clean-bed': {
    'bed-dirty': 'Water beads on it instead of spreading.',
    'wrong-surface': 'Clean as it is, it still does not hold, or holds too well.',
  },
  'hang-thread': {
    'partial-blockage': 'A free thread curls to one side.',
    'nozzle-worn-or-wrong': 'The thread is thicker or thinner than the bore.',
  },
  'cold-pull': {
    'partial-blockage': 'Dirt or burnt bits stick to the tip.',
    'liner-gap': 'The tip comes out with a mushroom.',
  },
  'inspect-gear': {
    'feed-slip': 'Dust at the gear, and flattened teeth marks on the filament.',
    'feed-path-drag': 'Pulled by hand, the filament wants more than two fingers.',
    'flexible-buckling': 'Filament folds or squeezes out beside the gear while it feeds.',
    'drive-gear-runout': 'A mark on the gear swells once a turn.',
  },
  'feed-100': {
    'feed-slip': 'Less is fed than asked, and each time another length.',
    'feed-steps-off': 'The same wrong length is fed each time.',
  },
  'weigh-and-dry': { 'filament-wet': 'The roll lost more than 0.2 % of its plastic’s weight.' },
  'listen-nozzle': { 'filament-wet': 'It crackles, or wisps of steam come out.' },
  'mark-heights': {
    'speed-swings': 'The bands lie where the speed or the layer time changes.',
    'screw-wobble': 'The marks are one turn of the screw apart.',
    'bed-heat-cycling': 'The marks are evenly apart in time, not in height.',
  },
  'watch-heater': {
    'temperature-swing': 'The nozzle’s heat goes up and down by more than two degrees.',
    'bed-heat-cycling': 'The bed’s heat goes up and down with the bands.',
  },
  'soak-plate': { 'plate-not-soaked': 'After the wait the first layer holds.' },
  'feel-fan': { 'part-fan-weak': 'The paper strip hardly moves.' },
  'look-at-block': { 'nozzle-leaks': 'Plastic sits above the nozzle.' },
  'look-at-break': {
    'loaded-across-layers': 'The break is flat, between two layers.',
    'walls-too-few': 'The wall is torn through, and the infill behind it is open.',
  },
  'square-against-wall': { 'gantry-leans': 'An upright leans, or one side is higher.' },
  'bed-thermometer': {
    'bed-too-cold': 'The surface is colder than this plastic wants.',
    'bed-reads-warm': 'The surface is more than ten degrees under the display.',
  },
  'shake-axes': {
    'axis-loose': 'There is play when it is pushed by hand.',
    'z-binding': 'Z turns hard in places.',
    'steps-lost': 'A pulley slips on its shaft, or the belt jumps, when pushed hard.',
  },
}

/** What is asked of a suspect by a check or a trial: it fits the look, whatever else would tell. */
export function tellOf(suspect: SuspectId, look: LookId): string {
  const own = TELLS[look]?.[suspect]
  if (own) return own
  const { by, tell, what } = suspectOf(suspect)
  if (by[0] === look) return tell
  if (look === 'read-paths') return `The path file shows it: ${what[0].toLowerCase()}${what.slice(1)}`
  return Object.hasOwn(TRIALS, look)
    ? 'Places printed with another value look clearly better than the current one.'
    : `It shows: ${what[0].toLowerCase()}${what.slice(1)}`
}
