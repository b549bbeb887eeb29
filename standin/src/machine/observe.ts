import type { Machine } from '@verimend/core/machine'
import { normalStream, randomStream } from '@verimend/core/statistics'
import { Foot } from '../physics/foot'
import { MeltZone } from '../physics/meltZone'
import { plasticOf } from '../polymer'
import type { World } from '../world'

/** What somebody notes who goes and looks, feels or measures without printing. */
export interface Observation {
  text: string
  values: number[]
  unit: string
}

type Observe = (w: World, machine: Machine, normal: () => number) => Observation
const said = (text: string): Observation => ({ text, values: [], unit: '' })
const rounded = (v: number, digits: number) => Number(v.toFixed(digits))

/** Looks at a machine and its roll: plain observations, with the scatter of a hand; what they mean is not said. */
export const OBSERVATIONS = {
  'measure-diameter': (w, _, normal) => {
    const values = [0, 1, 2, 3, 4, 5].map((k) =>
      rounded(w.roll.diameter + w.roll.wander.amplitude * Math.sin(k * 1.9) + 0.006 * normal(), 2),
    )
    return { text: 'The filament at six places:', values, unit: 'mm' }
  },
  'feed-100': (w, _, normal) => ({
    text: 'Of 100 mm asked for, fed with the nozzle hot:',
    values: [0, 1, 2].map(() =>
      rounded(100 * w.drive.steps * (w.drive.grip < 0.5 ? 0.97 : 1) + 0.3 * normal(), 1),
    ),
    unit: 'mm',
  }),
  'listen-nozzle': (w) =>
    said(w.roll.moisture > 0.35 ? 'It crackles, and a wisp of steam comes out.' : 'It is quiet.'),
  // tried where the part stands, in the middle
  'paper-gauge': (w) =>
    said(
      w.bed.gap - w.bed.bow > 0.05
        ? 'The paper slides freely under the nozzle.'
        : w.bed.gap - w.bed.bow < -0.05
          ? 'The paper is held fast.'
          : 'The paper just drags.',
    ),
  'clean-bed': (w) =>
    said(w.bed.clean < 0.7 ? 'Water gathers in beads on the bed.' : 'Water spreads evenly on the bed.'),
  'bed-thermometer': (w, _, normal) => ({
    text: 'The surface when the bed says 60:',
    values: [rounded(60 - w.bed.colder * 0.8 + normal(), 0)],
    unit: '°C',
  }),
  'watch-tube': (w, machine, normal) =>
    machine.drive.kind !== 'tube'
      ? said('There is no tube here.')
      : {
          text: 'With every pull-back the tube moves in its fitting by about:',
          values: [rounded(Math.max(0, 0.6 * (w.drive.slack - 1.2) + 0.15 * normal()), 1)],
          unit: 'mm',
        },
  'nozzle-thermometer': (w, _, normal) => ({
    text: 'A probe in the nozzle when the display says 200:',
    values: [rounded(200 + w.hotEnd.offset + 2 * normal(), 0)],
    unit: '°C',
  }),
  'watch-heater': (w, _, normal) => ({
    text: 'The nozzle over five minutes, set to 210:',
    values: Array.from({ length: 15 }, (_v, k) =>
      rounded(
        210 +
          w.hotEnd.swing.amplitude * Math.sin((2 * Math.PI * k * 20) / w.hotEnd.swing.period) +
          0.3 * normal(),
        1,
      ),
    ),
    unit: '°C',
  }),
  'shake-axes': (w) =>
    said(
      w.frame.loose > 0.08
        ? 'The head can be moved a little by hand before the belt pulls.'
        : 'Nothing gives.',
    ),
  'feel-draught': (w) =>
    said(
      w.air.draught > 0.6
        ? 'The strip of paper flutters beside the part.'
        : 'The strip of paper hangs still.',
    ),
  'hang-thread': (w, machine, normal) => ({
    text:
      w.hotEnd.open < 0.75
        ? 'The thread curls to one side as it comes out. It measures:'
        : 'The thread hangs straight down. It measures:',
    values: [
      rounded(
        (machine.nozzle.diameter + w.hotEnd.worn) * (w.hotEnd.open < 0.75 ? 0.92 : 1.08) + 0.01 * normal(),
        2,
      ),
    ],
    unit: 'mm',
  }),
  'inspect-gear': (w) =>
    said(
      w.drive.grip < 0.5
        ? 'There is dust in the gear’s teeth, and bites in the filament.'
        : w.drive.gear.amplitude > 0.03
          ? 'The gear runs out of true: the filament moves in and out once a turn.'
          : 'The gear is clean and runs true.',
    ),
  'cold-pull': (w) =>
    said(
      w.hotEnd.open < 0.75
        ? 'The tip comes out with a dark crumb in it.'
        : 'The tip comes out clean and sharp.',
    ),
  'touch-cold-end': (w) =>
    said(
      w.hotEnd.creeps > 0.2
        ? 'After half an hour the cold side is too hot to touch.'
        : 'After half an hour the cold side is hand-warm.',
    ),
  'weigh-and-dry': (w, _, normal) => ({
    text: 'Lost by drying, of its weight:',
    values: [rounded(Math.max(0, 0.55 * w.roll.moisture + 0.02 * normal()), 2)],
    unit: '%',
  }),
  'look-at-roll': () => said('The roll turns freely, and there is enough on it.'),
  'bend-filament': () => said('It bends without breaking.'),
  'watch-layer': () => said('The nozzle passes over every edge without touching.'),
} satisfies Record<string, Observe>
export type ObservationId = keyof typeof OBSERVATIONS
export const OBSERVATION_IDS = Object.keys(OBSERVATIONS) as ObservationId[]

/** What is noted; another visit, another scatter. */
export function observe(what: ObservationId, world: World, machine: Machine, visit: number): Observation {
  const normal = normalStream(randomStream((world.seed ^ (visit * 7919)) >>> 0))
  return (OBSERVATIONS[what] as Observe)(world, machine, normal)
}

/** mm that the bed stands up at a place against where the nozzle thinks it is, as a probe touches it. */
export function bedHeight(world: World, machine: Machine, x: number, y: number): number {
  return 1 - new Foot(world, machine, plasticOf(world)).gapAt(x, y, 1)
}

/** mm³/s that this hot end melts at a heat, for whoever checks the simulation. */
export const meltLimitOf = (world: World, machine: Machine, nozzle: number): number =>
  new MeltZone(plasticOf(world), world, machine.nozzle.diameter).meltLimit(nozzle, 0)
