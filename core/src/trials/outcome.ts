import type { CheckId, TrialId } from '../knowledge/checks'
import type { SuspectId } from '../knowledge/suspects'
import type { Machine } from '../materials/machine'
import { machineLimit, type RecipeValues } from '../recipe/derive'
import {
  faultOf,
  isSettingKey,
  roundTo,
  settingOf,
  type NumberSetting,
  type SettingKey,
} from '../recipe/settings'
import {
  combined,
  coefficientInterval,
  linearFit,
  meanOf,
  resolutionUncertainty,
  tQuantile,
  type Uncertain,
} from '../statistics'
import { figure, quantity } from '../units/format'
import { CRITERIA, TOP_GRADE, type CriterionId } from './criteria'
import { PIECES, variedOf, within } from './pieces'
import { brokenStick, desirability, driftPValue, quadraticResponse, type FitPoint } from './response'
import type { Cell, PieceId, PiecePlan, Steps, VariedKey } from './types'

/** What a person noted of one cell. */
export interface CellReading {
  grades: Partial<Record<CriterionId, number>>
  /** Repeated measurements, in mm or g as the cell says. */
  measures: number[]
  /** Looked at, but not to be told. */
  unsure: boolean
  /** Left out on purpose. */
  skipped: boolean
  note: string
}
export const NO_READING: CellReading = { grades: {}, measures: [], unsure: false, skipped: false, note: '' }
export type Readings = Partial<Record<string, CellReading>>

/** A trial as far as its outcome needs it. */
export interface ReadTrial {
  number: number
  plan: PiecePlan
  cells: readonly Cell[]
  readings: Readings
  /** Step of the caliper's or scale's display. */
  resolution: number
}

/** A value a trial hands to the recipe. */
export interface Adoptable {
  key: SettingKey
  value: number
  /** Half of the 95 % interval. */
  plusMinus: number
}
export interface Outcome {
  /** found: a value stands; end: it lies beyond the range; flat: it makes no difference; few, bad: not enough, or not to be used. */
  kind: 'found' | 'end' | 'flat' | 'disagree' | 'few' | 'bad'
  /** What came out, in sentences; the first is the answer. */
  words: string[]
  key: VariedKey | null
  best: number | null
  low: number | null
  high: number | null
  /** Values that do about as well. */
  plateau: [number, number] | null
  adopt: Adoptable[]
  /** The criterion that decided. */
  decider: CriterionId | null
  r2: number | null
  sd: number | null
  points: FitPoint[]
  curve: { x: number; y: number }[]
  /** What the ordinate is. */
  scale: { label: string; unit: string; max: number }
  next: Steps | null
  drift: string | null
}

/** A desirability that is good enough to keep: grade 3 of 4 on everything. Common practice, no source. */
const GOOD_ENOUGH = 0.7
const LEAST_SD = 0.035
/** Grades that contradict each other by more than this have no common curve. Common practice, no source. */
const MOST_SD = 0.2

const empty = (kind: Outcome['kind'], words: string[], key: VariedKey | null = null): Outcome => ({
  kind,
  words,
  key,
  best: null,
  low: null,
  high: null,
  plateau: null,
  adopt: [],
  decider: null,
  r2: null,
  sd: null,
  points: [],
  curve: [],
  scale: { label: 'Desirability', unit: '', max: 1 },
  next: null,
  drift: null,
})

/** A fault in a measurement as a sentence; null when it can be used. */
export function measureFault(cell: Cell, value: number): string | null {
  const unit = cell.measure === 'grams' ? 'g' : 'mm'
  if (!Number.isFinite(value)) return 'A measurement is a number.'
  if (value <= 0) return 'A measurement is above 0.'
  const nominal = cell.nominal ?? 0
  // how far off a slip of the pen or a bad print may be before it is none of either
  const [low, high, slack] =
    cell.measure === 'grams' ? [0.2, 1.6, 0] : cell.measure === 'wall' ? [0.5, 1.8, 0] : [0.8, 1.2, 1]
  if (nominal > 0 && (value < nominal * low - slack || value > nominal * high + slack))
    return `${cell.name} should be about ${quantity(nominal, unit, 2)}: ${quantity(value, unit, 2)} cannot be that.`
  return null
}

