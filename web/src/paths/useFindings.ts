import type { PairDetail } from '@verimend/contract'
import type { PathFinding } from '@verimend/core/diagnosis'
import type { PathReading } from '@verimend/core/toolpath'
import { useMemo } from 'react'
import { onBench } from '../pairs/onBench'
import { useComputed, type Computed } from '../workers/useComputed'

/** What a path file does that bears on flaws. */
export function useFindings(reading: PathReading | null, pair: PairDetail): Computed<PathFinding[]> {
  const input = useMemo(() => reading && { reading, pair: onBench(pair) }, [reading, pair])
  return useComputed('findings', input)
}
