import { proposeMends } from '../diagnosis/advice/mends'
import { isSettingProposal, type SettingProposal } from '../diagnosis/advice/proposal'
import { gatherFacts, type MeshFacts } from '../diagnosis/evidence/facts'
import { findingsOf } from '../diagnosis/evidence/findings'
import { findingContext, findingEvidence } from '../diagnosis/evidence/path'
import { weigh, type Weighed } from '../diagnosis/inference/balance'
import { deciban, fromDeciban } from '../diagnosis/inference/network'
import { FAMILIES_OF_FAULT, SIGNS, SIGN_IDS, type FaultFamily, type SignId } from '../knowledge/signs'
import { suspectOf, type SuspectId } from '../knowledge/suspects'
import { STRENGTH } from '../knowledge/types'
import type { RecipeValues } from '../recipe/derive'
import type { SettingKey, SettingValue } from '../recipe/settings'
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

/** What a forecast is made from besides the pair and the paths. */
export interface Outlook {
  /** ISO date. */
  today: string
  /** mm, the part's longest side. */
  longest?: number | null
  /** What the part's mesh says as it stands. */
  about?: MeshFacts | null
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
  { today, longest = null, about = null }: Outlook,
): FamilyForecast[] {
  const { machine, filament, recipe } = pair
  const facts = gatherFacts({ machine, filament, recipe, reading, longest, about, today })
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

/** One setting changed before the print, and what that does to the forecast. */
export interface ForecastChange {
  family: FaultFamily
  suspect: SuspectId
  key: SettingKey
  from: SettingValue
  to: SettingValue
  /** The family's chance as it is, and with the change. */
  before: number
  after: number
  /** What the change costs: minutes and grams more, below zero for less. */
  minutes: number
  grams: number
}

/** A minute of the machine against a minute of the person. From memory. */
const MACHINE_WEIGHT = 0.25
/** What changing a setting takes a person, minutes. From memory. */
const TO_CHANGE = 1
/** A change that lowers a chance by less is none. */
const LEAST_LOWERED = 0.005

/** Mends that may be tried before the print, each a setting of its own. */
function candidates(
  pair: PairOnBench,
  reading: PathReading,
  { today, longest = null, about = null }: Outlook,
  most: number,
): SettingProposal[] {
  const { machine, filament, recipe } = pair
  const facts = gatherFacts({ machine, filament, recipe, reading, longest, about, today })
  const evidence = findingEvidence(findingsOf(reading, findingContext(pair)))
  const balance = weigh({ signs: {}, facts, evidence })
  const { proposals } = proposeMends({ balance, facts, recipe, reading, machine, filament, today })
  const seen = new Set<string>()
  return proposals
    .filter(isSettingProposal)
    .filter((p) => {
      const id = `${p.key} ${String(p.to)}`
      return !seen.has(id) && seen.add(id)
    })
    .slice(0, most)
}

/**
 * Single changes of the recipe that lower the chance of a family, each planned anew and forecast again: what lowers it most
 * for its cost comes first.
 * @param replan lays the part with other values of the recipe and reads the paths; null where it cannot be laid so
 * @param most changes that are tried: each costs a plan
 */
export function changesWorth(
  pair: PairOnBench,
  reading: PathReading,
  options: Outlook,
  replan: (recipe: RecipeValues) => PathReading | null,
  most = 8,
): ForecastChange[] {
  const now = new Map(forecastOf(pair, reading, options).map((f) => [f.family, f.chance]))
  const out: ForecastChange[] = []
  for (const { key, from, to, suspect } of candidates(pair, reading, options, most)) {
    const recipe = { ...pair.recipe, [key]: { ...pair.recipe[key], value: to } } as RecipeValues
    const changed = replan(recipe)
    if (!changed) continue
    const minutes = (changed.seconds - reading.seconds) / 60
    const grams = changed.filament.mass - reading.filament.mass
    for (const { family, chance: after } of forecastOf({ ...pair, recipe }, changed, options)) {
      const before = now.get(family)!
      if (before - after >= LEAST_LOWERED)
        out.push({ family, suspect, key, from, to, before, after, minutes, grams })
    }
  }
  const worth = (c: ForecastChange) =>
    (c.before - c.after) / (TO_CHANGE + MACHINE_WEIGHT * Math.max(0, c.minutes))
  return out.sort((a, b) => worth(b) - worth(a))
}
