import { commandsOf } from '../../machine/commands'
import { filamentLength, widthAtSpacing } from '../../extrusion/bead'
import type { FactKey, FactOrigin, Facts } from '../../knowledge/facts'
import { cardFor } from '../../material/filling'
import {
  daysInAir,
  daysSince,
  diameterFacts,
  dryingOf,
  type Filament,
  lastDried,
  wears,
} from '../../material/filament'
import {
  FULL_STEP_TOLERANCE,
  LINER_HEAT,
  airOf,
  nearestFullStep,
  offFullStep,
  thickestLayer,
  type Machine,
} from '../../machine/machine'
import type { PathReading } from '../../toolpath/reading'
import { asPrinted } from '../../recipe/againstFile'
import {
  believedMeltCap,
  deriveRecipe,
  featureLoads,
  machineLimit,
  type RecipeValues,
} from '../../recipe/derive'
import { shrinkPull } from '../../extrusion/lift'
import type { NumberKey, SettingKey } from '../../recipe/settings'

/** Share of the melt cap a line may ask for. Common practice, no source. */
const CAP_SHARE = 0.9
const SAFE_SPEED: { [K in NumberKey]?: FactKey } = {
  sparseSpeed: 'safeSparse',
  innerSpeed: 'safeInner',
  solidSpeed: 'safeSolid',
  outerSpeed: 'safeOuter',
  topSpeed: 'safeTop',
  firstSpeed: 'safeFirst',
}

export interface Surroundings {
  machine: Machine
  filament: Filament
  recipe: RecipeValues
  /** A path file that shows the print the signs were seen on. */
  reading?: PathReading | null
  /** mm, the part's longest side as the person knows it; the path file's word goes before it. */
  longest?: number | null
  /** What the part's own mesh says, where it is kept. */
  about?: MeshFacts | null
  /** ISO date. */
  today: string
}

/** Of a part's mesh, what bears on suspects. mm, mm², mN. */
export interface MeshFacts {
  gap: number | null
  hanging: number
  longest: number
  push: number | null
}

/**
 * What is known around a fault: from recipe, machine, filament and, where a path file is there, from what the
 * machine was really told, which then stands before the recipe. Unknown facts are left out.
 */
