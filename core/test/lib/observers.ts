import type { SignStates } from '../../src/diagnosis'
import { SIGNS, SIGN_IDS, type SignId } from '../../src/knowledge'

/** How often people miss a sign that is there, and mark one that is not. Nobody has counted it: three guesses, from memory. */
export const OBSERVERS = {
  careful: { miss: 0.03, mistake: 0.01 },
  middle: { miss: 0.12, mistake: 0.03 },
  sloppy: { miss: 0.3, mistake: 0.08 },
} as const
export type ObserverName = keyof typeof OBSERVERS

/**
 * What somebody marks of the families of what is there.
 * @param everything goes through them sign by sign; else only what strikes is marked
 * @param draw a number from 0 to 1 for each sign
 */
export function marksOf(
  there: ReadonlySet<SignId>,
  observer: ObserverName,
  everything: boolean,
  draw: (sign: SignId) => number,
): SignStates {
  const { miss, mistake } = OBSERVERS[observer]
  const families = new Set([...there].map((s) => SIGNS[s].family))
  const signs: SignStates = {}
  for (const s of SIGN_IDS) {
    if (!families.has(SIGNS[s].family)) continue
    const u = draw(s)
    if (there.has(s) ? u >= miss : u < mistake) signs[s] = 'present'
    else if (everything) signs[s] = 'absent'
  }
  return signs
}
