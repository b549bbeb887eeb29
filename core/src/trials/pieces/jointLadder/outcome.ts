import type { Reason } from '../../../quantity/reason'
import { roundTo, settingOf } from '../../../recipe/settings'
import { TOP_GRADE } from '../../criteria'
import type { Adoptable, Outcome, OutcomeRule } from '../../outcome'
import { outcomeReason } from '../../reasons'
import { thresholdOutcome } from '../../shared/threshold'
import { JOINT_SHAPES, type JointShape, type ReadTrial } from '../../types'

/** Gap that parts which print in place are usually drawn with, mm. Common practice, no source. */
export const DRAWN_GAP = 0.2

const moves = thresholdOutcome({
  key: 'gap',
  criterion: 'free',
  easierUpwards: true,
  none: outcomeReason('no-joint-good'),
  disagree: outcomeReason('joints-disagree'),
  found: (gap, below) => outcomeReason('smallest-gap', { gap, below }),
  next: ({ to }) => ({ from: to, to: Math.min(1.5, to * 2) }),
})

const shapeOf = (cell: ReadTrial['cells'][number]): JointShape => cell.joint ?? 'round-upright'
const isUpright = (shape: JointShape) => shape.endsWith('upright')

/** The smallest gap from which on every one that was graded moves freely; null when none does. */
function smallestFree(t: ReadTrial): number | null {
  const seen = t.cells
    .flatMap((c) => {
      const r = t.readings[c.id]
      const grade = r?.grades.free
      return !r || r.skipped || grade === undefined || c.values.gap === undefined
        ? []
        : [{ gap: c.values.gap, free: grade >= TOP_GRADE }]
    })
    .sort((a, b) => b.gap - a.gap)
  const held = seen.findIndex((s) => !s.free)
  const free = held < 0 ? seen : seen.slice(0, held)
  return free.at(-1)?.gap ?? null
}

/**
 * What a ladder says: each kind of joint by itself. Upright ones give the contour offset that makes a gap as usually
 * drawn move, the one that needs most; lying ones say what to draw, for no offset acts between layers.
 */
export const jointOutcome: OutcomeRule = (trials, context) => {
  const t = trials[trials.length - 1]
  const shapes = JOINT_SHAPES.filter((s) => t.cells.some((c) => shapeOf(c) === s))
  const each = shapes.map((shape) => {
    const own: ReadTrial = { ...t, cells: t.cells.filter((c) => shapeOf(c) === shape) }
    return { shape, own, outcome: moves([own], context) }
  })
  const upright = each.filter((e) => isUpright(e.shape))
  // the kind that needs the widest gap leads; where one shows nothing good, that is what is said first
  const rank: Outcome['kind'][] = ['disagree', 'end', 'found', 'few']
  const leading = [...(upright.length ? upright : each)].sort(
    (a, b) =>
      rank.indexOf(a.outcome.kind) - rank.indexOf(b.outcome.kind) ||
      (b.outcome.best ?? 0) - (a.outcome.best ?? 0),
  )[0]
  const several =
    each.length > 1
      ? each.flatMap(({ shape, outcome }): Reason[] => {
          if (outcome.kind === 'found')
            return [outcomeReason('joint-shape', { shape, gap: outcome.best!, below: outcome.low })]
          if (outcome.kind === 'end') return [outcomeReason('joint-shape-none', { shape })]
          return outcome.kind === 'disagree' ? [outcomeReason('joint-shape-disagrees', { shape })] : []
        })
      : []
  const h = context.recipe.layerHeight.value
  const lying = each.flatMap(({ shape, outcome }) =>
    shape === 'flat-lying' && outcome.best !== null
      ? [
          outcomeReason('lying-layers', {
            shape,
            gap: outcome.best,
            layers: Math.max(1, Math.round(outcome.best / h)),
          }),
        ]
      : [],
  )
  const { outcome, own } = leading
  const taken = outcome.kind === 'found' && isUpright(leading.shape) ? offsetFor(outcome, own) : null
  const lyingOnly = outcome.kind === 'found' && !taken ? [outcomeReason('upright-tells-offset')] : []
  return {
    ...outcome,
    reasons: [...outcome.reasons, ...(taken?.why ?? []), ...several, ...lying, ...lyingOnly],
    adopt: taken?.values ?? [],
  }
}

/** The contour offset with which a gap as usually drawn moves as the smallest here did, and what to draw with it. */
function offsetFor({ best, low }: Outcome, own: ReadTrial): { values: Adoptable[]; why: Reason[] } {
  const gap = best!
  const free = smallestFree(own)
  const play = (from: number) =>
    outcomeReason('joint-play', {
      snug: from,
      free: free === null ? null : Number((from + Math.max(0, free - gap)).toFixed(3)),
    })
  if (!(gap > DRAWN_GAP + 1e-9))
    return { values: [], why: [outcomeReason('gap-as-drawn', { gap }), play(gap)] }
  const offset = -(gap - DRAWN_GAP) / 2
  return {
    values: [
      {
        key: 'contourOffset',
        value: roundTo(settingOf('contourOffset'), offset),
        plusMinus: Number(((gap - (low ?? 0)) / 4 || 0.02).toPrecision(2)),
      },
    ],
    why: [outcomeReason('offset-for-gap', { drawn: DRAWN_GAP, gap, offset }), play(DRAWN_GAP)],
  }
}