export function gatherFacts({
  machine,
  filament,
  recipe,
  reading,
  longest = null,
  about = null,
  today,
}: Surroundings): Facts {
  const facts: Facts = {}
  const card = cardFor(filament)
  // what was really printed: the file where it departs from the recipe, else the recipe
  const printed = asPrinted(recipe, reading)
  const n = (key: NumberKey) => printed.values[key].value
  /** Where a setting's printed value is known from. */
  const of = (key: SettingKey): FactOrigin => (printed.fromFile.has(key) ? 'path' : 'recipe')
  const put = (key: FactKey, value: number | boolean | null | undefined, from: FactOrigin) => {
    if (value === null || value === undefined || (typeof value === 'number' && !Number.isFinite(value)))
      return
    facts[key] = { value, from }
  }
  /** The path file's value when there is one, else the recipe's. */
  const seen = (
    key: FactKey,
    inFile: number | boolean | null | undefined,
    inRecipe: number | boolean | null,
  ) => {
    if (inFile !== null && inFile !== undefined) put(key, inFile, 'path')
    else put(key, inRecipe, 'recipe')
  }
  const start = deriveRecipe({ machine, filament })
  const startNumber = (key: NumberKey) => start[key].value

  // temperatures
  const range = filament.label.nozzle ?? card.nozzle
  const nozzle = reading?.rest.nozzle ?? n('nozzle')
  const nozzleFrom = reading?.rest.nozzle != null ? 'path' : 'recipe'
  put('nozzleOverMiddle', nozzle - (range.min + range.max) / 2, nozzleFrom)
  put('nozzleOverBottom', nozzle - range.min, nozzleFrom)
  put('nozzleUnderTop', range.max - nozzle, nozzleFrom)
  put('nozzleStart', startNumber('nozzle'), 'filament')
  put('nozzleUnderStart', startNumber('nozzle') - nozzle, nozzleFrom)
  put('nozzleLimitUnder', range.min - (machineLimit('nozzle', machine) ?? Infinity), 'machine')
  put('labelBottom', range.min, 'filament')
  put('labelTop', range.max, 'filament')
  if (recipe.nozzle.source === 'measured') put('nozzleTested', true, 'recipe')
  put('bedTop', card.bed.top, 'filament')
  put('hotBed', reading?.firstLayer?.bed ?? n('bedFirst'), 'recipe')
  const bedRestStart = startNumber('bed')
  put('bedRestStart', bedRestStart, 'filament')
  put('bedRestLeast', Math.max(0, bedRestStart - 15), 'filament')
  const bedFirst = reading?.firstLayer?.bed
  const bedStart = startNumber('bedFirst')
  seen('bedUnderStart', bedFirst != null ? bedStart - bedFirst : null, bedStart - n('bedFirst'))
  put('bedLimitUnder', card.bed.first - machine.limits.bed, 'machine')
  const bedRest = reading && reading.layerCount > 1 ? reading.rest.bed : null
  seen('bedOverStart', bedRest != null ? bedRest - bedRestStart : null, n('bed') - bedRestStart)

  // retraction and travel
  const tube = machine.drive.kind === 'tube'
  put('tubeFed', tube, 'machine')
  put('softFilament', card.flexible, 'filament')
  put('softOnTube', tube && card.flexible, 'machine')
  const usual = startNumber('retractLength')
  put('retractStart', usual, 'machine')
  const fileOff = reading ? reading.retraction.kind === 'none' : null
  const off = fileOff ?? !recipe.retract.value
  seen('retractOff', fileOff, !recipe.retract.value)
  const wanted = start.retract.value
  seen('retractOffAgainst', fileOff === null ? null : fileOff && wanted, !recipe.retract.value && wanted)
  if (!wanted && !off) put('softPulledBack', true, reading ? 'path' : 'recipe')
  if (!off) {
    const length = reading?.retraction.length ?? n('retractLength')
    const from = reading?.retraction.length != null ? 'path' : 'recipe'
    put('retractShortBy', usual - length, from)
    put('retractOverBy', length - Math.max(tube ? 7 : 2, usual * 1.25), from)
  }
  if (recipe.retractLength.source === 'measured') put('retractTested', true, 'recipe')
  if (reading) {
    put('sameFilamentPulls', reading.retraction.worstPasses, 'path')
    // where nothing is pulled back on purpose, crossing open air says nothing
    if (wanted) put('openAirTravels', reading.travel.openUnretracted, 'path')
    put('longestOpenTravel', reading.travel.longestUnretracted, 'path')
  }
  seen('travelSpeed', reading?.travel.speed, n('travelSpeed'))
  put('travelLimit', startNumber('travelSpeed'), 'machine')
  seen(
    'travelUnder',
    reading?.travel.speed == null ? null : startNumber('travelSpeed') - reading.travel.speed,
    startNumber('travelSpeed') - n('travelSpeed'),
  )
  put('zLiftOff', !(n('zLift') > 0), of('zLift'))
  put(
    'travelAccelerationOver',
    (n('travelAcceleration') / startNumber('travelAcceleration') - 1) * 100,
    of('travelAcceleration'),
  )
  put('pressureShare', (n('pressureCompensation') / (tube ? 1 : 0.1)) * 100, of('pressureCompensation'))
  put('pressureStart', tube ? 0.5 : 0.04, 'machine')
  put('pressureOff', n('pressureCompensation') === 0, of('pressureCompensation'))
  put('noPressureCommand', commandsOf(machine).pressure === 'none', 'machine')
  if (recipe.pressureCompensation.source === 'measured') put('pressureTested', true, 'recipe')

  // filament
  const drying = dryingOf(filament)
  const since = daysInAir(filament, today)
  if (drying.hygroscopic) {
    if (since === null) put('openUnknown', true, 'filament')
    else if (since > drying.openDays) put('wetDays', since - drying.openDays, 'filament')
  }
  const dried = daysSince(lastDried(filament)?.on ?? null, today)
  if (dried !== null && dried <= drying.openDays) put('freshlyDried', true, 'filament')
  // from memory: a new kilogram on a plain holder is where drag begins to tell
  if (filament.weightLeft !== null) put('heavyRoll', filament.weightLeft > 950, 'filament')
  if (reading && filament.weightLeft !== null)
    put('rollUnderPart', reading.filament.mass > filament.weightLeft, 'path')
  if (filament.weightLeft !== null) put('rollNearlyEmpty', filament.weightLeft < 60, 'filament')
  if (!drying.hygroscopic || filament.finish === 'matte' || filament.finish === 'glow')
    put('brittleDays', since === null ? null : since * (filament.finish === 'plain' ? 1 : 2), 'filament')
  put('softInWarmBox', machine.frame === 'enclosed' && card.softening < 65, 'machine')
  put('linedAndHot', machine.hotEnd === 'lined' && nozzle > LINER_HEAT, nozzleFrom)
  put('allMetal', machine.hotEnd === 'all-metal', 'machine')
  const grinds = wears(filament) && machine.nozzle.material === 'brass'
  put('abrasive', grinds, 'filament')
  if (grinds && filament.weightLeft !== null)
    put(
      'abrasiveFed',
      filamentLength(filament.rollWeight - filament.weightLeft, filament.diameter, card.density) / 1000,
      'filament',
    )
  put('nozzleDays', daysSince(machine.nozzle.changedOn, today), 'machine')
  const diameter = diameterFacts(filament)
  if (!diameter) put('diameterUnmeasured', true, 'filament')
  else if (diameter.count > 1) put('diameterSpread', diameter.spread, 'filament')

  // flow, melt, speeds
  put('flow', n('flow'), 'recipe')
  put('flowUntested', recipe.flow.source === 'card', 'recipe')
  put('flowOuter', n('flowOuter'), 'recipe')
  const cap = believedMeltCap(machine, filament, recipe.meltCap)
  const loads = featureLoads(printed.values, cap)
  const peak = Math.max(...loads.map((f) => f.rate))
  seen('meltShare', reading ? (reading.meltPeak / cap) * 100 : null, (peak / cap) * 100)
  // only what asks for more than its share of the cap is slowed
  for (const f of loads)
    if (f.share > CAP_SHARE) {
      const fact = SAFE_SPEED[f.key]
      if (fact) put(fact, Math.max(3, Math.floor(CAP_SHARE * f.cap)), 'machine')
    }
  put('gentleCap', Math.max(0.3, Math.round(7 * Math.min(peak, cap)) / 10), 'machine')
  const outer = reading?.rest.outerSpeed ?? n('outerSpeed')
  seen('outerSpeed', reading?.rest.outerSpeed, n('outerSpeed'))
  // slower than half the card's nothing more is gained, and heat and drips take over
  put('outerSpeedLeast', Math.max(10, card.speed.outer / 2), 'filament')
  put(
    'outerOverCard',
    outer - Math.max(card.speed.outer, startNumber('outerSpeed')),
    reading?.rest.outerSpeed != null ? 'path' : 'recipe',
  )
  put('cardOuterSpeed', startNumber('outerSpeed'), 'filament')
  const speeds = [n('outerSpeed'), n('innerSpeed'), n('sparseSpeed')]
  put('speedRatio', Math.max(...speeds) / Math.min(...speeds), of('innerSpeed'))
  if (Math.max(...speeds) > 1.4 * Math.min(...speeds)) put('evenSpeed', n('outerSpeed'), of('outerSpeed'))
  put(
    'outerAccelerationOver',
    n('outerAcceleration') - Math.max(2000, startNumber('outerAcceleration')),
    of('outerAcceleration'),
  )
  put('openFrame', machine.frame === 'open', 'machine')
  put('enclosed', machine.frame === 'enclosed', 'machine')
  put('noCover', machine.frame === 'enclosed' || (card.softening < 65 && !card.wantsEnclosure), 'machine')
  seen(
    'noPressureRelief',
    reading && reading.seam.count > 8
      ? !reading.pressure && reading.seam.early < 0.02 && reading.seam.wipe < 0.05
      : null,
    n('pressureCompensation') === 0 && n('earlyStop') === 0 && n('wipe') === 0,
  )
  put('wipeStart', machine.nozzle.diameter, 'machine')
  put('earlyStop', n('earlyStop'), of('earlyStop'))
  put('earlyStopStart', Number((machine.nozzle.diameter ** 3).toFixed(3)), 'machine')

  // first layer
  const first = reading?.firstLayer
  seen('firstSpeed', first?.speed, n('firstSpeed'))
  seen(
    'firstSpeedShare',
    first && outer ? (first.speed / outer) * 100 : null,
    (n('firstSpeed') / n('outerSpeed')) * 100,
  )
  put('firstSpeedStart', startNumber('firstSpeed'), 'machine')
  seen('firstHeight', first?.height, n('firstHeight'))
  seen(
    'firstHeightShare',
    first ? (first.height / machine.nozzle.diameter) * 100 : null,
    (n('firstHeight') / machine.nozzle.diameter) * 100,
  )
  put('firstHeightMost', thickestLayer(machine), 'machine')
  put(
    'residualShare',
    machine.bed.residual === null ? null : (machine.bed.residual / (first?.height ?? n('firstHeight'))) * 100,
    'machine',
  )
  seen(
    'firstWidthShare',
    first
      ? ((first.spacing !== null ? widthAtSpacing(first.spacing, first.height) : first.width) /
          machine.nozzle.diameter) *
          100
      : null,
    (n('firstWidth') / machine.nozzle.diameter) * 100,
  )
  put('firstWidthStart', startNumber('firstWidth'), 'machine')
  seen('flowFirst', first?.flow, n('flowFirst'))
  const fileFan = reading ? Math.max(0, ...reading.layers.fan.slice(0, 2)) * 100 : null
  seen('firstFan', fileFan, n('fanOffLayers') >= 2 ? 0 : n('fan'))
  put('cardFanOff', card.fan.offLayers, 'filament')
  seen('notPrimed', reading ? !reading.primed : null, n('skirtLoops') === 0)
  put('zOffset', n('zOffset'), 'recipe')
  put('zOffsetUnset', recipe.zOffset.source === 'card', 'recipe')
  put('handLevelled', machine.bed.levelling === 'screws', 'machine')
  put('printsSinceLevel', machine.bed.printsSinceLevel, 'machine')
  put('printsSinceWash', machine.bed.printsSinceWash, 'machine')
  put('surfaceUnknown', !card.surfaces.includes(machine.bed.surface), 'machine')
  const tips = reading?.steadiness?.push ?? null
  put('pushToTip', tips ?? about?.push, tips === null ? 'case' : 'path')
  put('drawnGap', about?.gap, 'case')
  put('hangingArea', about?.hanging, 'case')
  const inFile = reading?.build.size ? Math.max(reading.build.size.x, reading.build.size.y) : null
  const known = longest ?? about?.longest ?? null
  put(
    'shrinkPull',
    shrinkPull(card, airOf(machine, n('chamber')), inFile ?? known),
    inFile === null ? (known === null ? 'filament' : 'case') : 'path',
  )
  put('brimLines', n('brimLines'), of('brimLines'))
  put('draughtWall', n('draughtWall'), of('draughtWall'))
  put('splitsInDraught', card.wantsEnclosure && machine.frame === 'open', 'machine')
  put('slowZoneOff', n('slowZoneHeight') === 0, 'recipe')

  // cooling, layers
  const fan = reading ? reading.rest.fan * 100 : n('fan')
  const fanFrom = reading ? 'path' : 'recipe'
  put('fanUnderCard', startNumber('fan') - fan, fanFrom)
  put('fanOverCard', fan - startNumber('fan'), fanFrom)
  put('cardFan', startNumber('fan'), 'filament')
  put('fanOff', fan < 1, fanFrom)
  if (machine.fan.present) put('fanOverhangMore', Math.min(100, n('fanOverhang') + 20), 'machine')
  put('minLayerTime', n('minLayerTime'), of('minLayerTime'))
  put('minLayerTimeOver', n('minLayerTime') - startNumber('minLayerTime'), of('minLayerTime'))
  put('minLayerTimeStart', startNumber('minLayerTime'), 'filament')
  if (reading && reading.layerCount > 4) {
    const needed = startNumber('minLayerTime')
    put('shortestLayer', (Math.min(...reading.layers.seconds.slice(1)) / needed) * 100, 'path')
    const outers = reading.layers.outerSpeed.slice(1).filter((v): v is number => v !== null)
    if (outers.length > 3 && reading.rest.outerSpeed)
      put('outerSpeedSwing', (Math.min(...outers) / reading.rest.outerSpeed) * 100, 'path')
  }
  const height = reading?.layerHeight ?? n('layerHeight')
  put(
    'offFullStep',
    offFullStep(height, machine) > FULL_STEP_TOLERANCE,
    reading?.layerHeight != null ? 'path' : 'recipe',
  )
  put('onFullStep', nearestFullStep(height, machine), 'machine')
  const stacked = reading && reading.seam.count > 8 ? reading.seam.stacked : null
  seen('seamStacked', stacked === null ? null : stacked > 0.8, recipe.seamPlace.value === 'stacked')
  seen('seamScattered', stacked === null ? null : stacked < 0.4, recipe.seamPlace.value === 'scattered')
  put('insideFirst', printed.values.wallOrder.value === 'inside-first', of('wallOrder'))

  // bridges, tops, supports
  put('bridgeShare', (n('bridgeSpeed') / n('outerSpeed')) * 100, of('bridgeSpeed'))
  put('bridgeOver', n('bridgeSpeed') - startNumber('bridgeSpeed'), of('bridgeSpeed'))
  put('bridgeStart', startNumber('bridgeSpeed'), 'filament')
  put('fewWalls', n('wallCount') <= 2, of('wallCount'))
  put('sparseDensity', n('sparseDensity'), of('sparseDensity'))
  put('topThickness', n('topLayers') * n('layerHeight'), of('topLayers'))
  put('supportGapShare', (n('supportGap') / n('layerHeight')) * 100, 'recipe')
  if (reading) put('supportThere', reading.base.support, 'path')

  // size
  put('contourZero', n('contourOffset') >= 0, 'recipe')
  put('noOffsets', n('contourOffset') > -0.02 && n('holeOffset') < 0.06, 'recipe')
  put('contourOffset', n('contourOffset'), 'recipe')
  put('holeZero', n('holeOffset') <= 0, 'recipe')
  put('holeOffset', n('holeOffset'), 'recipe')
  put('shrinkCard', card.shrink, 'filament')
  put('scaleForShrink', 100 + card.shrink, 'filament')
  put('scaleUnset', n('scaleX') === 100 && n('scaleY') === 100, 'recipe')
  return facts
}
