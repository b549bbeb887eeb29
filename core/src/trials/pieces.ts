import type { TrialId } from '../knowledge/checks'
import type { SuspectId } from '../knowledge/suspects'
import { cardOf } from '../materials/cards'
import type { Filament } from '../materials/filament'
import { commandsOf, type Machine } from '../materials/machine'
import { readGcode } from '../gcode/reader'
import { readPath } from '../paths/reading'
import { machineLimit, type RecipeValues } from '../recipe/derive'
import { isSettingKey, roundTo, settingOf, type NumberSetting, type SettingKey } from '../recipe/settings'
import { median } from '../statistics/summary'
import { quantity } from '../units/format'
import { Builder } from './builder'
import { cornerColumns, seamColumns, stringPostsPiece } from './columns'
import type { CriterionId } from './criteria'
import { bridgeComb, flowBox, jointLadder, sizePlate } from './gauges'
import { firstLayerSheet, meltRun, pressureLines } from './sheets'
import { heatTower, layerTimePair, retractionTower, speedFins, type Laid } from './towers'
import {
  stepValues,
  type Cell,
  type Piece,
  type PieceId,
  type PiecePlan,
  type Steps,
  type VariedKey,
} from './types'

export interface PairOnBench {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
}
/** What an earlier trial of the pair found, with its interval. */
export interface KnownBest {
  best: number
  low: number
  high: number
  trial: number
}
/** Steps that are worth printing, and why. */
export interface StepProposal {
  steps: Steps
  across?: Steps
  words: string
}

interface Definition {
  name: string
  /** What it finds out, one sentence. */
  what: string
  /** Bands, patches, columns: what one place is called. */
  place: string
  /** What can be stepped; the first is usual. */
  keys: VariedKey[]
  /** What can be stepped across as well. */
  across: VariedKey[]
  counts: { min: number; max: number; usual: number }
  criteria: CriterionId[]
  /** Settings an outcome may set. */
  settles: SettingKey[]
  /** Suspects it speaks about when the value in use lies above or below what was found. */
  above: SuspectId[]
  below: SuspectId[]
  propose: (pair: PairOnBench, key: VariedKey) => StepProposal
  build: (b: Builder, plan: PiecePlan) => Laid
  /** Each place is to know how long a layer of it takes. */
  timed?: boolean
  /** What this machine or roll lacks for it; null when it can be printed. */
  lacks?: (pair: PairOnBench) => string | null
}

const n = (pair: PairOnBench, key: SettingKey) => Number(pair.recipe[key].value)
const steps = (key: VariedKey, from: number, to: number, count: number): Steps => ({ key, from, to, count })

/** Steps round a value, within the setting's and the machine's bounds. */
function round(pair: PairOnBench, key: SettingKey, half: number, count: number, words: string): StepProposal {
  const now = n(pair, key)
  return { steps: within(pair.machine, steps(key, now - half, now + half, count)), words }
}

