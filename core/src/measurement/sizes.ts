import type { Reason } from '../quantity/reason'
import { tPValue, tQuantile } from '../statistics/distributions'
import { linearFit, type LinearFit } from '../statistics/regression'
import { median } from '../statistics/summary'
import { meanOf } from '../statistics/uncertainty'
import { readingUncertainty, type Instrument } from './instruments'
import { measuredReason } from './reasons'
import type { SizeReading, WantedSize } from './types'

/**
 * What sizes are taken apart into: a constant of outsides and of insides, one in proportion along each axis, a constant
 * of heights, what the base stands out by, and the angle between the axes.
 */
export const SIZE_TERMS = [
  'contour',
  'hole',
  'scaleX',
  'scaleY',
  'height',
  'scaleZ',
  'flare',
  'skew',
] as const
export type SizeTerm = (typeof SIZE_TERMS)[number]

/** A term with its interval. mm; scales as a share of the length; skew in radians. */
export interface FittedTerm {
  term: SizeTerm
  value: number
  /** Half of the 95 % interval. */
  plusMinus: number
  /** p-value of the F test against the model without it. */
  p: number
  significant: boolean
}

/** Settings a recipe may take from sizes; each has the name it has there. */
export type SizeSetting = 'contourOffset' | 'holeOffset' | 'scaleX' | 'scaleY' | 'scaleZ' | 'footTrim'
export interface SizeCorrection {
  key: SizeSetting
  value: number
  plusMinus: number
}
/** A correction of the machine, not of the recipe: by how much the steps of an axis are to be multiplied. */
export interface AxisCorrection {
  axis: 'x' | 'y' | 'z'
  factor: number
  plusMinus: number
}

/** Values of the recipe the measured part was printed with. */
export type SizesInUse = Record<SizeSetting, number>
export const NO_CORRECTION: SizesInUse = {
  contourOffset: 0,
  holeOffset: 0,
  scaleX: 100,
  scaleY: 100,
  scaleZ: 100,
  footTrim: 0,
}

export interface SizesContext {
  instrument: Instrument
  inUse?: SizesInUse
  /** % the family shrinks, and whether it is soft. */
  shrink?: number
  soft?: boolean
  family?: string
  /** Fastest over slowest of the walls and fill the part was printed with. */
  speedRatio?: number
}

/** A size foretold, now and once corrected, mm with half of the 95 % interval. */
export interface ForetoldSize {
  wanted: WantedSize
  now: number
  after: number
  plusMinus: number
}

export interface SizesOutcome {
  kind: 'found' | 'flat' | 'few'
  terms: FittedTerm[]
  /** Terms these readings cannot tell apart. */
  together: SizeTerm[][]
  /** mm; scatter of a single size. */
  sd: number
  dof: number
  reasons: Reason[]
  /** What the recipe may take. */
  corrections: SizeCorrection[]
  /** Instead of those, where scale and contour cannot be told apart. */
  instead: SizeCorrection[]
  machine: AxisCorrection[]
  foretold: ForetoldSize[]
  /** Each size with its error, what the terms explain of it, and what would be left. */
  rows: { id: string; error: number; fitted: number; after: number; outlier: boolean }[]
  /** The measurement that would tell most of what is still open. */
  next: SizeSuggestion | null
}
export interface SizeSuggestion {
  axis: SizeReading['axis']
  kind: 'outside' | 'inside'
  place: SizeReading['place']
  nominal: number
  term: SizeTerm
}

const SIGNIFICANT = 0.05
/** Degrees of freedom under which the scatter is backed by what such readings usually scatter. */
const FEW_DOF = 4

