import { isPlain, type LookId } from '../../knowledge/checks'
import type { SuspectId } from '../../knowledge/suspects'
import type { Evidence } from '../inference/balance'
import { because } from '../reasons'

/** Chance that a check or trial finds a suspect that is there, and one that is not. From memory. */
const FINDS = { there: 0.9, notThere: 0.08 }
/** The same of a check that measures or looks at the thing itself. From memory. */
const FINDS_PLAINLY = { there: 0.92, notThere: 0.004 }
export const findsBy = (by: LookId) => (isPlain(by) ? FINDS_PLAINLY : FINDS)

/** What a check or trial found: for each suspect it is about, found or not. */
export interface LookResult {
  by: LookId
  suspect: SuspectId
  found: boolean
  /** How much it says, where that is worked out from an interval; left out: the usual rate of checks. */
  decibans?: number
  /** It was measured on another part of the pair. */
  elsewhere?: boolean
}

function usualDecibans(by: LookId, found: boolean): number {
  const { there, notThere } = findsBy(by)
  return Number((10 * Math.log10(found ? there / notThere : (1 - there) / (1 - notThere))).toFixed(1))
}

/** Results of checks and trials as evidence on suspects. */
export function lookEvidence(results: readonly LookResult[]): Evidence[] {
  return results.map(({ by, suspect, found, decibans, elsewhere }) => ({
    suspect,
    decibans: decibans ?? usualDecibans(by, found),
    reason: because(elsewhere ? 'found-elsewhere' : 'look-found', { look: by, found }),
  }))
}
