import type { PathReading } from '../paths/reading'
import type { RecipeValues } from '../recipe/derive'
import type { SettingKey, SettingValue } from '../recipe/settings'

/** A setting that the path file does not carry out as the recipe has it. */
export interface FileDifference {
  key: SettingKey
  recipe: SettingValue
  file: SettingValue
}

/**
 * Where a path file differs from the recipe. Only settings the reader can tell from moves are compared, and
 * only beyond what rounding in the file explains.
 */
export function compareWithRecipe(reading: PathReading, recipe: RecipeValues): FileDifference[] {
  const out: FileDifference[] = []
  const n = (key: SettingKey) => Number(recipe[key].value)
  const compare = (key: SettingKey, inFile: number | null | undefined, slack: number) => {
    if (inFile === null || inFile === undefined || !Number.isFinite(inFile)) return
    if (Math.abs(inFile - n(key)) > slack) out.push({ key, recipe: n(key), file: Number(inFile.toFixed(2)) })
  }
  const first = reading.firstLayer
  const many = reading.layerCount > 1
  compare('nozzleFirst', first?.nozzle, 0.5)
  compare('bedFirst', first?.bed, 0.5)
  if (many) {
    compare('nozzle', reading.rest.nozzle, 0.5)
    compare('bed', reading.rest.bed, 0.5)
    compare('fan', reading.rest.fan * 100, 3)
    compare('layerHeight', reading.layerHeight, 0.006)
    compare('outerSpeed', reading.rest.outerSpeed, Math.max(2, 0.1 * n('outerSpeed')))
  }
  compare('firstHeight', first?.height, 0.011)
  compare('firstSpeed', first?.speed, Math.max(1, 0.08 * n('firstSpeed')))
  compare('flowFirst', first?.flow, 6)
  if (first?.spacing != null) compare('firstWidth', first.spacing + (1 - Math.PI / 4) * first.height, 0.05)
  const offLayers = reading.fanFromLayer === null ? reading.layerCount : reading.fanFromLayer - 1
  if (many && n('fan') > 0 && offLayers < n('fanOffLayers'))
    out.push({ key: 'fanOffLayers', recipe: n('fanOffLayers'), file: offLayers })
  const pulls = reading.retraction.kind !== 'none'
  if (pulls !== (recipe.retract.value === true))
    out.push({ key: 'retract', recipe: recipe.retract.value, file: pulls })
  else if (pulls) {
    compare('retractLength', reading.retraction.length, 0.06)
    compare('retractSpeed', reading.retraction.speed, 2)
  }
  compare('travelSpeed', reading.travel.speed, 8)
  if (!reading.primed && many && n('skirtLoops') > 0)
    out.push({ key: 'skirtLoops', recipe: n('skirtLoops'), file: 0 })
  return out
}
