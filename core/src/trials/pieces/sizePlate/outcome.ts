import { USUAL_INSTRUMENT } from '../../../measurement/instruments'
import { NO_CORRECTION, takeApart } from '../../../measurement/sizes'
import type { MeasuredOf } from '../../../measurement/types'
import { cardFor } from '../../../material/filling'
import { roundTo, settingOf } from '../../../recipe/settings'
import { linearFit } from '../../../statistics/regression'
import { meanOf } from '../../../statistics/uncertainty'
import { curveOf } from '../../fits/points'
import { emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { rangeOf } from '../../shared/graded'
import type { ReadTrial } from '../../types'

/** What a read plate measures, as sizes: they are taken apart like those of any part. */
export function sizesOfPlate(t: ReadTrial): MeasuredOf<'sizes'> {
  return {
    kind: 'sizes',
    instrument: { ...USUAL_INSTRUMENT, resolution: t.resolution },
    readings: t.cells.flatMap((c) =>
      c.nominal && (c.measure === 'outside' || c.measure === 'inside')
        ? [
            {
              id: c.id,
              name: c.name,
              axis: c.axis ?? 'x',
              kind: c.measure,
              place: c.base ? ('base' as const) : ('above' as const),
              round: c.round ?? false,
              nominal: c.nominal,
              measures: t.readings[c.id]?.skipped ? [] : (t.readings[c.id]?.measures ?? []),
              ...(c.speed !== undefined && { speed: c.speed }),
            },
          ]
        : [],
    ),
    wanted: [],
  }
}

/** Contour, holes, scale, flare and angle from a plate; it is laid as drawn, so what it shows is the whole correction. */
export const sizePlateOutcome: OutcomeRule = (trials, { filament }) => {
  const t = trials[trials.length - 1]
  const { readings, instrument } = sizesOfPlate(t)
  const outside = readings.filter(
    (r) => r.measures.length && r.kind === 'outside' && r.axis !== 'z' && r.place === 'above',
  )
  const points = outside.map((r) => ({
    x: r.nominal,
    y: meanOf(r.measures).mean - r.nominal,
    weight: 1,
    trial: t.number,
  }))
  const base = { ...emptyOutcome('found', [], 'length'), points, scale: 'error' as const }
  if (new Set(points.map((p) => p.x)).size < 3)
    return { ...base, kind: 'few', reasons: [outcomeReason('measure-three-bars')] }
  const card = cardFor(filament)
  const found = takeApart(readings, {
    instrument,
    inUse: NO_CORRECTION,
    shrink: card.shrink,
    soft: card.flexible,
    family: card.id,
  })
  const line = linearFit(
    points.map((p) => [1, p.x]),
    points.map((p) => p.y),
  )
  return {
    ...base,
    kind: found.kind,
    reasons: found.reasons,
    adopt: found.corrections.map(({ key, value, plusMinus }) => {
      const s = settingOf(key)
      return {
        key,
        value: roundTo(s, Math.min(s.max, Math.max(s.min, value))),
        plusMinus: Number(plusMinus.toPrecision(2)),
      }
    }),
    curve: line ? curveOf((x) => line.coefficients[0] + line.coefficients[1] * x, ...rangeOf(points), 2) : [],
    r2: line?.r2 ?? null,
    sd: found.sd,
  }
}
