import type { LookId } from '../knowledge/checks'
import type { SuspectId } from '../knowledge/suspects'
import type { SettingKey } from '../recipe/settings'

/** Sides of a pair that have to be known. */
export type AspectId =
  'bed' | 'firstLayer' | 'temperature' | 'flow' | 'retraction' | 'cooling' | 'melt' | 'seam' | 'size'

/** How well one side of a pair is known. */
export const READINESS_STATES = [
  'untested',
  'from-card',
  'narrowed',
  'measured',
  'verified',
  'stale',
] as const
export type ReadinessState = (typeof READINESS_STATES)[number]

export interface Aspect {
  label: string
  /** A measured value of any of these makes it known. */
  lead: SettingKey[]
  /** A measurement that leaves more than this (half of its 95 % interval) has only narrowed it. Common practice, no source. */
  within?: Partial<Record<SettingKey, number>>
  /** With no measurement, whether the card knows anything of it. */
  onCard: boolean
  /** What it means when it is off. */
  suspects: SuspectId[]
  by: LookId
  /** What has to be known first for its trial to mean anything. */
  after: AspectId[]
  /** It has to be found again with another nozzle. */
  nozzle: boolean
  /** It has to be found again when the roll has aged. */
  roll: boolean
}

/** In the order a person tunes them. */
export const ASPECTS: Record<AspectId, Aspect> = {
  bed: {
    label: 'Bed',
    // what is known of it stands on the machine, not in a recipe
    lead: [],
    onCard: false,
    suspects: ['bed-tilted', 'bed-warped'],
    by: 'probe-grid',
    after: [],
    nozzle: false,
    roll: false,
  },
  firstLayer: {
    label: 'First layer',
    lead: ['zOffset', 'firstHeight'],
    onCard: false,
    suspects: [
      'nozzle-gap-too-large',
      'nozzle-gap-too-small',
      'bed-tilted',
      'bed-dirty',
      'first-layer-too-fast',
      'first-layer-too-thin',
    ],
    by: 'first-layer-sheet',
    after: [],
    nozzle: true,
    roll: false,
  },
  temperature: {
    label: 'Temperature',
    lead: ['nozzle'],
    onCard: true,
    suspects: ['nozzle-too-hot', 'nozzle-too-cold'],
    by: 'temperature-tower',
    after: ['firstLayer'],
    nozzle: false,
    roll: true,
  },
  flow: {
    label: 'Flow',
    lead: ['flow'],
    // one thin wall under a caliper tells 5 to 7 %; sizes and solid faces show 3 %
    within: { flow: 3 },
    onCard: false,
    suspects: ['flow-too-high', 'flow-too-low', 'diameter-off', 'solid-fill-starved'],
    by: 'flow-box',
    after: ['temperature'],
    nozzle: true,
    roll: false,
  },
  retraction: {
    label: 'Retraction',
    lead: ['retractLength', 'retract'],
    onCard: true,
    suspects: ['retraction-too-short', 'retraction-too-long', 'retraction-off'],
    by: 'retraction-tower',
    after: ['temperature'],
    nozzle: true,
    roll: true,
  },
  cooling: {
    label: 'Cooling',
    lead: ['fan', 'minLayerTime'],
    onCard: true,
    suspects: ['cooling-too-weak', 'cooling-too-strong', 'layer-time-too-short', 'speed-swings'],
    by: 'fan-tower',
    after: ['temperature'],
    nozzle: false,
    roll: false,
  },
  melt: {
    label: 'Melt rate',
    lead: ['meltCap'],
    onCard: true,
    suspects: ['melt-rate-exceeded'],
    by: 'melt-rate-run',
    after: ['temperature'],
    nozzle: true,
    roll: false,
  },
  seam: {
    label: 'Seam',
    lead: ['earlyStop', 'wipe', 'flowOuter'],
    onCard: false,
    suspects: ['loop-end-overfill', 'loop-start-starved', 'pressure-not-relieved'],
    by: 'seam-columns',
    after: ['flow', 'retraction'],
    nozzle: true,
    roll: false,
  },
  size: {
    label: 'Size',
    lead: ['contourOffset', 'holeOffset', 'scaleX'],
    onCard: false,
    suspects: ['contour-not-compensated', 'hole-not-compensated', 'shrink-not-compensated'],
    by: 'size-plate',
    after: ['flow'],
    nozzle: false,
    roll: true,
  },
}
export const ASPECT_IDS = Object.keys(ASPECTS) as AspectId[]
