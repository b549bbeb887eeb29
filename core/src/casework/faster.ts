import { fullStepsBetween, thickestLayer } from '../machine/machine'
import type { FaultFamily } from '../knowledge/signs'
import { believedMeltCap, featureLoads, machineLimit, type RecipeValues } from '../recipe/derive'
import type { Changes } from '../recipe/edits'
import { settingApplies } from '../recipe/applies'
import {
  faultOf,
  keysOf,
  roundDown,
  roundTo,
  settingOf,
  type NumberKey,
  type SettingKey,
} from '../recipe/settings'
import { recipeWith } from '../recipe/tried'
import type { PathReading } from '../toolpath/reading'
import type { PairOnBench } from '../trials/pieces/piece'
import { forecastOf, type Outlook } from './forecast'

/** What of a part's stiffness and paths a change is judged by. */
export interface PlannedAnew {
  reading: PathReading
  /** Against a solid one, 0 to 1. */
  stiffness: number
}

/** One way to save time on a part, planned anew. */
export interface FasterChange {
  changes: Changes
  /** Minutes and grams less; grams below zero are more. */
  minutes: number
  grams: number
  /** Share of the part's stiffness that is lost, 0 to 1. */
  weaker: number
  /** The kind of fault that becomes likelier most; null where none does. */
  risk: { family: FaultFamily; before: number; after: number } | null
}

/** A change that saves less of the time than this is none. */
const LEAST_SAVED = 0.01
/** A chance that rises by less is no risk. */
const LEAST_RISK = 0.01
/** Share of the believed melt rate that a faster line may use. Common practice, no source. */
const MELT_SHARE = 0.95

/** Widest usual line, thinnest usual infill and fewest walls that are proposed. Common practice, no source. */
const WIDE = 1.5
const FEWEST_WALLS = 2
const THIN_FILL = 8
/** mm of solid top and bottom that stay. */
const CLOSED = { topLayers: 0.8, bottomLayers: 0.6 } as const

/** Fastest that a feature can go on this hot end and machine, mm/s. */
function fastest(pair: PairOnBench, key: NumberKey): number {
  const { machine, filament, recipe } = pair
  const cap = MELT_SHARE * believedMeltCap(machine, filament, recipe.meltCap)
  const load = featureLoads(recipe, cap).find((f) => f.key === key)
  return Math.min(load?.cap ?? Infinity, machineLimit(key, machine) ?? Infinity)
}

/** Changes that may save time, each by itself, within what machine and hot end can take. */
function candidates(pair: PairOnBench, reading: PathReading): Changes[] {
  const { machine, recipe } = pair
  const { diameter } = machine.nozzle
  const n = (key: NumberKey) => recipe[key].value
  const out: Partial<Record<SettingKey, number | boolean | string>>[] = []
  const raise = (key: NumberKey, to: number) => {
    const value = roundDown(settingOf(key), Math.min(to, machineLimit(key, machine) ?? Infinity))
    if (value > n(key)) out.push({ [key]: value })
  }
  const lower = (key: NumberKey, to: number) => {
    const value = roundTo(settingOf(key), to)
    if (value < n(key)) out.push({ [key]: value })
  }
  for (const layerHeight of fullStepsBetween(n('layerHeight') + 0.005, thickestLayer(machine), machine).slice(
    0,
    3,
  ))
    out.push({ layerHeight: roundTo(settingOf('layerHeight'), layerHeight) })
  raise('fillWidth', WIDE * diameter)
  lower('sparseDensity', Math.max(THIN_FILL, 0.6 * n('sparseDensity')))
  if (n('wallCount') > FEWEST_WALLS) out.push({ wallCount: n('wallCount') - 1 })
  for (const key of ['topLayers', 'bottomLayers'] as const)
    lower(key, Math.ceil(CLOSED[key] / n('layerHeight') - 1e-6))
  for (const key of ['innerSpeed', 'sparseSpeed', 'solidSpeed'] as const)
    raise(key, Math.min(fastest(pair, key), 2 * n('outerSpeed'), 1.5 * n(key)))
  raise('outerSpeed', Math.min(fastest(pair, 'outerSpeed'), 1.3 * n('outerSpeed')))
  raise('travelSpeed', 1.5 * n('travelSpeed'))
  if (recipe.pace.value === 'careful') out.push({ pace: 'brisk' })
  const harder = (key: NumberKey) =>
    roundDown(settingOf(key), Math.min(1.5 * n(key), machineLimit(key, machine) ?? Infinity))
  const accelerations = (['outerAcceleration', 'innerAcceleration', 'travelAcceleration'] as const).filter(
    (k) => harder(k) > n(k),
  )
  if (accelerations.length) out.push(Object.fromEntries(accelerations.map((k) => [k, harder(k)])))
  // where layers are slowed for their time, that is where the minutes go
  if (reading.build.heldLayerTime !== null) lower('minLayerTime', 0.7 * n('minLayerTime'))
  if (n('draughtWall') > 0) out.push({ draughtWall: 0 })
  if (n('brimLines') > 4) lower('brimLines', Math.round(n('brimLines') / 2))
  if (n('skirtLoops') > 1) out.push({ skirtLoops: 1 })
  return (out as Changes[]).filter((c) =>
    keysOf(c).every((k) => faultOf(k, c[k]) === null && settingApplies(k, recipe, machine)),
  )
}

