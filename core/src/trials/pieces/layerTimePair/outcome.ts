import { HAND_SCATTER } from '../../criteria'
import { GOOD_ENOUGH, emptyOutcome, type OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { gradedPlaces, gradedPoints } from '../../shared/graded'

const CRITERIA = ['detail', 'surface'] as const
/** Standard deviations by which two at a time have to be better: one in twenty comes by accident. */
const BY_ACCIDENT = 1.645

/** Whether two at a time come out better than one alone, and the layer time that is known to be enough. */
export const layerTimeOutcome: OutcomeRule = (trials) => {
  const t = trials[trials.length - 1]
  const points = gradedPoints([t], 'posts', CRITERIA)
  const two = points.find((p) => p.x === 2)
  const one = points.find((p) => p.x === 1)
  const base = { ...emptyOutcome('found', [], 'posts'), points }
  if (!two || !one) return { ...base, kind: 'few', reasons: [outcomeReason('grade-both-halves')] }
  const places = gradedPlaces([t], 'posts', CRITERIA)
  const grades = (posts: number) => places.find((p) => p.x === posts)!.grades
  const gains = CRITERIA.flatMap((c) => {
    const [a, b] = [grades(2)[c], grades(1)[c]]
    return a === undefined || b === undefined ? [] : [a - b]
  })
  const gain = gains.reduce((s, g) => s + g, 0) / Math.max(1, gains.length)
  if (!gains.length || gain < BY_ACCIDENT * HAND_SCATTER * Math.sqrt(2 / gains.length))
    return { ...base, atWork: false, reasons: [outcomeReason('halves-alike')] }
  const better = { ...base, atWork: true, reasons: [outcomeReason('two-are-better')] }
  const time = (posts: number) => t.cells.find((c) => c.values.posts === posts)?.values.minLayerTime
  const [long, short] = [time(2), time(1)]
  // trials written before the time of a layer was kept with the piece have none
  if (long === undefined || short === undefined || two.y < GOOD_ENOUGH)
    return { ...better, reasons: [...better.reasons, outcomeReason('not-good-even-so')] }
  // the least that is enough lies between both; the longer one is known to do
  return {
    ...better,
    reasons: [...better.reasons, outcomeReason('time-between', { short, long })],
    adopt: [
      {
        key: 'minLayerTime',
        value: Math.min(60, Math.ceil(long * 2) / 2),
        plusMinus: Number(((long - short) / 2).toFixed(1)),
      },
    ],
  }
}
