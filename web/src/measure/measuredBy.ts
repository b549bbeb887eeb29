import type { LookId } from '@verimend/core/knowledge'
import type { MeasuredKind } from '@verimend/core/measurement'

/** Checks and pieces whose answer is a measurement. */
const MEASURES: Partial<Record<LookId, MeasuredKind>> = {
  calipers: 'sizes',
  'probe-grid': 'bed',
  'level-screws': 'bed',
  'feed-100': 'feed',
  'hang-thread': 'thread',
  'watch-heater': 'heater',
  'weigh-and-dry': 'drying',
  'mark-heights': 'bands',
}
export const measuredBy = (look: LookId): MeasuredKind | undefined => MEASURES[look]
