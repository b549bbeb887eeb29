import type { SuspectId } from '../../../knowledge/suspects'
import type { Machine } from '../../../machine/machine'
import type { MaterialCard } from '../../../material/cards'
import { cardFor } from '../../../material/filling'
import type { Filament } from '../../../material/filament'
import { median } from '../../../statistics/summary'
import type { Feature } from '../../../toolpath/features'
import type { PathReading } from '../../../toolpath/reading'

/** What a finding says, with the values its two sentences need; mm, mm/s, s, mm³/s, % and g. */
export interface FindingReasons {
  'first-fast': { speed: number }
  'first-calm': { speed: number }
  'first-thin': { height: number; residual: number | null }
  'first-narrow': { width: number }
  'first-wide': { width: number; share: number }
  'first-overfed': { flow: number }
  'first-underfed': { flow: number }
  'first-gaps': { share: number }
  'no-priming': object
  primed: object
  'contact-tiny': { contact: number; height: number }
  'islands-quick': { islands: number; smallest: number }
  'raft-there': { layers: number }

  'fan-early': { duty: number }
  'fan-late': object
  'fan-steps': { before: number; after: number; z: number }
  'heat-steps': { before: number; after: number; z: number }
  'layers-too-quick': { seconds: number; needed: number; from: number; to: number }
  'layers-cool': { needed: number }

  /** `held`: s, the time the slowed layers are brought to; null where they are not. */
  'slow-down-swings': {
    top: number
    least: number
    from: number
    to: number
    more: number
    held: number | null
  }
  'speed-even': { speed: number }
  'outer-fastest': { outer: number; inner: number }
  'outer-over-card': { speed: number; card: number }
  'speeds-apart': { ratio: number }
  unreachable: { asked: number; reached: number }
  'bridges-quick': { speed: number }

  'over-melt-cap': { feature: Feature | null; rate: number; cap: number }
  'under-melt-cap': { rate: number; cap: number }
  'outer-fed-off': { outer: number; inner: number }
  'walls-thin': { width: number; nozzle: number }
  'more-than-roll': { needed: number; left: number; z: number }

  'open-air-drag': { without: number; all: number; longest: number }
  'open-air-clean': { all: number }
  'travel-slow': { speed: number }
  'over-pulled': { passes: number; z: number }
  'pulls-few': { passes: number }
  'restart-off': { extra: number }

  'seam-stacked': { share: number; corner: 'outward' | 'inward' | null }
  'seam-scattered': object
  'ends-untreated': object
  'ends-treated': { early: number | null; wipe: number | null }
  'early-stop-long': { early: number }

  'stops-over-part': { times: number; seconds: number }
  'no-stops-over-part': object
  'pauses-there': { times: number }
  'off-full-step': { height: number; step: number }
  'on-full-step': { height: number }
  'heights-vary': { least: number; most: number }
  'steep-overhang': { length: number; z: number }
  'support-there': { length: number }
}
export type FindingKind = keyof FindingReasons
export type FindingSeverity = 'fault' | 'caution' | 'note' | 'good'

/** Something a path file does that bears on a flaw. */
export interface PathFinding {
  kind: FindingKind
  severity: FindingSeverity
  values: FindingReasons[FindingKind]
  /** Heights it is at, mm; null for the whole print. */
  from: number | null
  to: number | null
  /** How large it is, as a share of what would be right, or in the unit of its values. */
  size: number
  raises: SuspectId[]
  clears: SuspectId[]
}

export interface FindingContext {
  machine: Machine
  filament: Filament
  /** mm³/s; what the hot end melts for this pair. */
  meltCap: number
  /** s; shortest layer that cools, for the usual outer wall. */
  coolingTime: number
  /** A case is about blobs or a seam: then a missing wipe and early stop matter more. */
  blobs?: boolean
}
export interface FindingScope extends FindingContext {
  nozzle: number
  card: MaterialCard
}
export const findingScope = (context: FindingContext): FindingScope => ({
  ...context,
  nozzle: context.machine.nozzle.diameter,
  card: cardFor(context.filament),
})

/** What a look at a reading found. */
export interface FoundInPath<Kind extends FindingKind = FindingKind> {
  severity: FindingSeverity
  values: FindingReasons[Kind]
  from?: number | null
  to?: number | null
  size?: number
}
/** One kind of finding: what it speaks for and against, by how much, and how it is found. */
export interface FindingRule<Kind extends FindingKind = FindingKind> {
  raises?: SuspectId[]
  clears?: SuspectId[]
  /**
   * Decibans by which it moves its suspects, where no context rule reads the same thing off the file already. From
   * memory.
   */
  decibans?: number
  find: (reading: PathReading, scope: FindingScope) => FoundInPath<Kind> | null
}
export type FindingRules = { [Kind in FindingKind]?: FindingRule<Kind> }

/** A run of neighbouring layers, as heights from the bottom of the first to the top of the last. */
export interface LayerRun {
  from: number
  to: number
  layers: number[]
}

/** Runs of layers a test holds for. */
export function runsOf(r: PathReading, test: (layer: number) => boolean, first = 0): LayerRun[] {
  const runs: LayerRun[] = []
  for (let l = first; l < r.layerCount; l++) {
    if (!test(l)) continue
    const last = runs.at(-1)
    if (last && last.layers.at(-1) === l - 1) {
      last.layers.push(l)
      last.to = r.layers.z[l]
    } else runs.push({ ...heightsOf(r, l), layers: [l] })
  }
  return runs
}
export const longestRun = (runs: LayerRun[]) =>
  runs.reduce<LayerRun | null>((m, x) => (!m || x.layers.length > m.layers.length ? x : m), null)

/** Where a layer lies, mm. */
export const heightsOf = (r: PathReading, layer: number) => ({
  from: r.layers.z[layer] - r.layers.height[layer],
  to: r.layers.z[layer],
})

/** The lowest layer above the base, where the print runs as a rule. */
export const bodyLayer = (r: PathReading) => Math.min(r.layerCount - 1, r.base.raftLayers + 2)

/** Median of the known, positive values from a layer on; null where there are none. */
export function usualFrom(values: (number | null)[], layer: number): number | null {
  const known = values.slice(layer).filter((v): v is number => v !== null && v > 0)
  return known.length ? median(known) : null
}
