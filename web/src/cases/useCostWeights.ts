import { USUAL_WEIGHTS, type CostWeights } from '@verimend/core/diagnosis'
import { useCallback, useState } from 'react'

const KEY = 'verimend.weights'

function kept(): CostWeights {
  try {
    return { ...USUAL_WEIGHTS, ...(JSON.parse(localStorage.getItem(KEY) ?? '{}') as object) }
  } catch {
    return USUAL_WEIGHTS
  }
}

/** What a minute, a gram and a risk are worth to the person; kept in this browser. */
export function useCostWeights(): [CostWeights, (weights: CostWeights) => void] {
  const [weights, setWeights] = useState(kept)
  const keep = useCallback((w: CostWeights) => {
    setWeights(w)
    localStorage.setItem(KEY, JSON.stringify(w))
  }, [])
  return [weights, keep]
}
