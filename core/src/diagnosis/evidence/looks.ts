import type { LookId } from '../../knowledge/checks'
import type { SuspectId } from '../../knowledge/suspects'
import type { Evidence } from '../inference/balance'
import { because } from '../reasons'

/** Chance that a check or trial finds a suspect that is there, and one that is not. From memory. */
export const FINDS = { there: 0.9, notThere: 0.08 }

/** What a check or trial found: for each suspect it is about, found or not. */
export interface LookResult {
  by: LookId
  suspect: SuspectId
  found: boolean
  /** How much it says, where that is worked out from an interval; left out: the usual rate of checks. */
  decibans?: number
}

/** Results of checks and trials as evidence on suspects. */
export function lookEvidence(results: readonly LookResult[]): Evidence[] {
  return results.map(({ by, suspect, found, decibans }) => ({
    suspect,
    decibans:
      decibans ??
      Number(
        (found
          ? 10 * Math.log10(FINDS.there / FINDS.notThere)
          : 10 * Math.log10((1 - FINDS.there) / (1 - FINDS.notThere))
        ).toFixed(1),
      ),
    reason: because('look-found', { look: by, found }),
  }))
}
