import type { SuspectId } from '../knowledge/suspects'
import type { Correlation, QuantityId } from '../paths/correlate'
import type { FindingContext, FindingKind, PathFinding } from './findings'
import type { Evidence } from './balance'
import { coolingTimeOf, type RecipeValues } from '../recipe/derive'
import type { Filament } from '../materials/filament'
import type { Machine } from '../materials/machine'

/**
 * Decibans by which findings move suspects, where no context rule reads the same thing off the file already.
 * From memory.
 */
const WEIGHTS: Partial<Record<FindingKind, number>> = {
  'stops-over-part': 12,
  'no-stops-over-part': 8,
  'pauses-there': 3,
  'early-stop-long': 6,
  'restart-off': 4,
  'islands-quick': 8,
  'first-gaps': 4,
  'first-underfed': 3,
  'steep-overhang': 4,
  'heat-steps': 3,
  'outer-fed-off': 2,
  'walls-thin': 3,
  'bridges-quick': 2,
}

/** What a pair's findings are measured by: its machine and roll, its melt cap, the time its beads need to set. */
export function findingContext(pair: {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
}): FindingContext {
  return {
    machine: pair.machine,
    filament: pair.filament,
    meltCap: Number(pair.recipe.meltCap.value),
    coolingTime: coolingTimeOf(pair.machine, pair.filament, pair.recipe),
  }
}

/** Findings as evidence on suspects. */
export function findingEvidence(findings: readonly PathFinding[]): Evidence[] {
  return findings.flatMap((f) => {
    const db = WEIGHTS[f.kind]
    if (!db) return []
    return [
      ...f.raises.map((suspect) => ({ suspect, db, words: f.text })),
      ...f.clears.map((suspect) => ({ suspect, db: -db, words: f.text })),
    ]
  })
}

/** Suspects that a quantity speaks of when it changes where the flaw is, the likeliest first. */
export const SUSPECTS_OF_QUANTITY: Record<QuantityId, SuspectId[]> = {
  seconds: ['layer-time-too-short', 'speed-swings'],
  outerSpeed: ['speed-swings'],
  outerAsked: ['speed-swings'],
  meltPeak: ['melt-rate-exceeded'],
  meltMean: ['melt-rate-exceeded', 'temperature-swing'],
  fan: ['cooling-too-strong', 'cooling-too-weak'],
  nozzle: ['nozzle-too-hot', 'nozzle-too-cold'],
  bed: ['bed-too-hot', 'bed-too-cold'],
  width: ['outer-wall-overfed', 'flow-too-low'],
  height: [],
  retractions: ['feed-slip', 'retraction-too-long'],
  openAir: ['retraction-off', 'retraction-too-short'],
  stop: ['head-parks-on-part'],
  supported: ['cooling-too-weak'],
  overhang: ['cooling-too-weak', 'poor-orientation'],
}

/**
 * What a match between marked heights and a quantity says of its suspects: by how strong it is and how unlikely
 * by accident. From memory: 3 to 10 decibans for the first suspect, half of it for the others.
 */
export function markEvidence(match: Pick<Correlation, 'id' | 'strength' | 'p' | 'sentence'>): Evidence[] {
  const db = match.p > 0.2 ? 0 : Math.min(10, 3 + 8 * match.strength * (match.p < 0.05 ? 1 : 0.5))
  return SUSPECTS_OF_QUANTITY[match.id].map((suspect, i) => ({
    suspect,
    db: Number((i ? db / 2 : db).toFixed(1)),
    words: `Marked on the part: ${match.sentence}`,
  }))
}