/** Graded cells as points: the desirability of what was graded, over the stepped value. */
function gradedPoints(trials: readonly ReadTrial[], key: VariedKey, only?: CriterionId): FitPoint[] {
  const newest = Math.max(...trials.map((t) => t.number))
  return trials.flatMap((t) => {
    const criteria = PIECES[t.plan.piece].criteria.filter((c) => !only || c === only)
    return t.cells.flatMap((cell): FitPoint[] => {
      const r = t.readings[cell.id]
      const x = cell.values[key]
      if (!r || r.skipped || x === undefined) return []
      const grades = criteria.flatMap((c) =>
        r.grades[c] === undefined ? [] : [{ grade: r.grades[c], weight: 1 }],
      )
      if (!grades.length) return []
      return [
        {
          x,
          y: desirability(grades, TOP_GRADE),
          // unsure readings and older trials count half
          weight: (r.unsure ? 0.5 : 1) * (t.number === newest ? 1 : 0.5),
          trial: t.number,
        },
      ]
    })
  })
}

const ordered = (a: number, b: number): [number, number] => (a <= b ? [a, b] : [b, a])

/** The settings's rounding, or two digits for what is no setting. */
const rounded = (key: VariedKey, v: number) =>
  isSettingKey(key) ? roundTo(settingOf(key) as NumberSetting, v) : Number(v.toFixed(2))
const text = (key: VariedKey, v: number) => {
  const { unit, digits } = variedOf(key)
  return quantity(rounded(key, v), unit, digits)
}

/**
 * What a trial, and earlier ones of the same kind on the same pair, say.
 * @param trials the newest last
 */
export function outcomeOf(trials: readonly ReadTrial[], recipe: RecipeValues, machine: Machine): Outcome {
  const trial = trials.at(-1)!
  const bad = faultsOf(trial)
  if (bad.length) return empty('bad', bad)
  switch (trial.plan.piece) {
    case 'flow-box':
      return flowOutcome(trial, recipe)
    case 'melt-rate-run':
      return meltOutcome(trial)
    case 'seam-columns':
      return factorOutcome(trial)
    case 'joint-ladder':
    case 'bridge-comb':
      return thresholdOutcome(trial)
    case 'size-plate':
      return sizeOutcome(trial)
    case 'string-posts':
    case 'layer-time-pair':
      return compareOutcome(trial)
    default:
      return responseOutcome(trials, machine)
  }
}

/** What one of a pair's trials says, together with the earlier ones of its kind. */
export function outcomeAmong(
  trial: ReadTrial,
  all: readonly ReadTrial[],
  recipe: RecipeValues,
  machine: Machine,
): Outcome {
  const earlier = all
    .filter(
      (o) =>
        o.number < trial.number &&
        o.plan.piece === trial.plan.piece &&
        o.plan.steps.key === trial.plan.steps.key,
    )
    .sort((a, b) => a.number - b.number)
  return outcomeOf([...earlier, trial], recipe, machine)
}

/** What the newest trial of each kind says of suspects, with the recipe as it is now. */
export function evidenceOfTrials(
  all: readonly ReadTrial[],
  recipe: RecipeValues,
  machine: Machine,
): CheckFinding[] {
  return all
    .filter((t) => !all.some((o) => o.plan.piece === t.plan.piece && o.number > t.number))
    .flatMap((t) =>
      trialEvidence(t.plan.piece, outcomeAmong(t, all, recipe, machine), (key) => Number(recipe[key].value)),
    )
}

/** Sentences on readings that cannot be. */
function faultsOf(t: ReadTrial): string[] {
  const out: string[] = []
  for (const cell of t.cells)
    for (const v of t.readings[cell.id]?.measures ?? []) {
      const fault = measureFault(cell, v)
      if (fault) out.push(fault)
    }
  for (const r of Object.values(t.readings))
    for (const [c, g] of Object.entries(r?.grades ?? {}))
      if (!(g !== undefined && Number.isInteger(g) && g >= 0 && g <= TOP_GRADE))
        out.push(
          `${CRITERIA[c as CriterionId]?.name ?? 'A grade'}: a grade is a whole number from 0 to ${TOP_GRADE}.`,
        )
  return [...new Set(out)]
}