/** How a term enters a size. */
export function columnsOf(
  r: Pick<SizeReading, 'axis' | 'kind' | 'place' | 'round' | 'nominal'>,
): Partial<Record<SizeTerm, number>> {
  const { axis, kind, nominal: length } = r
  const across = axis === 'd1' || axis === 'd2'
  // faces at both ends of a square's diagonal move out by √2 of what its sides do
  const ends = across && !r.round ? Math.SQRT2 : 1
  const skew = axis === 'd1' ? length / 2 : -length / 2
  return {
    ...(axis === 'x' && { scaleX: length }),
    ...(axis === 'y' && { scaleY: length }),
    ...(axis === 'z' && { scaleZ: length }),
    ...(across && { scaleX: length / 2, scaleY: length / 2, skew }),
    ...(axis === 'z' && kind === 'outside' && { height: 1 }),
    ...(axis !== 'z' && kind === 'outside' && { contour: ends }),
    ...(axis !== 'z' && kind === 'inside' && { hole: ends }),
    ...(axis !== 'z' && kind === 'outside' && r.place === 'base' && { flare: ends }),
  }
}

const rowOf = (r: Parameters<typeof columnsOf>[0], terms: readonly SizeTerm[]): number[] => {
  const columns = columnsOf(r)
  return terms.map((t) => columns[t] ?? 0)
}

/**
 * Columns that can be told apart, in order, and those that cannot with what they hang on. Gauss–Jordan elimination with
 * row pivoting.
 */
function independent(rows: readonly number[][], count: number): { pivots: number[]; tied: number[][] } {
  const a = rows.map((r) => [...r])
  const scale = Array.from({ length: count }, (_, j) => Math.max(...a.map((r) => Math.abs(r[j])), 1e-300))
  for (const r of a) for (let j = 0; j < count; j++) r[j] /= scale[j]
  const pivots: number[] = []
  let row = 0
  for (let j = 0; j < count && row < a.length; j++) {
    let best = row
    for (let i = row; i < a.length; i++) if (Math.abs(a[i][j]) > Math.abs(a[best][j])) best = i
    if (Math.abs(a[best][j]) < 1e-9) continue
    ;[a[row], a[best]] = [a[best], a[row]]
    const lead = a[row][j]
    for (let k = 0; k < count; k++) a[row][k] /= lead
    for (let i = 0; i < a.length; i++) {
      if (i === row || !a[i][j]) continue
      const f = a[i][j]
      for (let k = 0; k < count; k++) a[i][k] -= f * a[row][k]
    }
    pivots.push(j)
    row++
  }
  const tied: number[][] = []
  for (let j = 0; j < count; j++) {
    if (pivots.includes(j)) continue
    tied.push([...pivots.filter((_, i) => Math.abs(a[i][j]) > 1e-7), j])
  }
  return { pivots, tied }
}

/** Groups that share a member become one. */
function united(groups: readonly number[][]): number[][] {
  const out: number[][] = []
  for (const g of groups) {
    const hits = out.filter((o) => o.some((m) => g.includes(m)))
    for (const h of hits) out.splice(out.indexOf(h), 1)
    out.push([...new Set([...hits.flat(), ...g])].sort((a, b) => a - b))
  }
  return out
}

interface Taken {
  reading: SizeReading
  error: number
  weight: number
}

/** Scatter that is known beforehand backs the one of few readings (a pooled variance). */
function scatterOf(fit: Pick<LinearFit, 'rss' | 'dof'>, usual: number): { sd: number; dof: number } {
  if (fit.dof >= FEW_DOF) return { sd: Math.sqrt(fit.rss / fit.dof), dof: fit.dof }
  const backed = FEW_DOF
  return {
    sd: Math.sqrt((fit.rss + backed * usual * usual) / (fit.dof + backed)),
    dof: fit.dof + backed,
  }
}

/**
 * Takes measured sizes apart: by least squares, each term tested against the model without it (F test), with what
 * cannot be told apart named instead of guessed. Nothing is corrected that is not significant.
 * @returns kind few where no size was measured
 */