/**
 * Ways to print a part faster, each planned anew on this pair: what saves most for what it loses comes first. Nothing is
 * proposed beyond what the hot end is believed to melt or the machine is set to.
 * @param now the plan as it is
 * @param replan lays the part with other values of the recipe; null where it cannot be laid so
 */
export function waysFaster(
  pair: PairOnBench,
  now: PlannedAnew,
  options: Outlook,
  replan: (recipe: RecipeValues, share: number) => PlannedAnew | null,
): FasterChange[] {
  const before = new Map(forecastOf(pair, now.reading, options).map((f) => [f.family, f.chance]))
  const all = candidates(pair, now.reading)
  const out = all.flatMap((changes, i): FasterChange[] => {
    const recipe = recipeWith(pair, changes)
    const then = replan(recipe, i / all.length)
    const minutes = then ? (now.reading.seconds - then.reading.seconds) / 60 : 0
    if (!then || minutes * 60 < LEAST_SAVED * now.reading.seconds) return []
    const rises = forecastOf({ ...pair, recipe }, then.reading, options)
      .map(({ family, chance }) => ({ family, before: before.get(family)!, after: chance }))
      .sort((a, b) => b.after - b.before - (a.after - a.before))
    const [risk] = rises
    return [
      {
        changes,
        minutes,
        grams: now.reading.filament.mass - then.reading.filament.mass,
        weaker: Math.max(0, 1 - then.stiffness / Math.max(1e-9, now.stiffness)),
        risk: risk && risk.after - risk.before >= LEAST_RISK ? risk : null,
      },
    ]
  })
  return out.sort((a, b) => b.minutes / lossOf(b) - a.minutes / lossOf(a))
}

/** What a change loses, as times of one that loses nothing: a likelier fault and a weaker part. From memory. */
export const lossOf = ({ risk, weaker }: Pick<FasterChange, 'risk' | 'weaker'>): number =>
  1 + 20 * (risk ? risk.after - risk.before : 0) + 4 * weaker

/**
 * The fewest losses that bring a part's time down by a share, as far as single savings add up: each taken in turn by what it
 * saves for what it loses, never two that change the same setting.
 * @param share 0 to 1
 */
export function chosenFor(ways: readonly FasterChange[], minutes: number, share: number): FasterChange[] {
  const chosen: FasterChange[] = []
  const taken = new Set<SettingKey>()
  let left = 1
  for (const way of ways) {
    if (left <= 1 - share) break
    const keys = keysOf(way.changes)
    // the whole pace and single speeds are two ways of saying the same
    const speeds = (k: SettingKey) => k === 'pace' || k.endsWith('Speed')
    if (
      keys.some(
        (k) =>
          taken.has(k) || (speeds(k) && [...taken].some((t) => speeds(t) && (t === 'pace' || k === 'pace'))),
      )
    )
      continue
    for (const k of keys) taken.add(k)
    chosen.push(way)
    left *= 1 - way.minutes / minutes
  }
  return chosen
}