/** Bands, patches, columns or lines graded over one stepped value: a best with its interval, or the shortest that is clean. */
function responseOutcome(trials: readonly ReadTrial[], machine: Machine): Outcome {
  const trial = trials.at(-1)!
  const { steps } = trial.plan
  const key = steps.key
  const { label } = variedOf(key)
  const like = trials.filter((t) => t.plan.steps.key === key)
  const points = gradedPoints(like, key)
  const place = PIECES[trial.plan.piece].place
  const distinct = new Set(points.map((p) => p.x)).size
  const least = key === 'retractLength' ? 4 : 3
  if (distinct < least) {
    const places = place === 'patch' ? 'patches' : `${place}s`
    const graded =
      distinct === 0
        ? 'Nothing is'
        : distinct === 1
          ? `Only one ${place} is`
          : `Only ${distinct} ${places} are`
    return {
      ...empty(
        'few',
        [`${graded} graded: ${least} different ones are the least that a curve can be laid through.`],
        key,
      ),
      points,
    }
  }
  const spread = Math.max(...points.map((p) => p.y)) - Math.min(...points.map((p) => p.y))
  const mean = points.reduce((s, p) => s + p.y, 0) / points.length
  if (spread < 0.08)
    return {
      ...empty(
        'flat',
        [
          `All are graded alike: between ${text(key, steps.from)} and ${text(key, steps.to)} ${label.toLowerCase()} makes no difference that can be seen.`,
          mean > 0.8 ? 'Keep what is in use.' : 'What is wrong here comes from something else.',
        ],
        key,
      ),
      points,
    }
  const drift = driftPValue(points)
  const base: Outcome = {
    ...empty('found', [], key),
    points,
    decider: deciderOf(like, key),
    drift:
      drift < 0.05
        ? `This trial and earlier ones differ in level by more than the scatter (p ${figure(drift, 3)}): something besides ${label.toLowerCase()} has changed.`
        : null,
  }
  const [low, high] = ordered(Math.min(...points.map((p) => p.x)), Math.max(...points.map((p) => p.x)))
  const span = high - low
  const range = (from: number, to: number) =>
    within(machine, {
      ...steps,
      from: steps.from <= steps.to ? from : to,
      to: steps.from <= steps.to ? to : from,
    })
  if (key === 'retractLength') {
    const fit = brokenStick(points, -1, LEAST_SD)!
    const curve = curveOf(fit.at, low, high)
    const common = { ...base, curve, r2: fit.r2, sd: fit.sd }
    if (fit.sd > MOST_SD) return { ...common, ...disagreement(label) }
    if (fit.p > 0.1)
      return {
        ...common,
        kind: 'flat',
        words: [
          'Longer or shorter makes no difference beyond the scatter: strings come from something else.',
        ],
      }
    if (fit.slope < 0)
      return {
        ...common,
        kind: 'end',
        best: low,
        words: ['The shortest is the cleanest: print the next one shorter.'],
        next: range(Math.max(0, low - span / 2), low + span / 3),
      }
    // the level has to be seen at two lengths at least
    const beyond = [...new Set(points.map((p) => p.x))].filter((x) => x >= fit.knee - 1e-9).length
    if (beyond < 2)
      return {
        ...common,
        kind: 'end',
        best: high,
        words: [
          `It still gets better at ${text(key, high)}: the end of the range. Print the next one further.`,
        ],
        next: range(high - span / 3, high + span / 2),
      }
    const half = Math.max((fit.high - fit.low) / 2, span / (2 * (steps.count - 1) * Math.sqrt(3)))
    const second = acrossEffect(trial)
    const value = rounded(key, Math.min(high, fit.knee))
    return {
      ...common,
      best: fit.knee,
      low: fit.low,
      high: fit.high,
      plateau: [fit.knee, high],
      adopt: [{ key: 'retractLength', value, plusMinus: Number(half.toFixed(2)) }, ...(second?.adopt ?? [])],
      words: [
        `The shortest that stays clean is ${text(key, fit.knee)}, 95 % between ${text(key, fit.low)} and ${text(key, fit.high)}.`,
        `Up to ${text(key, high)} it is as clean and no better.`,
        ...(second ? [second.words] : []),
      ],
    }
  }
  const fit = quadraticResponse(points, LEAST_SD)
  if (!fit)
    return {
      ...base,
      kind: 'few',
      words: ['Three different ones are the least that a curve can be laid through.'],
    }
  const common = { ...base, curve: curveOf(fit.at, low, high), r2: fit.r2, sd: fit.sd }
  if (fit.sd > MOST_SD || (fit.p > 0.2 && points.length > 4)) return { ...common, ...disagreement(label) }
  // within half a step of an end, and perhaps beyond it: the range has not shown the best
  const step = span / Math.max(1, distinct - 1)
  const atLow = fit.best - low < step / 2 && fit.low < low
  const atHigh = high - fit.best < step / 2 && fit.high > high
  if (!fit.bends || atLow || atHigh) {
    const end = !fit.bends ? (fit.at(low) > fit.at(high) ? low : high) : atLow ? low : high
    const other = end === low ? 1 : -1
    const limited =
      isSettingKey(key) && end === (machineLimit(key, machine) ?? (settingOf(key) as NumberSetting).max)
    const next = range(...ordered(end - other * span * 0.6, end + other * span * 0.3))
    const moves = Math.min(next.from, next.to) < low - 1e-9 || Math.max(next.from, next.to) > high + 1e-9
    return {
      ...common,
      kind: 'end',
      best: end,
      words: [
        `Best is at the end of the range, ${text(key, end)}.`,
        limited || !moves
          ? 'The machine or the setting goes no further: take it, or look for another cause.'
          : `Print the next one from ${text(key, next.from)} to ${text(key, next.to)}.`,
      ],
      next: limited || !moves ? null : next,
    }
  }
  // as good as the best to within a twentieth of its desirability
  const top = fit.at(fit.best)
  const good = curveOf(fit.at, low, high, 240).filter((c) => c.y >= 0.95 * top)
  const plateau: [number, number] | null = good.length ? [good[0].x, good.at(-1)!.x] : null
  const half = (fit.high - fit.low) / 2
  const adopt: Adoptable[] =
    isSettingKey(key) && !faultOf(key, rounded(key, fit.best))
      ? [{ key, value: rounded(key, fit.best), plusMinus: Number(half.toPrecision(2)) }]
      : []
  const decider = base.decider
  return {
    ...common,
    best: fit.best,
    low: fit.low,
    high: fit.high,
    plateau,
    adopt,
    words: [
      `Best at ${text(key, fit.best)}, 95 % between ${text(key, fit.low)} and ${text(key, fit.high)}.`,
      fit.high - fit.low > span
        ? 'That is wider than what was printed: read it more finely, or print it once more, before you trust it.'
        : '',
      plateau ? `From ${text(key, plateau[0])} to ${text(key, plateau[1])} it is nearly as good.` : '',
      decider ? `${CRITERIA[decider].name} decided.` : '',
    ].filter(Boolean),
  }
}

