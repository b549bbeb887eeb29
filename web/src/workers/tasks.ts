import { diagnoseCase, type CaseOnBench, type DiagnosisContext } from '@verimend/core/casework'
import { findingContext, findingsOf } from '@verimend/core/diagnosis'
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
}
export type TaskName = keyof typeof TASKS
export type TaskInput<Name extends TaskName> = Parameters<(typeof TASKS)[Name]>[0]
export type TaskOutput<Name extends TaskName> = ReturnType<(typeof TASKS)[Name]>
