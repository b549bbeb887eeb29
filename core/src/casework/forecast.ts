import { gatherFacts } from '../diagnosis/evidence/facts'
import { findingsOf } from '../diagnosis/evidence/findings'
import { findingContext, findingEvidence } from '../diagnosis/evidence/path'
import { weigh, type Weighed } from '../diagnosis/inference/balance'
import { deciban, fromDeciban } from '../diagnosis/inference/network'
import { FAMILIES_OF_FAULT, SIGNS, SIGN_IDS, type FaultFamily, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { STRENGTH } from '../knowledge/types'
import type { PathReading } from '../toolpath/reading'
import type { PairOnBench } from '../trials/pieces/piece'

/**
 * Decibans by which suspects are less likely before a print than once one has come out wrong: what the priors were made
 * for. From memory.
 */
const SOUND = -7

/** A suspect's share in what may show, and what makes it so likely. */
export interface ForecastCause extends Pick<Weighed, 'id' | 'weights'> {
  /** Chance that it is there and shows by a sign of the family. */
  chance: number
}

/** What may be seen of a family of faults before anything is printed. */
export interface FamilyForecast {
  family: FaultFamily
  /** Chance that a sign of it shows by a cause that is known of. */
  chance: number
  /** Causes, the largest first. */
  causes: ForecastCause[]
}

const signsOf = (family: FaultFamily): SignId[] => SIGN_IDS.filter((s) => SIGNS[s].family === family)

/** Chance that a suspect, where it is there, shows by at least one of some signs. */
function shows(suspect: SuspectId, signs: readonly SignId[]): number {
  const links = suspectOf(suspect).signs
  let hidden = 1
  for (const s of signs) {
    const strength = links[s]
    if (strength) hidden *= 1 - STRENGTH[strength]
  }
  return 1 - hidden
}

/**
 * What is likely to be seen of this print before it is made: the planned paths and the pair are the context of every
 * suspect, no sign is given. Causes are independent, so that a family stays unseen when each of its causes is absent or
 * hidden (noisy-OR, without what shows for no known cause).
 * @param reading of the planned paths; null where there is none yet
 * @param longest mm, the part's longest side
 * @returns the likeliest family first
 */
export function forecastOf(
  pair: PairOnBench,
  reading: PathReading | null,
  { today, longest = null }: { today: string; longest?: number | null },
): FamilyForecast[] {
  const { machine, filament, recipe } = pair
  const facts = gatherFacts({ machine, filament, recipe, reading, longest, today })
  const evidence = reading ? findingEvidence(findingsOf(reading, findingContext(pair))) : []
  const { suspects } = weigh({ signs: {}, facts, evidence })
  const sound = suspects.map((s) => ({ ...s, there: fromDeciban(deciban(s.present) + SOUND) }))
  return FAMILIES_OF_FAULT.map(({ id }): FamilyForecast => {
    const signs = signsOf(id)
    const causes = sound
      .map(({ id: suspect, weights, there }) => ({
        id: suspect,
        weights,
        chance: there * shows(suspect, signs),
      }))
      .filter((c) => c.chance > 0)
      .sort((a, b) => b.chance - a.chance)
    return { family: id, chance: 1 - causes.reduce((none, c) => none * (1 - c.chance), 1), causes }
  }).sort((a, b) => b.chance - a.chance)
}