export const PIECES: Record<PieceId, Definition> = {
  'first-layer-sheet': {
    name: 'First-layer sheet',
    what: 'Patches of one layer at stepped heights of the nozzle: which one closes without being ploughed.',
    place: 'patch',
    keys: ['zOffset', 'flowFirst', 'firstWidth'],
    across: [],
    counts: { min: 4, max: 9, usual: 9 },
    criteria: ['sheet'],
    settles: ['zOffset', 'flowFirst', 'firstWidth'],
    above: ['nozzle-gap-too-large'],
    below: ['nozzle-gap-too-small'],
    propose: (pair, key) =>
      key === 'flowFirst'
        ? round(pair, key, 16, 9, 'Eight hundredths of the flow on either side.')
        : key === 'firstWidth'
          ? round(pair, key, 0.12, 9, 'A good tenth of a millimetre on either side.')
          : heights(pair),
    build: firstLayerSheet,
  },
  'temperature-tower': {
    name: 'Temperature tower',
    what: 'Bands at stepped nozzle heats, each with a fin, a bridge, a gap to string across and a wall to snap.',
    place: 'band',
    keys: ['nozzle'],
    across: [],
    counts: { min: 3, max: 9, usual: 7 },
    criteria: ['strings', 'bonding', 'overhang', 'bridge', 'surface'],
    settles: ['nozzle'],
    above: ['nozzle-too-hot'],
    below: ['nozzle-too-cold'],
    propose: ({ machine, filament }) => {
      const range = filament.label.nozzle ?? cardOf(filament.family).nozzle
      const top = Math.min(range.max, machine.limits.nozzle)
      const count = Math.min(9, Math.max(4, Math.round((top - range.min) / 5) + 1))
      return {
        // hottest first: the bottom bands stand on a warm plate
        steps: steps('nozzle', top, range.min, count),
        words: `The whole of the ${filament.label.nozzle ? 'label' : 'card'}: ${range.min}–${top} °C.`,
      }
    },
    build: heatTower,
  },
  'flow-box': {
    name: 'Flow box',
    what: 'A thin-walled box to measure, and strips of solid fill at stepped flows.',
    place: 'strip',
    keys: ['flowSolid'],
    across: ['wallCount'],
    counts: { min: 3, max: 5, usual: 5 },
    criteria: ['closed'],
    settles: ['flow', 'flowSolid'],
    above: ['flow-too-high'],
    below: ['flow-too-low', 'solid-fill-starved'],
    propose: (pair) => ({
      ...round(pair, 'flowSolid', 6, 5, 'Six hundredths of the flow on either side.'),
      // not stepped: how many walls the box has
      across: steps('wallCount', 2, 2, 1),
    }),
    build: flowBox,
  },
  'retraction-tower': {
    name: 'Retraction tower',
    what: 'Two posts far apart; each band pulls back another length. The shortest that stays clean is wanted.',
    place: 'band',
    keys: ['retractLength'],
    across: ['retractSpeed'],
    counts: { min: 3, max: 9, usual: 7 },
    criteria: ['strings'],
    settles: ['retractLength', 'retractSpeed'],
    above: ['retraction-too-long'],
    below: ['retraction-too-short', 'retraction-off'],
    propose: (pair) => {
      const direct = pair.machine.drive.kind === 'direct'
      const soft = cardOf(pair.filament.family).flexible
      const usual = direct ? 0.5 : 1 + pair.machine.drive.tubeLength / 100
      const top = soft ? (direct ? 0.8 : 3) : direct ? 2 : Math.min(8, usual + 3)
      const from = direct ? 0.2 : 1
      return {
        steps: steps('retractLength', from, Number(top.toFixed(1)), 7),
        words: `From next to nothing to a little above what ${direct ? 'a direct drive' : 'this tube'} usually needs.`,
      }
    },
    build: retractionTower,
  },
  'fan-tower': {
    name: 'Fan tower',
    what: 'Bands at stepped fan: overhang, bridge, a slender column, gloss, and a wall to snap.',
    place: 'band',
    keys: ['fan'],
    across: [],
    counts: { min: 3, max: 9, usual: 6 },
    criteria: ['overhang', 'bridge', 'detail', 'surface', 'bonding'],
    settles: ['fan'],
    above: ['cooling-too-strong'],
    below: ['cooling-too-weak'],
    lacks: ({ machine }) => (machine.fan.present ? null : 'This machine has no part fan.'),
    propose: ({ filament }) => {
      const rest = cardOf(filament.family).fan.rest
      return rest >= 80
        ? { steps: steps('fan', 25, 100, 6), words: 'From a quarter to full: the card wants much.' }
        : rest <= 20
          ? { steps: steps('fan', 0, 50, 6), words: 'From off to half: the card wants little.' }
          : { steps: steps('fan', 0, 100, 6), words: 'From off to full.' }
    },
    build: heatTower,
  },
  'melt-rate-run': {
    name: 'Melt-rate run',
    what: 'The same volume fed at rising rates, one heap each, to be weighed: where less comes out is the cap.',
    place: 'heap',
    keys: ['meltRate'],
    across: [],
    counts: { min: 5, max: 12, usual: 8 },
    criteria: [],
    settles: ['meltCap'],
    above: ['melt-rate-exceeded'],
    below: [],
    propose: (pair) => {
      const cap = n(pair, 'meltCap')
      return {
        steps: steps('meltRate', Number((cap * 0.4).toFixed(1)), Number((cap * 1.8).toFixed(1)), 8),
        words: `From well under to well over the ${quantity(cap, 'mm³/s', 1)} in use.`,
      }
    },
    build: meltRun,
  },
  'pressure-lines': {
    name: 'Pressure lines',
    what: 'Lines that go slow, fast and slow, each with another pressure compensation.',
    place: 'line',
    keys: ['pressureCompensation'],
    across: [],
    counts: { min: 5, max: 15, usual: 11 },
    criteria: ['evenness'],
    settles: ['pressureCompensation'],
    above: [],
    below: ['pressure-not-relieved'],
    lacks: noPressure,
    propose: pressureSteps,
    build: pressureLines,
  },
  'corner-columns': {
    name: 'Corner columns',
    what: 'Square columns, each with another pressure compensation: bulging or hollow corners tell.',
    place: 'column',
    keys: ['pressureCompensation'],
    across: [],
    counts: { min: 3, max: 9, usual: 6 },
    criteria: ['corners'],
    settles: ['pressureCompensation'],
    above: [],
    below: ['pressure-not-relieved'],
    lacks: noPressure,
    propose: (pair) => {
      const p = pressureSteps(pair)
      return { ...p, steps: { ...p.steps, count: 6 } }
    },
    build: cornerColumns,
  },
  'seam-columns': {
    name: 'Seam columns',
    what: 'Columns with stepped early stop and wipe; starts stacked in the lower half and scattered in the upper.',
    place: 'column',
    keys: ['earlyStop', 'flowOuter'],
    across: ['wipe', 'flowOuter'],
    counts: { min: 2, max: 4, usual: 3 },
    criteria: ['seam'],
    settles: ['earlyStop', 'wipe', 'flowOuter'],
    above: ['loop-start-starved'],
    below: ['loop-end-overfill'],
    propose: ({ machine }, key) => {
      const d = machine.nozzle.diameter
      return {
        steps:
          key === 'flowOuter'
            ? steps('flowOuter', 94, 100, 3)
            : steps('earlyStop', 0, Number((2 * d ** 3).toFixed(2)), 3),
        across: steps('wipe', 0, d, 2),
        words: 'None, the nozzle’s cube and twice that; with and without a wipe of one nozzle.',
      }
    },
    build: seamColumns,
  },
  'speed-fins': {
    name: 'Speed fins',
    what: 'A long face at stepped outer-wall speed or acceleration: gloss, and ripples after the corners.',
    place: 'band',
    keys: ['outerSpeed', 'outerAcceleration'],
    across: [],
    counts: { min: 3, max: 8, usual: 6 },
    criteria: ['ripples', 'surface'],
    settles: ['outerSpeed', 'outerAcceleration'],
    above: ['outer-wall-too-fast', 'acceleration-too-high'],
    below: [],
    propose: (pair, key) => {
      const k = key as SettingKey
      const now = n(pair, k)
      const top = machineLimit(k, pair.machine) ?? now * 2
      return {
        steps: within(pair.machine, steps(k, now * 0.5, Math.min(top, now * 1.75), 6)),
        words: 'From half of what is in use to nearly twice.',
      }
    },
    build: speedFins,
  },
  'layer-time-pair': {
    name: 'Layer-time pair',
    what: 'The same column two at a time and then alone: whether time between layers is what it lacks.',
    place: 'half',
    keys: ['posts'],
    across: [],
    counts: { min: 2, max: 2, usual: 2 },
    criteria: ['detail', 'surface'],
    settles: ['minLayerTime'],
    timed: true,
    above: ['layer-time-too-short'],
    below: [],
    propose: () => ({ steps: steps('posts', 2, 1, 2), words: 'Two columns, then one.' }),
    build: layerTimePair,
  },
  'bridge-comb': {
    name: 'Bridge comb',
    what: 'Bars over wider and wider gaps: how far this pair bridges.',
    place: 'bridge',
    keys: ['span'],
    across: [],
    counts: { min: 3, max: 7, usual: 5 },
    criteria: ['bridge'],
    settles: [],
    above: [],
    below: [],
    propose: ({ machine }) => ({
      steps: steps('span', 10, Math.min(50, Math.round(machine.bed.width / 4)), 5),
      words: 'From one to five centimetres.',
    }),
    build: bridgeComb,
  },
  'string-posts': {
    name: 'String posts',
    what: 'Two posts with a gap: the quickest look at strings, with the recipe as it is.',
    place: 'gap',
    keys: ['span'],
    across: [],
    counts: { min: 1, max: 1, usual: 1 },
    criteria: ['strings'],
    settles: [],
    above: [],
    below: [],
    propose: () => ({ steps: steps('span', 40, 40, 1), words: 'The recipe as it is.' }),
    build: stringPostsPiece,
  },
  'size-plate': {
    name: 'Size plate',
    what: 'Bars, frames, discs and bores of known size along both axes, for calipers.',
    place: 'bar',
    keys: ['length'],
    across: [],
    counts: { min: 3, max: 6, usual: 4 },
    criteria: [],
    settles: [],
    above: [],
    below: [],
    propose: ({ machine }) => ({
      steps: steps('length', 10, Math.min(70, Math.floor(machine.bed.width * 0.3)), 4),
      words: 'From a centimetre to a third of the bed.',
    }),
    build: sizePlate,
  },
  'joint-ladder': {
    name: 'Joint ladder',
    what: 'Pins printed in their sockets with wider and wider gaps: the smallest that turns.',
    place: 'joint',
    keys: ['gap'],
    across: [],
    counts: { min: 4, max: 9, usual: 6 },
    criteria: ['free'],
    settles: [],
    above: [],
    below: [],
    propose: () => ({
      steps: steps('gap', 0.1, 0.6, 6),
      words: 'From a tenth to six tenths of a millimetre.',
    }),
    build: jointLadder,
  },
}

