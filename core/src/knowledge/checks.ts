import type { Decider } from '../recipe/policies'
import type { SignId } from './signs'

/** Checks besides printing: minutes and grams, and whether what they show is plain to see. From memory. */
export const CHECKS = {
  'read-paths': { name: 'Read the path file', minutes: 1, grams: 0 },
  'mark-heights': { name: 'Mark the heights of the flaw', minutes: 2, grams: 0 },
  'listen-nozzle': { name: 'Listen at the nozzle', plain: true, minutes: 1, grams: 0 },
  'paper-gauge': { name: 'Try the gap with paper', minutes: 3, grams: 0 },
  'clean-bed': { name: 'Wash the bed', minutes: 4, grams: 0 },
  'probe-grid': { name: 'Probe the bed in a grid', plain: true, minutes: 6, grams: 0 },
  'level-screws': { name: 'Level by the screws', minutes: 10, grams: 0 },
  'measure-diameter': { name: 'Measure the filament at six places', plain: true, minutes: 4, grams: 0 },
  'feed-100': { name: 'Feed 100 mm and measure', plain: true, minutes: 6, grams: 0 },
  'shake-axes': { name: 'Shake the axes by hand', plain: true, minutes: 2, grams: 0 },
  'hang-thread': { name: 'Feed a free-hanging thread', plain: true, minutes: 3, grams: 0.2 },
  'inspect-gear': { name: 'Look at the drive gear', plain: true, minutes: 5, grams: 0 },
  'cold-pull': { name: 'Make a cold pull', plain: true, minutes: 15, grams: 1 },
  'weigh-and-dry': { name: 'Weigh, dry, weigh again', plain: true, minutes: 360, handsOn: 5, grams: 0 },
  'watch-heater': { name: 'Watch the heater for five minutes', plain: true, minutes: 5, grams: 0 },
  'watch-tube': { name: 'Watch the tube while it pulls back', plain: true, minutes: 2, grams: 0 },
  'nozzle-thermometer': { name: 'Hold a thermometer to the nozzle', plain: true, minutes: 8, grams: 0 },
  'bed-thermometer': { name: 'Measure the bed’s surface', plain: true, minutes: 3, grams: 0 },
  'feel-draught': { name: 'Hold a strip of paper beside the part', minutes: 2, grams: 0 },
  calipers: { name: 'Measure with calipers', minutes: 5, grams: 0 },
  'touch-cold-end': { name: 'Feel the cold side after half an hour', plain: true, minutes: 2, grams: 0 },
  'bend-filament': { name: 'Bend a piece of the filament', minutes: 1, grams: 0 },
  'look-at-roll': { name: 'Look at the roll', minutes: 1, grams: 0 },
  'feel-fan': { name: 'Hold a strip of paper in the fan’s stream', plain: true, minutes: 2, grams: 0 },
  'look-at-block': { name: 'Look at the heater block', plain: true, minutes: 3, grams: 0 },
  'look-at-break': { name: 'Look at the break', plain: true, minutes: 1, grams: 0 },
  'square-against-wall': { name: 'Hold a square against the frame', plain: true, minutes: 3, grams: 0 },
  'soak-plate': { name: 'Wait ten minutes with the bed hot, then print', minutes: 10, handsOn: 1, grams: 0 },
  'watch-layer': { name: 'Watch a layer with overhangs', minutes: 3, grams: 0 },
} as const
export type CheckId = keyof typeof CHECKS

/**
 * Printed trials in the order a pair is usually tuned: minutes and grams as the pieces take them on a usual pair. What
 * they take on the pair at hand is worked out where they are planned.
 */
export const TRIALS = {
  'first-layer-sheet': { name: 'First-layer sheet', minutes: 15, grams: 2 },
  'temperature-tower': { name: 'Temperature tower', minutes: 60, grams: 8 },
  'flow-box': { name: 'Flow box', minutes: 18, grams: 3 },
  'retraction-tower': { name: 'Retraction tower', minutes: 32, grams: 4 },
  'fan-tower': { name: 'Fan tower', minutes: 60, grams: 9 },
  'melt-rate-run': { name: 'Melt-rate run', minutes: 6, grams: 2.2 },
  'pressure-lines': { name: 'Pressure lines', minutes: 4, grams: 0.5 },
  'corner-columns': { name: 'Corner columns', minutes: 17, grams: 2.6 },
  'seam-columns': { name: 'Seam columns', minutes: 44, grams: 7 },
  'speed-fins': { name: 'Speed fins', minutes: 45, grams: 8 },
  'layer-time-pair': { name: 'Layer-time pair', minutes: 25, grams: 4 },
  'bridge-comb': { name: 'Bridge comb', minutes: 24, grams: 3 },
  'string-posts': { name: 'String posts', minutes: 9, grams: 1 },
  'size-plate': { name: 'Size plate', minutes: 75, grams: 14 },
  'joint-ladder': { name: 'Joint ladder', minutes: 30, grams: 5.5 },
  'designed-set': { name: 'Designed set', minutes: 60, grams: 12 },
} as const
export type TrialId = keyof typeof TRIALS
/** A check or a trial. */
export type LookId = CheckId | TrialId
/** What settles a policy's question is known here. */
export const lookOf = (id: Decider): LookId => id

/** Name and cost of a check or trial. */
export function checkOrTrial(id: LookId): { name: string; minutes: number; grams: number } {
  return isCheckId(id) ? CHECKS[id] : TRIALS[id]
}

/** True when the id is a check's. */
export function isCheckId(id: string): id is CheckId {
  return Object.hasOwn(CHECKS, id)
}
export const CHECK_IDS = Object.keys(CHECKS) as CheckId[]
export const TRIAL_IDS = Object.keys(TRIALS) as TrialId[]

/** Signs without which a trial answers a question that nobody has. */
const ONLY_WITH: Partial<Record<LookId, readonly SignId[]>> = {
  'joint-ladder': ['moving-parts-fused', 'joint-too-loose'],
}
/** Whether a check or trial bears on what is seen. */
export const bearsOn = (id: LookId, seen: readonly SignId[]): boolean =>
  ONLY_WITH[id]?.some((s) => seen.includes(s)) ?? true

/** Whether what a check shows is plain: a thing measured or looked at itself, not by what it does. */
export const isPlain = (id: LookId): boolean => isCheckId(id) && 'plain' in CHECKS[id]