export function takeApart(
  readings: readonly SizeReading[],
  context: SizesContext,
  wanted: readonly WantedSize[] = [],
): SizesOutcome {
  const usual = readingUncertainty(context.instrument)
  const taken = readings
    .filter((r) => r.measures.length && r.kind !== 'wall')
    .map((reading): Taken => {
      const n = reading.measures.length
      // half of the scatter lies in the face, half in the reading: repeats cure only the latter
      return { reading, error: meanOf(reading.measures).mean - reading.nominal, weight: 2 / (1 + 1 / n) }
    })
  const walls = readings.filter((r) => r.measures.length && r.kind === 'wall')
  const empty: SizesOutcome = {
    kind: 'few',
    terms: [],
    together: [],
    sd: usual,
    dof: 0,
    reasons: [],
    corrections: [],
    instead: [],
    machine: [],
    foretold: [],
    rows: [],
    next: null,
  }
  if (!taken.length) return { ...empty, reasons: [measuredReason('too-few-sizes', { count: 0 })] }

  const present = SIZE_TERMS.filter((t) => taken.some((r) => columnsOf(r.reading)[t]))
  const rows = taken.map((r) => rowOf(r.reading, present))
  const { pivots, tied } = independent(rows, present.length)
  const together = united(tied).map((g) => g.map((j) => present[j]))
  const terms = present.filter((t) => !together.some((g) => g.includes(t)))
  // of a group that cannot be told apart the first stands for all, so that the others are not led astray
  const standIns = pivots.map((j) => present[j]).filter((t) => !terms.includes(t))
  const model = [...terms, ...standIns]
  const fit = linearFit(
    taken.map((r) => rowOf(r.reading, model)),
    taken.map((r) => r.error),
    taken.map((r) => r.weight),
  )
  if (!fit) return { ...empty, together, reasons: [measuredReason('too-few-sizes', { count: taken.length })] }
  const { sd, dof } = scatterOf(fit, usual)
  const t95 = tQuantile(0.975, dof)
  const errorOf = (j: number) => sd * Math.sqrt(Math.max(0, fit.inverse[j][j]))
  const fitted = terms.map((term): FittedTerm => {
    const j = model.indexOf(term)
    const value = fit.coefficients[j]
    const p = tPValue(value / errorOf(j), dof)
    return { term, value, plusMinus: t95 * errorOf(j), p, significant: p < SIGNIFICANT }
  })
  const significant = (t: SizeTerm) => fitted.find((f) => f.term === t && f.significant)
  const reasons: Reason[] = [
    ...fitted
      .filter((f) => f.significant)
      .map((f) => measuredReason('term-stands', { term: f.term, value: f.value, plusMinus: f.plusMinus })),
  ]

  const inUse = context.inUse ?? NO_CORRECTION
  const corrections: SizeCorrection[] = []
  const machine: AxisCorrection[] = []
  const correct = (key: SizeSetting, value: number, plusMinus: number) =>
    corrections.push({ key, value, plusMinus })

  const wall = walls.length
    ? walls.reduce((s, r) => s + meanOf(r.measures).mean - r.nominal, 0) / walls.length
    : null
  const contour = significant('contour')
  let moved = 0
  if (contour) {
    if (wall !== null && Math.abs(wall) > usual)
      reasons.push(measuredReason('part-of-flow', { wall, contour: contour.value }))
    // what the flow does is not the contour's to mend
    const own = wall !== null && Math.abs(wall) > usual ? contour.value - wall : contour.value
    moved = own
    correct('contourOffset', inUse.contourOffset - own / 2, contour.plusMinus / 2)
    if ((context.speedRatio ?? 1) > 1.4)
      reasons.push(measuredReason('speeds-unequal', { ratio: context.speedRatio! }))
  }
  const hole = significant('hole')
  // moving the contour opens holes as well: the hole offset takes what is left
  const left = (hole?.value ?? 0) + moved
  if ((hole || contour) && terms.includes('hole')) {
    const u = Math.hypot(hole?.plusMinus ?? 0, contour?.plusMinus ?? 0) / 2
    if (Math.abs(left) / 2 > u) correct('holeOffset', inUse.holeOffset - left / 2, u)
  }
  const flare = significant('flare')
  if (flare && flare.value > 0) correct('footTrim', inUse.footTrim + flare.value / 2, flare.plusMinus / 2)

  // both axes alike: the plastic; one of them: the machine
  const both = terms.includes('scaleX') && terms.includes('scaleY')
  if (both) {
    const i = model.indexOf('scaleX')
    const j = model.indexOf('scaleY')
    const apart = fit.coefficients[i] - fit.coefficients[j]
    const u = sd * Math.sqrt(Math.max(0, fit.inverse[i][i] + fit.inverse[j][j] - 2 * fit.inverse[i][j]))
    const p = tPValue(apart / u, dof)
    const wi = 1 / fit.inverse[i][i]
    const wj = 1 / fit.inverse[j][j]
    const common = (wi * fit.coefficients[i] + wj * fit.coefficients[j]) / (wi + wj)
    const uc =
      (sd *
        Math.sqrt(
          Math.max(
            0,
            wi * wi * fit.inverse[i][i] + wj * wj * fit.inverse[j][j] + 2 * wi * wj * fit.inverse[i][j],
          ),
        )) /
      (wi + wj)
    if (p >= SIGNIFICANT && Math.abs(common) > t95 * uc) {
      reasons.push(measuredReason('axes-alike', { value: common * 100, plusMinus: t95 * uc * 100 }))
      const like = context.shrink
      if (like !== undefined && common < 0 && -common * 100 > 0.4 * like && -common * 100 < 2.2 * like)
        reasons.push(
          measuredReason('like-shrink', { value: -common * 100, card: like, family: context.family ?? '' }),
        )
      correct('scaleX', inUse.scaleX / (1 + common), t95 * uc * 100)
      correct('scaleY', inUse.scaleY / (1 + common), t95 * uc * 100)
    } else if (p < SIGNIFICANT) {
      reasons.push(
        measuredReason('axes-differ', { x: fit.coefficients[i] * 100, y: fit.coefficients[j] * 100, p }),
      )
      for (const [axis, term] of [
        ['x', 'scaleX'],
        ['y', 'scaleY'],
      ] as const) {
        const found = significant(term)
        if (!found) continue
        reasons.push(measuredReason('machine-scale', { axis, value: found.value * 100 }))
        machine.push({ axis, factor: 1 / (1 + found.value), plusMinus: found.plusMinus })
      }
    }
  } else
    for (const [axis, term] of [
      ['x', 'scaleX'],
      ['y', 'scaleY'],
    ] as const) {
      const found = significant(term)
      if (found) correct(term, inUse[term] / (1 + found.value), found.plusMinus * 100)
      if (found) reasons.push(measuredReason('machine-scale', { axis, value: found.value * 100 }))
    }
  const scaleZ = significant('scaleZ')
  if (scaleZ) correct('scaleZ', inUse.scaleZ / (1 + scaleZ.value), scaleZ.plusMinus * 100)

  // what cannot be told apart: the one way or the other, never both
  const instead: SizeCorrection[] = []
  for (const group of together) {
    reasons.push(measuredReason('not-apart', { terms: group }))
    const flat = taken.filter(({ reading: r }) => r.axis === 'x' || r.axis === 'y')
    if (!group.includes('contour') || !group.some((t) => t === 'scaleX' || t === 'scaleY')) continue
    const outside = flat.filter(({ reading: r }) => r.kind === 'outside' && r.place === 'above')
    if (!outside.length) continue
    const mean = outside.reduce((s, r) => s + r.error, 0) / outside.length
    const u = (t95 * sd) / Math.sqrt(outside.length)
    if (Math.abs(mean) <= u) continue
    const asContour: SizeCorrection = {
      key: 'contourOffset',
      value: inUse.contourOffset - mean / 2,
      plusMinus: u / 2,
    }
    const asScale = (['x', 'y'] as const).flatMap((axis): SizeCorrection[] => {
      const own = outside.filter(({ reading: r }) => r.axis === axis)
      if (!own.length) return []
      const share = own.reduce((s, r) => s + r.error / r.reading.nominal, 0) / own.length
      const key = axis === 'x' ? 'scaleX' : 'scaleY'
      const length = own.reduce((s, r) => s + r.reading.nominal, 0) / own.length
      return [{ key, value: inUse[key] / (1 + share), plusMinus: (100 * u) / length }]
    })
    const scaleFirst = context.soft === true && mean < 0
    reasons.push(
      measuredReason('as-scale-or-contour', {
        scale: asScale[0]?.value ?? 100,
        contour: asContour.value,
      }),
    )
    if (scaleFirst) reasons.push(measuredReason('soft-takes-scale'))
    corrections.push(...(scaleFirst ? asScale : [asContour]))
    instead.push(...(scaleFirst ? [asContour] : asScale))
  }

  reasons.push(...roundness(taken, sd, t95))
  if (!corrections.length && !machine.length) reasons.push(measuredReason('nothing-significant'))
  else reasons.push(measuredReason('leaves-after', { plusMinus: t95 * sd }))

  const undone = undoneBy(corrections, machine, inUse)
  const at = (r: Parameters<typeof columnsOf>[0]) => {
    const x = rowOf(r, model)
    const now = x.reduce((s, v, j) => s + v * fit.coefficients[j], 0)
    const variance = x.reduce((s, v, i) => s + v * x.reduce((q, w, j) => q + w * fit.inverse[i][j], 0), 0)
    return { now, after: now + undone(r), u: sd * Math.sqrt(Math.max(0, variance) + 1) }
  }
  // a slip widens the scatter it is held against: the middle of the residuals does not follow it
  const middle = 1.4826 * median(taken.map(({ reading, error }) => Math.abs(error - at(reading).now)))
  const outlierAt =
    Math.max(4, tQuantile(1 - 0.005 / taken.length, Math.max(3, dof))) * Math.max(usual, middle)
  return {
    kind: corrections.length || machine.length ? 'found' : 'flat',
    terms: fitted,
    together,
    sd,
    dof,
    reasons,
    corrections,
    instead,
    machine,
    foretold: wanted.map((w) => {
      const { now, after, u } = at({ ...w, place: 'above', round: false })
      return { wanted: w, now: w.nominal + now, after: w.nominal + after, plusMinus: t95 * u }
    }),
    rows: taken.map(({ reading, error }) => {
      const { now, after } = at(reading)
      return {
        id: reading.id,
        error,
        fitted: now,
        after: error + (after - now),
        outlier: taken.length > model.length + 2 && Math.abs(error - now) > outlierAt,
      }
    }),
    next: bestNext(taken, present, sd),
  }
}