/** As far up and down as a sheet of paper is thick, and never into the bed. */
function heights(pair: PairOnBench): StepProposal {
  const now = n(pair, 'zOffset')
  const least = -0.6 * n(pair, 'firstHeight')
  return {
    steps: within(
      pair.machine,
      steps('zOffset', Math.max(least, now - 0.08), Math.max(least, now - 0.08) + 0.16, 9),
    ),
    words: 'As far up and down as a sheet of paper is thick, and never into the bed.',
  }
}

function noPressure({ machine }: PairOnBench): string | null {
  return commandsOf(machine).pressure === 'none'
    ? 'This machine has no command for pressure compensation.'
    : null
}
function pressureSteps({ machine }: PairOnBench): StepProposal {
  const top = machine.drive.kind === 'direct' ? 0.1 : 1
  return {
    steps: steps('pressureCompensation', 0, top, 11),
    words: `From none to ${top}, what ${machine.drive.kind === 'direct' ? 'a direct drive' : 'a tube'} may need.`,
  }
}

/** Steps moved into the bounds of their setting and of the machine, rounded as the setting is. */
export function within(machine: Machine, s: Steps): Steps {
  if (!isSettingKey(s.key)) return s
  const setting = settingOf(s.key) as NumberSetting
  const top = Math.min(setting.max, machineLimit(s.key, machine) ?? Infinity)
  const to = (v: number) => roundTo(setting, Math.min(top, Math.max(setting.min, v)))
  return { ...s, from: to(s.from), to: to(s.to) }
}