/**
 * What a second factor, stepped by row, did: rows are compared band by band, so that the first factor falls out
 * (paired differences, t interval).
 */
function acrossEffect(t: ReadTrial): { words: string; adopt: Adoptable[] } | null {
  const { across, steps } = t.plan
  if (!across || across.count < 2) return null
  const y = (c: Cell) => t.readings[c.id]?.grades.strings
  const by = (v: number) =>
    new Map(t.cells.filter((c) => c.values[across.key] === v).map((c) => [c.values[steps.key], y(c)]))
  const [first, last] = [by(across.from), by(across.to)]
  const gains = [...first].flatMap(([x, a]) => {
    const b = last.get(x)
    return a === undefined || b === undefined ? [] : [(b - a) / TOP_GRADE]
  })
  if (gains.length < 3) return null
  const { mean, u, dof } = meanOf(gains)
  const half = tQuantile(0.975, dof) * Math.max(u, LEAST_SD / Math.sqrt(gains.length))
  const { label } = variedOf(across.key)
  if (Math.abs(mean) <= half) return { words: `${label} makes no difference beyond the scatter.`, adopt: [] }
  const best = mean > 0 ? across.to : across.from
  return {
    words: `${label}: ${text(across.key, best)} does better than ${text(across.key, mean > 0 ? across.from : across.to)}.`,
    adopt:
      isSettingKey(across.key) && !faultOf(across.key, best)
        ? [{ key: across.key, value: best, plusMinus: halfStep(t.plan, across.key) }]
        : [],
  }
}

const disagreement = (label: string): Pick<Outcome, 'kind' | 'words'> => ({
  kind: 'disagree',
  words: [
    `These readings disagree with each other: no curve over ${label.toLowerCase()} runs through them.`,
    'Look again at those that stand off, or print it once more.',
  ],
})

function curveOf(at: (x: number) => number, low: number, high: number, count = 60) {
  return Array.from({ length: count + 1 }, (_, i) => {
    const x = low + ((high - low) * i) / count
    return { x, y: at(x) }
  })
}

/** The criterion whose grades change most over the range. */
function deciderOf(trials: readonly ReadTrial[], key: VariedKey): CriterionId | null {
  const all = PIECES[trials.at(-1)!.plan.piece].criteria
  if (all.length < 2) return null
  let best: CriterionId | null = null
  let most = 0
  for (const c of all) {
    const y = gradedPoints(trials, key, c).map((p) => p.y)
    if (y.length < 2) continue
    const m = y.reduce((s, v) => s + v, 0) / y.length
    const v = y.reduce((s, u) => s + (u - m) ** 2, 0) / y.length
    if (v > most) {
      most = v
      best = c
    }
  }
  return best
}

