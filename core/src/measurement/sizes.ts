import type { Reason } from '../quantity/reason'
import { tPValue, tQuantile } from '../statistics/distributions'
import { linearFit, type LinearFit } from '../statistics/regression'
import { median } from '../statistics/summary'
import { meanOf } from '../statistics/uncertainty'
import { FACES, ownUncertainty, readingUncertainty, type Instrument } from './instruments'
import { measuredReason } from './reasons'
import { independent, united } from './elimination'
import { bestNext, wallNext, type SizeSuggestion } from './nextSize'
import { SIZE_TERMS, columnsOf, paced, rowOf, type SizeShape, type SizeTerm, type Taken } from './sizeTerms'
import type { SizeReading, WantedSize } from './types'

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
  /** mm, how thick a wall of one line is meant to be. */
  wall?: number
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
  /** What the terms say of each kind over the length, with half of its 95 % interval, mm. */
  course: { kind: 'outside' | 'inside'; points: { length: number; error: number; plusMinus: number }[] }[]
  /** Each size with its error, what the terms explain of it, and what would be left. */
  rows: { id: string; error: number; fitted: number; after: number; outlier: boolean }[]
  /** The measurement that would tell most of what is still open. */
  next: SizeSuggestion | null
}
/** Points a course is drawn with. */
const COURSE_POINTS = 13
const SIGNIFICANT = 0.05
/** Shares of a family's shrinking between which a shortness is called its shrinking. From memory. */
const LIKE_SHRINK = [0.4, 2.6] as const
/** How far apart two axes may be, of what both are short by, and the plastic still be at it. From memory. */
const SLIGHTLY_APART = 0.4
/** Degrees of freedom under which the scatter is backed by what such readings usually scatter. */
const FEW_DOF = 4

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
  const hand = readingUncertainty(context.instrument)
  const usual = Math.hypot(FACES, hand)
  const zero = context.instrument.zero ?? 0
  const measuredOf = (r: SizeReading) => meanOf(r.measures).mean - zero
  const taken = paced(readings.filter((r) => r.measures.length && r.kind !== 'wall')).map(
    (reading): Taken => ({
      reading,
      error: measuredOf(reading) - reading.nominal,
      // repeats cure what the hand scatters, not what the faces do
      weight: usual ** 2 / (FACES ** 2 + hand ** 2 / reading.measures.length),
    }),
  )
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
    course: [],
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
  // what the instrument is off by itself moves every constant alike
  const own = ownUncertainty(context.instrument)
  const errorOf = (j: number) =>
    Math.hypot(sd * Math.sqrt(Math.max(0, fit.inverse[j][j])), SHARED.includes(model[j]) ? own : 0)
  const axes = terms.includes('scaleX') && terms.includes('scaleY') ? axesOf(fit, model, sd, dof) : null
  const pOf = (term: SizeTerm) => {
    const j = model.indexOf(term)
    return tPValue(fit.coefficients[j] / errorOf(j), dof)
  }
  // one false term in twenty plates, over all that is asked of it together (Holm 1979)
  const asked = [
    ...terms.filter((t) => !axes || (t !== 'scaleX' && t !== 'scaleY')).map((t) => ({ what: t, p: pOf(t) })),
    ...(axes
      ? [{ what: 'common', p: axes.pCommon } as const, { what: 'apart', p: axes.pApart } as const]
      : []),
  ]
  const stands = standing(asked)
  const fitted = terms.map((term): FittedTerm => {
    const j = model.indexOf(term)
    const scale = axes && (term === 'scaleX' || term === 'scaleY')
    const p = pOf(term)
    return {
      term,
      value: fit.coefficients[j],
      plusMinus: t95 * errorOf(j),
      p,
      significant: scale
        ? (stands.has('common') || stands.has('apart')) && p < SIGNIFICANT
        : stands.has(term),
    }
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

  const wall = walls.length ? walls.reduce((s, r) => s + measuredOf(r) - r.nominal, 0) / walls.length : null
  const contour = significant('contour')
  let moved = 0
  if (contour) {
    if (wall !== null && Math.abs(wall) > usual)
      reasons.push(measuredReason('part-of-flow', { wall, contour: contour.value }))
    // what the flow does is not the contour's to mend
    moved = wall !== null && Math.abs(wall) > usual ? contour.value - wall : contour.value
    correct('contourOffset', inUse.contourOffset - moved / 2, contour.plusMinus / 2)
    if (!terms.includes('speed') && (context.speedRatio ?? 1) > 1.4)
      reasons.push(measuredReason('speeds-unequal', { ratio: context.speedRatio! }))
    if (wall === null) reasons.push(measuredReason('wall-would-tell'))
  }
  const speed = significant('speed')
  if (speed) {
    const speeds = taken.flatMap(({ reading: r }) => r.speed ?? [])
    const [slow, fast] = [Math.min(...speeds), Math.max(...speeds)]
    const spread = (speed.value * (fast - slow)) / 10
    reasons.push(measuredReason('speed-spreads', { slow, fast, spread }))
  }
  const hole = significant('hole')
  // moving the contour opens holes as well: the hole offset takes what is left
  const left = (hole?.value ?? 0) + moved
  if ((hole || contour) && terms.includes('hole')) {
    const u = Math.hypot(hole?.plusMinus ?? 0, contour?.plusMinus ?? 0) / 2
    if (Math.abs(left) / 2 > u) correct('holeOffset', inUse.holeOffset - left / 2, u)
    // without what the instrument itself is off by it would stand
    else if (context.instrument.zero == null && Math.abs(left) / 2 > u - own)
      reasons.push(measuredReason('zero-would-tell'))
  }
  const flare = significant('flare')
  if (flare && flare.value > 0) correct('footTrim', inUse.footTrim + flare.value / 2, flare.plusMinus / 2)

  // both axes alike: the plastic; one of them: the machine
  if (axes) {
    const { common, uCommon, apart, uApart, shares } = axes
    const like = context.shrink
    const shrinks =
      like !== undefined && -common * 100 > LIKE_SHRINK[0] * like && -common * 100 < LIKE_SHRINK[1] * like
    const alike = !stands.has('apart')
    // both short by what the family shrinks, and a little apart: the plastic and the machine, each its own part
    if (stands.has('common') && (alike || (shrinks && Math.abs(apart) < SLIGHTLY_APART * -common))) {
      reasons.push(measuredReason('axes-alike', { value: common * 100, plusMinus: t95 * uCommon * 100 }))
      if (shrinks)
        reasons.push(
          measuredReason('like-shrink', { value: -common * 100, card: like, family: context.family ?? '' }),
        )
      correct('scaleX', inUse.scaleX / (1 + common), t95 * uCommon * 100)
      correct('scaleY', inUse.scaleY / (1 + common), t95 * uCommon * 100)
      if (!alike)
        for (const [axis, at, part] of [
          ['x', model.indexOf('scaleX'), shares[1]],
          ['y', model.indexOf('scaleY'), shares[0]],
        ] as const) {
          const value = fit.coefficients[at] - common
          reasons.push(measuredReason('machine-scale', { axis, value: value * 100 }))
          machine.push({ axis, factor: 1 / (1 + value), plusMinus: t95 * uApart * part })
        }
    } else if (!alike) {
      reasons.push(
        measuredReason('axes-differ', {
          x: fit.coefficients[model.indexOf('scaleX')] * 100,
          y: fit.coefficients[model.indexOf('scaleY')] * 100,
          p: axes.pApart,
        }),
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
    const one = Math.hypot(sd / Math.sqrt(outside.length), own)
    if (Math.abs(mean) <= tQuantile(1 - SIGNIFICANT / 2 / (asked.length + 1), dof) * one) continue
    const u = t95 * one
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

  reasons.push(...roundness(taken, sd, dof))
  if (!corrections.length && !machine.length) reasons.push(measuredReason('nothing-significant'))
  else reasons.push(measuredReason('leaves-after', { plusMinus: t95 * sd }))

  const undone = undoneBy(corrections, machine, inUse)
  const at = (r: SizeShape) => {
    const x = rowOf(r, model)
    const now = x.reduce((s, v, j) => s + v * fit.coefficients[j], 0)
    const variance = x.reduce((s, v, i) => s + v * x.reduce((q, w, j) => q + w * fit.inverse[i][j], 0), 0)
    const known = Math.max(0, variance)
    return {
      now,
      after: now + undone(r),
      own: Math.hypot(sd * Math.sqrt(known), own),
      u: Math.hypot(sd * Math.sqrt(known + 1), own),
    }
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
    course: (['outside', 'inside'] as const).flatMap((kind) => {
      const of = taken.filter(({ reading: r }) => r.kind === kind && (r.axis === 'x' || r.axis === 'y'))
      if (of.length < 2) return []
      const axis = of.some(({ reading: r }) => r.axis === 'x') ? 'x' : 'y'
      const longest = Math.max(...of.map(({ reading: r }) => r.nominal))
      return {
        kind,
        points: Array.from({ length: COURSE_POINTS }, (_, i) => {
          const length = (longest * i) / (COURSE_POINTS - 1)
          const { now, own } = at({ axis, kind, place: 'above', round: false, nominal: length })
          return { length, error: now, plusMinus: t95 * own }
        }),
      }
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
    // what stands out is contour or flow: only a wall tells; before that come terms that cannot be told apart
    next:
      contour && wall === null && !together.length ? wallNext(context.wall) : bestNext(taken, present, sd),
  }
}

/** Terms that what an instrument is off by itself enters as a whole. */
const SHARED: readonly SizeTerm[] = ['contour', 'hole', 'height']

/** What both axes have in common, each weighed by how well it is known, and how far they are apart. */
function axesOf(fit: LinearFit, model: readonly SizeTerm[], sd: number, dof: number) {
  const [i, j] = [model.indexOf('scaleX'), model.indexOf('scaleY')]
  const [vi, vj, vij] = [fit.inverse[i][i], fit.inverse[j][j], fit.inverse[i][j]]
  const [wi, wj] = [1 / vi / (1 / vi + 1 / vj), 1 / vj / (1 / vi + 1 / vj)]
  const [x, y] = [fit.coefficients[i], fit.coefficients[j]]
  const common = wi * x + wj * y
  const uCommon = sd * Math.sqrt(Math.max(0, wi * wi * vi + wj * wj * vj + 2 * wi * wj * vij))
  const apart = x - y
  const uApart = sd * Math.sqrt(Math.max(0, vi + vj - 2 * vij))
  return {
    common,
    uCommon,
    pCommon: tPValue(common / uCommon, dof),
    apart,
    uApart,
    pApart: tPValue(apart / uApart, dof),
    shares: [wi, wj] as const,
  }
}

/** What stands at a chance of a mistake that all questions share (step-down; Holm 1979). */
function standing<W>(asked: readonly { what: W; p: number }[]): Set<W> {
  const out = new Set<W>()
  const sorted = [...asked].sort((a, b) => a.p - b.p)
  for (const [k, { what, p }] of sorted.entries()) {
    if (!(p < SIGNIFICANT / (sorted.length - k))) break
    out.add(what)
  }
  return out
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
  return (r: SizeShape): number => {
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
function roundness(taken: readonly Taken[], sd: number, dof: number): Reason[] {
  const byNominal = new Map<string, Taken[]>()
  for (const r of taken) {
    if (!r.reading.round) continue
    const key = `${r.reading.kind}${r.reading.nominal}${r.reading.place}`
    byNominal.set(key, [...(byNominal.get(key) ?? []), r])
  }
  let worst: Reason | null = null
  // as many groups as there are share the chance of a mistake
  let most = tQuantile(1 - SIGNIFICANT / 2 / Math.max(1, byNominal.size), dof) * sd * Math.SQRT2
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
