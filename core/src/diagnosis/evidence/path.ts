import type { Machine } from '../../machine/machine'
import type { Filament } from '../../material/filament'
import { believedMeltCap, settingTimeOf, type RecipeValues } from '../../recipe/derive'
import type { Evidence } from '../inference/balance'
import { because } from '../reasons'
import { FINDING_RULES, type FindingContext, type PathFinding } from './findings'

/** What a pair's findings are measured by: its machine and roll, its melt cap, the time its beads need to set. */
export function findingContext(pair: {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
}): FindingContext {
  return {
    machine: pair.machine,
    filament: pair.filament,
    meltCap: believedMeltCap(pair.machine, pair.filament, pair.recipe.meltCap),
    coolingTime: settingTimeOf(pair.machine, pair.filament, pair.recipe),
  }
}

/** Findings as evidence on suspects. */
export function findingEvidence(findings: readonly PathFinding[]): Evidence[] {
  return findings.flatMap((f) => {
    const { decibans } = FINDING_RULES[f.kind]
    if (!decibans) return []
    const reason = because('path-finding', {
      finding: { code: f.kind, values: f.values as Evidence['reason']['values'] },
    })
    return [
      ...f.raises.map((suspect) => ({ suspect, decibans, reason })),
      ...f.clears.map((suspect) => ({ suspect, decibans: -decibans, reason })),
    ]
  })
}