/**
 * Flow from a wall of known width: nominal over measured, with its uncertainty after JCGM 100 (GUM): scatter of the
 * repeats, step of the display, and the caliper itself (± 0.02 mm, rectangular; common practice for hobby calipers).
 * @returns the new flow in %, with its 95 % interval
 */
export function flowFromWall(
  measures: readonly number[],
  nominal: number,
  flow: number,
  resolution: number,
): Uncertain {
  const { mean, u, dof } = meanOf(measures)
  const relative = (v: number) => v / mean
  const parts = [
    ...(measures.length > 1 ? [{ u: relative(u), dof }] : []),
    { u: relative(resolutionUncertainty(resolution)), dof: Infinity },
    { u: relative(0.02 / Math.sqrt(3)), dof: Infinity },
  ]
  const value = (flow * nominal) / mean
  return combined(
    value,
    parts.map((p) => ({ u: p.u * value, dof: p.dof })),
  )
}

function flowOutcome(t: ReadTrial, recipe: RecipeValues): Outcome {
  const box = t.cells.find((c) => c.measure === 'wall')!
  const measures = t.readings[box.id]?.measures ?? []
  const strips = gradedPoints([t], 'flowSolid')
  const out = empty('found', [], 'flow')
  const present = Number(recipe.flow.value)
  if (measures.length) {
    const found = flowFromWall(measures, box.nominal!, box.values.flow ?? present, t.resolution)
    const value = rounded('flow', found.value)
    out.best = found.value
    out.low = found.value - found.expanded
    out.high = found.value + found.expanded
    out.words.push(
      `The wall measures ${quantity(meanOf(measures).mean, 'mm', 3)} against ${quantity(box.nominal!, 'mm', 3)}: flow ${quantity(value, '%', 1)} ± ${figure(found.expanded, 1)}.`,
    )
    if (measures.length < 3)
      out.words.push('Measure all four sides: one or two readings say little about the scatter.')
    if (Math.abs(found.value - present) < found.expanded)
      out.words.push(`The ${quantity(present, '%', 1)} in use lies within that: nothing has to change.`)
    const fault = faultOf('flow', value)
    if (fault) out.words.push(fault)
    else out.adopt.push({ key: 'flow', value, plusMinus: Number(found.expanded.toFixed(2)) })
  }
  if (new Set(strips.map((p) => p.x)).size >= 3) {
    const fit = quadraticResponse(strips, LEAST_SD)
    const xs = strips.map((p) => p.x)
    out.points = strips
    if (fit && fit.bends && fit.sd <= MOST_SD) {
      out.curve = curveOf(fit.at, Math.min(...xs), Math.max(...xs))
      out.r2 = fit.r2
      out.sd = fit.sd
      const value = rounded('flowSolid', fit.best)
      out.words.push(`Solid fill closes best at ${quantity(value, '%', 1)} of it.`)
      if (!faultOf('flowSolid', value))
        out.adopt.push({ key: 'flowSolid', value, plusMinus: Number(((fit.high - fit.low) / 2).toFixed(1)) })
    } else out.words.push('The strips of solid fill show no best: leave their flow as it is.')
  }
  if (!out.words.length) return empty('few', ['Measure the wall of the box, or grade three strips.'], 'flow')
  return out
}