/** What a value is called and counted in. */
export function variedOf(key: VariedKey): { label: string; unit: string; digits: number } {
  if (isSettingKey(key)) {
    const s = settingOf(key) as NumberSetting
    return { label: s.label, unit: s.unit, digits: String(s.step).split('.')[1]?.length ?? 0 }
  }
  return {
    meltRate: { label: 'Feed rate', unit: 'mm³/s', digits: 1 },
    gap: { label: 'Gap', unit: 'mm', digits: 2 },
    span: { label: 'Gap bridged', unit: 'mm', digits: 0 },
    length: { label: 'Length', unit: 'mm', digits: 1 },
    posts: { label: 'Columns', unit: 'at a time', digits: 0 },
  }[key]
}

/**
 * Steps worth printing next: the whole of what is plausible at first, close round the best once a trial has shown it.
 */
export function proposeSteps(
  pair: PairOnBench,
  piece: PieceId,
  key?: VariedKey,
  known?: KnownBest | null,
): StepProposal {
  const d = PIECES[piece]
  const whole = d.propose(pair, key ?? d.keys[0])
  const wide: StepProposal = {
    ...whole,
    steps: within(pair.machine, whole.steps),
    ...(whole.across && { across: within(pair.machine, whole.across) }),
  }
  if (!known || wide.steps.count < 3) return wide
  const { from, to } = wide.steps
  const each = Math.abs(to - from) / (wide.steps.count - 1)
  const half = Math.max(known.high - known.best, known.best - known.low, each)
  const sign = Math.sign(to - from) || 1
  const narrow = within(pair.machine, {
    ...wide.steps,
    from: known.best - sign * half,
    to: known.best + sign * half,
    count: Math.max(d.counts.min, Math.min(wide.steps.count, 5)),
  })
  return {
    steps: narrow,
    words: `Close round the best of trial ${known.trial}.`,
  }
}

