import { diagnoseCase, type CaseOnBench, type DiagnosisContext } from '@verimend/core/casework'
import { findingContext, findingsOf } from '@verimend/core/diagnosis'
import { zipOf, type NamedBytes } from '@verimend/core/geometry'
import {
  evaluate,
  periodOf,
  profileAlong,
  straighten,
  type GreyPicture,
  type Measured,
  type MeasurementContext,
  type Pixel,
} from '@verimend/core/measurement'
import {
  compareReadings,
  correlate,
  type HeightRange,
  type LayerTable,
  type PathReading,
} from '@verimend/core/toolpath'
import {
  countWithin,
  outcomeAmong,
  pieceCosts,
  planOfExtent,
  type Extent,
  type OutcomeContext,
  type PairOnBench,
  type PiecePlan,
  type ReadTrial,
} from '@verimend/core/trials'

/** What is too heavy for the thread that draws. Everything crosses to a worker and back as plain data. */
export const TASKS = {
  diagnose: ({ bench, context }: { bench: CaseOnBench; context: DiagnosisContext }) =>
    diagnoseCase(bench, context),
  findings: ({ reading, pair }: { reading: PathReading; pair: PairOnBench }) =>
    findingsOf(reading, findingContext(pair)),
  correlate: ({ layers, ranges }: { layers: LayerTable; ranges: HeightRange[] }) => correlate(layers, ranges),
  compare: ({ a, b }: { a: PathReading; b: PathReading }) => compareReadings(a, b),
  /** What each of a pair's trials says, by number. */
  outcomes: ({ trials, context }: { trials: ReadTrial[]; context: OutcomeContext }) =>
    Object.fromEntries(trials.map((t) => [t.number, outcomeAmong(t, trials, context)])),
  countWithin: ({ pair, plan, minutes }: { pair: PairOnBench; plan: PiecePlan; minutes: number }) =>
    countWithin(pair, plan, minutes),
  planOfExtent: ({ pair, plan, extent }: { pair: PairOnBench; plan: PiecePlan; extent: Extent }) =>
    planOfExtent(pair, plan, extent),
  pieceCosts: (pair: PairOnBench) => pieceCosts(pair),
  zip: (files: NamedBytes[]) => zipOf(files),
  measure: ({ measured, context }: { measured: Measured; context: MeasurementContext }) =>
    evaluate(measured, context),
  measureAll: (all: { measured: Measured; context: MeasurementContext }[]) =>
    all.map(({ measured, context }) => evaluate(measured, context)),
  photoBands({
    picture,
    by,
    known,
    points,
  }: {
    picture: GreyPicture
    by: 'corners' | 'length'
    known: { width: number; height: number }
    points: Pixel[]
  }) {
    const map =
      by === 'corners'
        ? straighten(points.slice(0, 4) as [Pixel, Pixel, Pixel, Pixel], known.width, known.height)
        : null
    if (by === 'corners' && !map) throw new Error('Three of the corners lie in a line: set them anew.')
    const [from, to] = points.slice(-2)
    const half = Math.max(2, Math.round(Math.max(picture.width, picture.height) / 90))
    const { profile, step } = profileAlong(picture, from, to, half, map)
    const [a, b] = points
    const scale = by === 'length' ? known.width / Math.max(1, Math.hypot(b.x - a.x, b.y - a.y)) : 1
    const found = periodOf(profile)
    const millimetres = step * scale
    return {
      profile,
      step: millimetres,
      spacing: found && { value: found.value * millimetres, u: found.u * millimetres, p: found.p },
    }
  },
}
export type TaskName = keyof typeof TASKS
export type TaskInput<Name extends TaskName> = Parameters<(typeof TASKS)[Name]>[0]
export type TaskOutput<Name extends TaskName> = ReturnType<(typeof TASKS)[Name]>