function meltOutcome(t: ReadTrial): Outcome {
  const points: FitPoint[] = t.cells.flatMap((c) => {
    const r = t.readings[c.id]
    if (!r || r.skipped || !r.measures.length) return []
    return [
      {
        x: c.values.meltRate!,
        y: meanOf(r.measures).mean / c.nominal!,
        weight: r.unsure ? 0.5 : 1,
        trial: t.number,
      },
    ]
  })
  const scale = { label: 'Weighed of what was asked', unit: '', max: 1.1 }
  if (new Set(points.map((p) => p.x)).size < 4)
    return { ...empty('few', ['Weigh four heaps at least.'], 'meltRate'), points, scale }
  const fit = brokenStick(points, 1, 0.004)!
  const [low, high] = [Math.min(...points.map((p) => p.x)), Math.max(...points.map((p) => p.x))]
  const common = {
    ...empty('found', [], 'meltRate'),
    points,
    scale,
    curve: curveOf(fit.at, low, high),
    r2: fit.r2,
    sd: fit.sd,
  }
  if (fit.sd > 0.06) return { ...common, ...disagreement('feed rate') }
  const last = fit.at(high)
  if (fit.slope >= 0 || fit.p > 0.05 || last > 0.95 * fit.level)
    return {
      ...common,
      kind: 'end',
      words: [
        `Up to ${quantity(high, 'mm³/s', 1)} no more than a twentieth is lost: it melts all of that.`,
        `Print the next one from ${quantity(high * 0.8, 'mm³/s', 1)} to ${quantity(high * 1.6, 'mm³/s', 1)}.`,
      ],
      next: { ...t.plan.steps, from: Number((high * 0.8).toFixed(1)), to: Number((high * 1.6).toFixed(1)) },
    }
  // where a twentieth is lost, and a tenth below that
  const loss = fit.knee + (0.05 * fit.level) / -fit.slope
  const cap = 0.9 * loss
  const half = 0.9 * ((fit.high - fit.low) / 2)
  const value = rounded('meltCap', cap)
  return {
    ...common,
    best: cap,
    low: cap - half,
    high: cap + half,
    adopt: faultOf('meltCap', value) ? [] : [{ key: 'meltCap', value, plusMinus: Number(half.toFixed(1)) }],
    words: [
      `From ${quantity(loss, 'mm³/s', 1)} on a twentieth is lost; the cap is a tenth below: ${quantity(value, 'mm³/s', 1)} ± ${figure(half, 1)}.`,
    ],
  }
}

export interface Effect {
  key: VariedKey
  /** Change of the desirability from the lowest to the highest level. */
  effect: number
  /** 95 % interval; null when nothing is left to judge the scatter by. */
  interval: [number, number] | null
  best: number
}

/**
 * Main effects of a designed set (Box, Hunter & Hunter 1978): one line for each factor through all runs, factors scaled
 * from −1 to 1, so that an effect is the change from the lowest to the highest level.
 */
export function mainEffects(
  runs: readonly { values: Partial<Record<VariedKey, number>>; y: number; weight?: number }[],
  keys: readonly VariedKey[],
): Effect[] | null {
  const levels = keys.map((k) => {
    const v = runs.map((r) => r.values[k] ?? NaN)
    return [Math.min(...v), Math.max(...v)] as const
  })
  if (levels.some(([a, b]) => !(b > a))) return null
  const code = (k: number, v: number) => (2 * v - levels[k][0] - levels[k][1]) / (levels[k][1] - levels[k][0])
  const fit = linearFit(
    runs.map((r) => [1, ...keys.map((key, k) => code(k, r.values[key]!))]),
    runs.map((r) => r.y),
    runs.map((r) => r.weight ?? 1),
  )
  if (!fit) return null
  return keys.map((key, k) => {
    const interval = fit.dof > 0 ? coefficientInterval(fit, k + 1) : null
    const means = [...new Set(runs.map((r) => r.values[key]!))].map((v) => {
      const own = runs.filter((r) => r.values[key] === v)
      return { v, y: own.reduce((s, r) => s + r.y, 0) / own.length }
    })
    return {
      key,
      effect: 2 * fit.coefficients[k + 1],
      interval: interval && [2 * interval[0], 2 * interval[1]],
      best: means.reduce((m, c) => (c.y > m.y ? c : m)).v,
    }
  })
}

function factorOutcome(t: ReadTrial): Outcome {
  const keys = [t.plan.steps.key, ...(t.plan.across ? [t.plan.across.key] : [])]
  const runs = t.cells.flatMap((c) => {
    const r = t.readings[c.id]
    const y = r?.grades.seam
    return !r || r.skipped || y === undefined
      ? []
      : [{ values: c.values, y: y / TOP_GRADE, weight: r.unsure ? 0.5 : 1 }]
  })
  const points = runs.map((r) => ({ x: r.values[keys[0]]!, y: r.y, weight: r.weight, trial: t.number }))
  const few = empty(
    'few',
    [`Grade at least ${keys.length + 2} columns, at different values of each.`],
    keys[0],
  )
  if (runs.length < keys.length + 2) return { ...few, points }
  const effects = mainEffects(runs, keys)
  if (!effects) return { ...few, points }
  if (Math.max(...runs.map((r) => r.y)) - Math.min(...runs.map((r) => r.y)) < 0.08)
    return {
      ...empty(
        'flat',
        ['All columns are graded alike: neither makes a difference that can be seen.'],
        keys[0],
      ),
      points,
    }
  const sure = (e: Effect) => e.interval !== null && (e.interval[0] > 0 || e.interval[1] < 0)
  const words = effects.map((e) => {
    const { label, unit, digits } = variedOf(e.key)
    const amount = `${e.effect >= 0 ? '+' : '−'}${figure(Math.abs(e.effect), 2)}`
    return sure(e)
      ? `${label}: ${amount} from least to most; best at ${quantity(e.best, unit, digits)}.`
      : `${label}: ${amount}, no more than the scatter.`
  })
  const counting = effects.filter(sure)
  return {
    ...empty(counting.length ? 'found' : 'flat', words, keys[0]),
    points,
    best: counting.find((e) => e.key === keys[0])?.best ?? null,
    adopt: counting.flatMap((e) =>
      isSettingKey(e.key) && !faultOf(e.key, e.best)
        ? [{ key: e.key, value: e.best, plusMinus: halfStep(t.plan, e.key) }]
        : [],
    ),
  }
}
/** Between two levels nothing was seen: half a step each way. */
const halfStep = (plan: PiecePlan, key: VariedKey) => {
  const s = plan.steps.key === key ? plan.steps : plan.across!
  return Number((Math.abs(s.to - s.from) / Math.max(1, s.count - 1) / 2).toFixed(3))
}