/** A fault in a plan as a sentence; null when it can be printed. */
export function planFault(pair: PairOnBench, plan: PiecePlan): string | null {
  const d = PIECES[plan.piece]
  const lack = d.lacks?.(pair)
  if (lack) return lack
  for (const [s, keys] of [
    [plan.steps, d.keys],
    [plan.across, d.across],
  ] as const) {
    if (!s) continue
    const { label, unit } = variedOf(s.key)
    if (!keys.includes(s.key)) return `${d.name} cannot step ${label.toLowerCase()}.`
    if (![s.from, s.to].every(Number.isFinite)) return `${label}: both ends are numbers.`
    const least = s === plan.across ? 1 : d.counts.min
    const most = s === plan.across ? 3 : d.counts.max
    if (!Number.isInteger(s.count) || s.count < least || s.count > most)
      return `${d.name} has ${least} to ${most} steps.`
    if (s.count > 1 && s.from === s.to) return `${label}: the two ends are the same, nothing would change.`
    const kept = within(pair.machine, s)
    const bounds: Partial<Record<VariedKey, [number, number]>> = {
      meltRate: [0.3, 60],
      gap: [0.02, 1.5],
      span: [3, 80],
      length: [5, 200],
      posts: [1, 2],
      wallCount: [1, 4],
    }
    const [low, high] = bounds[s.key] ?? [-Infinity, Infinity]
    for (const end of ['from', 'to'] as const) {
      if (
        isSettingKey(s.key) &&
        Math.abs(kept[end] - s[end]) > (settingOf(s.key) as NumberSetting).step / 2 + 1e-9
      )
        return `${label}: ${s[end]} ${unit} is out of bounds; ${kept[end]} ${unit} is the nearest this machine can do.`
      if (s.key === 'zOffset' && s[end] < -0.7 * n(pair, 'firstHeight'))
        return `${label}: ${s[end]} mm would press the nozzle into the bed.`
      if (s[end] < low || s[end] > high) return `${label} is from ${low} to ${high} ${unit}.`
    }
  }
  return null
}

/**
 * Writes a test piece for a pair, from its recipe and within the machine's limits.
 * @param header what stands at the head of the file besides: pair, recipe version, trial
 * @throws RangeError with a sentence when the plan is at fault or the piece does not fit
 */
export function makePiece(pair: PairOnBench, plan: PiecePlan, header: readonly string[] = []): Piece {
  const fault = planFault(pair, plan)
  if (fault) throw new RangeError(fault)
  const d = PIECES[plan.piece]
  const lists = [plan.steps, ...(plan.across ? [plan.across] : [])].map((s) => {
    const { label, unit } = variedOf(s.key)
    return `${label}: ${stepValues(s).join(', ')} ${unit}`.trim()
  })
  const b = new Builder(pair.machine, pair.recipe, d.name.toLowerCase(), [...header, ...lists])
  const { cells, view } = d.build(b, plan)
  const { gcode, box } = b.finish()
  return {
    id: plan.piece,
    gcode,
    cells: d.timed ? timed(cells, gcode, pair.machine) : cells,
    view,
    box,
    open: b.open,
    seconds: b.seconds,
  }
}

/** Cells with the time a layer of theirs takes on this machine, s, as the path reader plans it. */
function timed(cells: readonly Cell[], gcode: string, machine: Machine): Cell[] {
  const { layers } = readPath(
    readGcode(Uint8Array.from(gcode, (c) => Math.min(126, c.charCodeAt(0)))), // past ASCII are only names in comments
    {
      filamentDiameter: 1.75, // times do not hang on it
      density: 1.24,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    },
  )
  return cells.map((c) => {
    const inside = layers.seconds.filter(
      (_, i) => layers.z[i] > c.box.z0 + 0.4 && layers.z[i] < c.box.z1 - 0.4,
    )
    return { ...c, values: { ...c.values, minLayerTime: Number(median(inside).toFixed(1)) } }
  })
}

/** The largest number of steps whose piece prints within so many minutes, by rough time; the smallest there is if none. */
export function countWithin(pair: PairOnBench, plan: PiecePlan, minutes: number): number {
  const { min, max } = PIECES[plan.piece].counts
  for (let count = Math.min(max, Math.max(min, plan.steps.count)); count > min; count--) {
    try {
      if (makePiece(pair, { ...plan, steps: { ...plan.steps, count } }).seconds / 60 <= minutes) return count
    } catch {
      continue // too large: fewer
    }
  }
  return min
}

/** The piece of a trial the knowledge names. */
export const isPiece = (id: TrialId | string): id is PieceId => Object.hasOwn(PIECES, id)
