import type { CheckId, SuspectId } from '@verimend/core/knowledge'
import { bedHeight, observe, OBSERVATION_IDS, type ObservationId, type World } from '../src'
import type { Machine } from '@verimend/core/machine'

const mean = (v: readonly number[]) => v.reduce((s, x) => s + x, 0) / v.length
const isObservation = (check: string): check is ObservationId => (OBSERVATION_IDS as string[]).includes(check)

/** What a person makes of an observation: for each suspect whether it is so; nothing where it does not tell. */
type Reading = (text: string, values: readonly number[]) => Partial<Record<SuspectId, boolean>>
const READINGS: Partial<Record<ObservationId, Reading>> = {
  'measure-diameter': (_, v) => ({ 'diameter-off': Math.abs(mean(v) - 1.75) > 0.035 }),
  'feed-100': (_, v) => ({
    'feed-steps-off': Math.abs(mean(v) - 100) > 2.5,
    'feed-slip': mean(v) < 97.5 && Math.max(...v) - Math.min(...v) > 1.5,
  }),
  'listen-nozzle': (text) => ({ 'filament-wet': text.includes('crackles') }),
  'paper-gauge': (text) => ({
    'nozzle-gap-too-large': text.includes('freely'),
    'nozzle-gap-too-small': text.includes('held fast'),
  }),
  'clean-bed': (text) => ({ 'bed-dirty': text.includes('beads') }),
  'watch-tube': (_, v) => (v.length ? { 'tube-play': mean(v) > 1.2 } : {}),
  'nozzle-thermometer': (_, v) => ({ 'nozzle-reads-off': Math.abs(mean(v) - 200) > 10 }),
  // what it reads against what it says; what the plastic wants of it is another question
  'bed-thermometer': (_, v) => ({ 'bed-reads-warm': mean(v) < 50, 'bed-too-hot': mean(v) > 68 }),
  'watch-heater': (_, v) => ({ 'temperature-swing': Math.max(...v) - Math.min(...v) > 8 }),
  'shake-axes': (text) => ({ 'axis-loose': text.includes('moved a little') }),
  'feel-draught': (text) => ({ draught: text.includes('flutters') }),
  'hang-thread': (text, v) => ({
    'partial-blockage': text.includes('curls'),
    'nozzle-worn-or-wrong': v[0] > 0.55,
  }),
  'inspect-gear': (text) => ({
    'feed-slip': text.includes('dust'),
    'drive-gear-runout': text.includes('out of true'),
    'filament-brittle': false,
  }),
  'cold-pull': (text) => ({ 'partial-blockage': text.includes('crumb'), 'liner-gap': false }),
  'touch-cold-end': (text) => ({ 'heat-creep': text.includes('too hot') }),
  'weigh-and-dry': (_, v) => ({ 'filament-wet': v[0] > 0.2 }),
  'look-at-roll': () => ({ 'filament-ran-out': false, 'feed-path-drag': false }),
  'bend-filament': () => ({ 'filament-brittle': false }),
  'watch-layer': () => ({ 'nozzle-strikes-edge': false }),
}

/**
 * Makes a check on a simulated machine and says of the suspects it is about what it shows.
 * @returns null where this check cannot be made there
 */
export function answer(
  check: CheckId,
  about: readonly SuspectId[],
  world: World,
  machine: Machine,
  visit: number,
): Map<SuspectId, boolean> | null {
  let so: Partial<Record<SuspectId, boolean>> | null = null
  if (check === 'probe-grid' || check === 'level-screws') so = ofBed(world, machine)
  else if (isObservation(check)) {
    const { text, values } = observe(check, world, machine, visit)
    so = READINGS[check]?.(text, values) ?? null
  }
  if (!so) return null
  const told = about.flatMap((s) => (so[s] === undefined ? [] : [[s, so[s]] as const]))
  return told.length ? new Map(told) : null
}

function ofBed(world: World, machine: Machine): Partial<Record<SuspectId, boolean>> {
  const { bed } = machine
  const at = (u: number, v: number) =>
    bed.shape === 'round'
      ? bedHeight(world, machine, (u - 0.5) * bed.width * 0.7, (v - 0.5) * bed.depth * 0.7)
      : bedHeight(world, machine, u * bed.width, v * bed.depth)
  const corners = [at(0.1, 0.1), at(0.9, 0.1), at(0.1, 0.9), at(0.9, 0.9)]
  return {
    'bed-tilted': Math.max(...corners) - Math.min(...corners) > 0.2,
    'bed-warped': Math.abs(at(0.5, 0.5) - mean(corners)) > 0.15,
  }
}