/** The smallest gap that is free, or the widest that is bridged. */
function thresholdOutcome(t: ReadTrial): Outcome {
  const joints = t.plan.piece === 'joint-ladder'
  const key: VariedKey = joints ? 'gap' : 'span'
  const criterion: CriterionId = joints ? 'free' : 'bridge'
  const seen = t.cells
    .flatMap((c) => {
      const r = t.readings[c.id]
      const g = r?.grades[criterion]
      return !r || r.skipped || g === undefined ? [] : [{ x: c.values[key]!, ok: g >= 3, g }]
    })
    .sort((a, b) => (joints ? a.x - b.x : b.x - a.x))
  const points = seen.map((s) => ({ x: s.x, y: s.g / TOP_GRADE, weight: 1, trial: t.number }))
  if (seen.length < 2) return { ...empty('few', ['Grade two at least.'], key), points }
  const at = seen.findIndex((s) => s.ok)
  const name = joints ? 'joint' : 'bridge'
  if (at < 0)
    return {
      ...empty(
        'end',
        [`No ${name} is good: print the next one with ${joints ? 'wider' : 'shorter'} gaps.`],
        key,
      ),
      points,
      next: {
        ...t.plan.steps,
        from: joints ? t.plan.steps.to : Math.max(3, t.plan.steps.from / 3),
        to: joints ? Math.min(1.5, t.plan.steps.to * 2) : t.plan.steps.from,
      },
    }
  if (seen.slice(at).some((s) => !s.ok))
    return {
      ...empty(
        'disagree',
        [
          `These readings disagree: ${joints ? 'a wider gap is fused where a narrower one is free' : 'a shorter bridge sags where a longer one holds'}. Try those again.`,
        ],
        key,
      ),
      points,
    }
  const best = seen[at].x
  const before = seen[at - 1]?.x
  return {
    ...empty(
      'found',
      [
        joints
          ? `The smallest gap that turns is ${quantity(best, 'mm', 2)}${before === undefined ? ', the narrowest there was' : `; ${quantity(before, 'mm', 2)} does not`}. Draw joints no tighter.`
          : `It bridges ${quantity(best, 'mm', 0)}${before === undefined ? ', the widest there was' : `, but not ${quantity(before, 'mm', 0)}`}. Put supports under what is longer.`,
      ],
      key,
    ),
    points,
    best,
    low: joints ? (before ?? null) : best,
    high: joints ? best : (before ?? null),
  }
}