/** By how much corrections change a size, mm. */
function undoneBy(
  corrections: readonly SizeCorrection[],
  machine: readonly AxisCorrection[],
  inUse: SizesInUse,
) {
  const change = (key: SizeSetting) => {
    const c = corrections.find((k) => k.key === key)
    return c ? c.value - inUse[key] : 0
  }
  const axisScale = (axis: 'x' | 'y' | 'z') =>
    change(axis === 'x' ? 'scaleX' : axis === 'y' ? 'scaleY' : 'scaleZ') / 100 +
    ((machine.find((m) => m.axis === axis)?.factor ?? 1) - 1)
  return (r: Parameters<typeof columnsOf>[0]): number => {
    const c = columnsOf(r)
    return (
      (c.contour ?? 0) * 2 * change('contourOffset') +
      (c.hole ?? 0) * 2 * (change('holeOffset') - change('contourOffset')) -
      (c.flare ?? 0) * 2 * change('footTrim') +
      (c.scaleX ?? 0) * axisScale('x') +
      (c.scaleY ?? 0) * axisScale('y') +
      (c.scaleZ ?? 0) * axisScale('z')
    )
  }
}

/** Pins and bores whose diameters differ by direction more than the scatter explains. */
function roundness(taken: readonly Taken[], sd: number, t95: number): Reason[] {
  const byNominal = new Map<string, Taken[]>()
  for (const r of taken) {
    if (!r.reading.round) continue
    const key = `${r.reading.kind}${r.reading.nominal}${r.reading.place}`
    byNominal.set(key, [...(byNominal.get(key) ?? []), r])
  }
  let worst: Reason | null = null
  let most = t95 * sd * Math.SQRT2
  for (const group of byNominal.values()) {
    if (new Set(group.map((r) => r.reading.axis)).size < 2) continue
    const errors = group.map((r) => r.error)
    const spread = Math.max(...errors) - Math.min(...errors)
    if (spread <= most) continue
    most = spread
    worst = measuredReason('not-round', { spread, nominal: group[0].reading.nominal })
  }
  return worst ? [worst] : []
}

/** Lengths a caliper reads well, mm. */
const SUGGESTED = [10, 20, 40, 60, 100]

/**
 * The one more size that shrinks the widest open interval most: a rank-one update of the inverse information
 * (Sherman & Morrison 1950), with next to nothing known of what cannot be told apart yet.
 */
function bestNext(taken: readonly Taken[], present: readonly SizeTerm[], sd: number): SizeSuggestion | null {
  const terms = SIZE_TERMS.filter(
    (t) => present.includes(t) || t === 'contour' || t === 'scaleX' || t === 'scaleY',
  )
  // widths that would matter: a twentieth of a millimetre, or a tenth of a percent
  const matters: Record<SizeTerm, number> = {
    contour: 0.05,
    hole: 0.05,
    flare: 0.05,
    height: 0.1,
    scaleX: 0.001,
    scaleY: 0.001,
    scaleZ: 0.002,
    skew: 0.001,
  }
  const n = terms.length
  const information = Array.from({ length: n }, (_, i) =>
    Array.from({ length: n }, (_, j) => (i === j ? (0.02 * sd * sd) / matters[terms[i]] ** 2 : 0)),
  )
  for (const { reading, weight } of taken) {
    const x = rowOf(reading, terms)
    for (let i = 0; i < n; i++) for (let j = 0; j < n; j++) information[i][j] += weight * x[i] * x[j]
  }
  const inverse = invert(information)
  if (!inverse) return null
  const width = (j: number) => (sd * Math.sqrt(Math.max(0, inverse[j][j]))) / matters[terms[j]]
  let open = 0
  for (let j = 1; j < n; j++) if (width(j) > 1.1 * width(open)) open = j
  if (width(open) < 0.6) return null
  let best: SizeSuggestion | null = null
  let gain = 0
  for (const axis of ['x', 'y', 'z', 'd1'] as const)
    for (const kind of ['outside', 'inside'] as const)
      for (const place of ['above', 'base'] as const)
        for (const nominal of SUGGESTED) {
          if (kind === 'inside' && (axis === 'z' || axis === 'd1' || place === 'base')) continue
          if (place === 'base' && !terms.includes('flare')) continue
          const x = rowOf({ axis, kind, place, round: false, nominal }, terms)
          const v = inverse.map((r) => r.reduce((s, a, j) => s + a * x[j], 0))
          const shrink = v[open] ** 2 / (1 + x.reduce((s, a, j) => s + a * v[j], 0))
          if (shrink > gain * 1.02) {
            gain = shrink
            best = { axis, kind, place, nominal, term: terms[open] }
          }
        }
  return best
}

/** Inverse of a small symmetric matrix by Gauss–Jordan; null when it has none. */
function invert(m: readonly number[][]): number[][] | null {
  const n = m.length
  const a = m.map((r, i) => [...r, ...Array.from({ length: n }, (_, j) => Number(i === j))])
  for (let j = 0; j < n; j++) {
    let best = j
    for (let i = j; i < n; i++) if (Math.abs(a[i][j]) > Math.abs(a[best][j])) best = i
    if (!(Math.abs(a[best][j]) > 1e-300)) return null
    ;[a[j], a[best]] = [a[best], a[j]]
    const lead = a[j][j]
    for (let k = 0; k < 2 * n; k++) a[j][k] /= lead
    for (let i = 0; i < n; i++) {
      if (i === j) continue
      const f = a[i][j]
      for (let k = 0; k < 2 * n; k++) a[i][k] -= f * a[j][k]
    }
  }
  return a.map((r) => r.slice(n))
}