function sizeOutcome(t: ReadTrial): Outcome {
  const rows = t.cells.flatMap((c) => {
    const m = t.readings[c.id]?.measures ?? []
    return m.length && c.nominal ? [{ c, error: meanOf(m).mean - c.nominal }] : []
  })
  const outside = rows.filter((r) => r.c.measure === 'outside' && r.c.axis !== 'z')
  const inside = rows.filter((r) => r.c.measure === 'inside')
  const points = outside.map((r) => ({ x: r.c.nominal!, y: r.error, weight: 1, trial: t.number }))
  const scale = { label: 'Error', unit: 'mm', max: 0 }
  if (new Set(points.map((p) => p.x)).size < 3)
    return { ...empty('few', ['Measure three bars of different length at least.'], 'length'), points, scale }
  const fit = linearFit(
    points.map((p) => [1, p.x]),
    points.map((p) => p.y),
  )!
  const ci = fit.dof > 0 ? [coefficientInterval(fit, 0), coefficientInterval(fit, 1)] : null
  const sure = (i: number) => !!ci && (ci[i][0] > 0 || ci[i][1] < 0)
  const hole = inside.length ? inside.reduce((s, r) => s + r.error, 0) / inside.length : null
  const words = [
    sure(0)
      ? `Outsides are ${quantity(Math.abs(fit.coefficients[0]), 'mm', 3)} too ${fit.coefficients[0] > 0 ? 'large' : 'small'} at every length: the contour.`
      : 'No constant error that stands out of the scatter.',
    sure(1)
      ? `Lengths are ${quantity(Math.abs(fit.coefficients[1]) * 100, '%', 2)} too ${fit.coefficients[1] > 0 ? 'long' : 'short'}: scale or shrinkage.`
      : 'Nothing that grows with the length.',
    ...(hole === null
      ? []
      : [
          `Holes and frames are ${quantity(Math.abs(hole), 'mm', 3)} too ${hole > 0 ? 'large' : 'small'} on average.`,
        ]),
  ]
  const xs = points.map((p) => p.x)
  return {
    ...empty(sure(0) || sure(1) ? 'found' : 'flat', words, 'length'),
    points,
    scale,
    curve: curveOf((x) => fit.coefficients[0] + fit.coefficients[1] * x, Math.min(...xs), Math.max(...xs), 2),
    r2: fit.r2,
    sd: fit.sd,
  }
}

/** Pieces without a curve: what was graded, in words. */
function compareOutcome(t: ReadTrial): Outcome {
  const key = t.plan.steps.key
  const points = gradedPoints([t], key)
  if (t.plan.piece === 'string-posts') {
    const g = t.readings.gap?.grades.strings
    if (g === undefined) return empty('few', ['Grade what hangs between the posts.'], key)
    return {
      ...empty(
        'found',
        [
          `Strings: ${CRITERIA.strings.grades[g]}.`,
          g >= 3
            ? 'Clean enough.'
            : 'A temperature tower, then a retraction tower, tells which of the two it is.',
        ],
        key,
      ),
      points,
    }
  }
  const two = points.find((p) => p.x === 2)
  const one = points.find((p) => p.x === 1)
  if (!two || !one) return { ...empty('few', ['Grade both halves.'], key), points }
  if (two.y - one.y <= 0.15)
    return {
      ...empty('found', ['Both halves are alike: time between layers is not what it lacks.'], key),
      points,
    }
  const words = ['Two at a time come out better: layers lack time.']
  const time = (posts: number) => t.cells.find((c) => c.values.posts === posts)?.values.minLayerTime
  const [long, short] = [time(2), time(1)]
  // trials written before the time of a layer was kept with the piece have none
  if (long === undefined || short === undefined || two.y < GOOD_ENOUGH)
    return {
      ...empty(
        'found',
        [...words, 'Even so it is not good yet: more air, or cooler plastic, comes first.'],
        key,
      ),
      points,
    }
  // the least that is enough lies between both; the longer one is known to do
  const value = Math.min(60, Math.ceil(long * 2) / 2)
  return {
    ...empty(
      'found',
      [
        ...words,
        `${quantity(short, 's', 1)} a layer is too little, ${quantity(long, 's', 1)} is enough; what lies between was not tried.`,
      ],
      key,
    ),
    adopt: [{ key: 'minLayerTime', value, plusMinus: Number(((long - short) / 2).toFixed(1)) }],
    points,
  }
}

/** A suspect found or cleared by a trial. */
export interface CheckFinding {
  by: CheckId | TrialId
  suspect: SuspectId
  found: boolean
}

/** Whether the value in use was found too high, too low or right, for the suspects a piece speaks about. */
export function trialEvidence(
  piece: PieceId,
  outcome: Outcome,
  inUse: (key: SettingKey) => number,
): CheckFinding[] {
  const d = PIECES[piece]
  const by = piece as TrialId
  if (piece === 'layer-time-pair') {
    if (outcome.kind !== 'found') return []
    return d.above.map((suspect) => ({ by, suspect, found: outcome.words[0].startsWith('Two') }))
  }
  const key = outcome.key === 'meltRate' ? 'meltCap' : outcome.key
  if (outcome.kind !== 'found' || outcome.low === null || outcome.high === null || !key || !isSettingKey(key))
    return []
  const now = inUse(key)
  const low = Math.min(outcome.low, outcome.plateau?.[0] ?? Infinity)
  const high = Math.max(outcome.high, outcome.plateau?.[1] ?? -Infinity)
  return [
    ...d.above.map((suspect) => ({ by, suspect, found: now > high })),
    ...d.below.map((suspect) => ({ by, suspect, found: now < low })),
  ]
}
