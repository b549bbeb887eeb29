import { AS_IT_IS } from '../geometry/mesh/mesh'
import { scoped, type Kernel, type Solid } from '../geometry/kernel'
import { GcodeReader } from '../gcode'
import {
  aboveOf,
  judgePlacing,
  layPart,
  piecesOf,
  settingsFor,
  stiffnessOf,
  turned,
  writePlan,
  type AboveView,
  type Judged,
  type LaidPart,
  type Layout,
  type PartSettings,
  type PlacingPair,
  type Pieces,
  type Stiffness,
} from '../planner'
import { partSettingsOf } from '../recipe/derive'
import { cardFor } from '../material/filling'
import { runsOutAt } from '../material/filament'
import { analysePath } from '../toolpath/analyse'
import type { Analysis } from '../toolpath/analysis'
import { summarise, type PathReading } from '../toolpath/reading'
import type { PairOnBench } from '../trials/pieces/piece'
import { forecastOf, type FamilyForecast, type Outlook } from './forecast'

/**
 * Settings that move no line: speeds, heats, fans, flows, pull-backs. A plan stays as it is while only these change.
 */
export const WRITTEN_ONLY = [
  'nozzleFirst', 'nozzle', 'bedFirst', 'bed', 'diameter', 'density',
  'flow', 'flowFirst', 'flowOuter', 'flowInner', 'flowSolid', 'flowSparse', 'flowBridge', 'flowOverRaft',
  'retract', 'retractLength', 'retractSpeed', 'restartExtra', 'zLift', 'minTravel', 'wipe', 'earlyStop',
  'pressureCompensation', 'fanOffLayers', 'fanRampLayers', 'fan', 'fanOverhang', 'fanBridge',
  'minLayerTime', 'speedFloor', 'firstSpeed', 'zOffset', 'raftBottomSpeed', 'raftTopSpeed',
  'slowZoneHeight', 'slowZoneSpeed', 'smallLoopSpeed', 'overhangSpeed', 'steepSpeed',
  'outerSpeed', 'innerSpeed', 'solidSpeed', 'topSpeed', 'sparseSpeed', 'bridgeSpeed', 'travelSpeed',
  'outerAcceleration', 'innerAcceleration', 'firstAcceleration', 'travelAcceleration',
  'cornerChange', 'junctionDeviation',
] as const satisfies readonly (keyof PartSettings)[] // prettier-ignore

const WRITTEN = new Set<string>(WRITTEN_ONLY)

/** A part laid with a pair's recipe, written, and read back. */
export interface PartOnPair {
  /** What the lines hang on; the same key has the same plan. */
  key: string
  laid: LaidPart
  gcode: string
  analysis: Analysis
  view: PartView
}

/** What is shown of a planned part, as plain data. */
export interface PartView {
  reading: PathReading
  judged: Judged
  above: AboveView
  pieces: Pieces
  stiffness: Stiffness
  forecast: FamilyForecast[]
  roll: RollReach
  left: LaidPart['plan']['left']
  tabs: LaidPart['plan']['tabs']
}

/** How far what is on a roll reaches. */
export interface RollReach {
  /** g the plan takes, and g on the roll; null: not known. */
  grams: number
  onRoll: number | null
  /** Where it runs out, counted from nought, and at which height; null where it suffices or is not known. */
  runsOut: { layer: number; z: number; joinAt: { layer: number; z: number } } | null
}

/** Kept back for the way from the roll to the nozzle, g. Common practice, no source. */
const LEFT_IN_PATH = 3
/** How far back a layer is looked for in which a join is hidden, as a share of all layers. */
const LOOK_BACK = 0.06

/**
 * Whether a roll suffices, at which height it runs out, and where a second one is best joined: in the longest layer shortly
 * before, where a stop shows least.
 */
export function rollReach({ layers, filament }: PathReading, onRoll: number | null): RollReach {
  const reach: RollReach = { grams: filament.mass, onRoll, runsOut: null }
  if (onRoll === null || filament.mass <= onRoll - LEFT_IN_PATH) return reach
  const perMm = filament.length > 0 ? filament.mass / filament.length : 1
  const out = runsOutAt(layers.fed, Math.max(0, onRoll - LEFT_IN_PATH) / perMm) ?? layers.z.length - 1
  const from = Math.max(0, out - Math.max(1, Math.round(LOOK_BACK * layers.z.length)))
  let join = from
  for (let i = from; i < Math.max(from + 1, out); i++) if (layers.seconds[i] > layers.seconds[join]) join = i
  return {
    ...reach,
    runsOut: { layer: out, z: layers.z[out], joinAt: { layer: join, z: layers.z[join] } },
  }
}

export interface PlanRequest {
  pair: PairOnBench
  layout: Layout
  title: string
  notes?: readonly string[]
  today: string
  /** Plans whose lines may serve again. */
  known?: readonly (PartOnPair | null)[]
  onStep?: (share: number) => void
}

/**
 * Lays a part with a pair's recipe, writes the program, reads it back and says what to expect. Where only speeds, heats, fans,
 * flows or pull-backs are otherwise than before, the lines stay.
 * @throws PlanError where it cannot be laid so
 */
export function planOnPair(
  kernel: Kernel,
  solid: Solid,
  { pair, layout, title, notes, today, known = [], onStep }: PlanRequest,
): PartOnPair {
  const { machine, filament } = pair
  const recipe = partSettingsOf(pair.recipe)
  const key = planKey(recipe, layout, pair)
  const kept = known.find((p) => p?.key === key) ?? null
  const laid = kept
    ? { ...kept.laid, settings: settingsFor(recipe, layout) }
    : layPart(kernel, solid, machine, recipe, layout, onStep && ((s) => onStep(0.55 * s)))
  onStep?.(0.55)
  const gcode = writePlan(laid.plan, machine, laid.settings, { title, notes }, laid)
  onStep?.(0.62)
  const reader = new GcodeReader({ filamentDiameter: recipe.diameter })
  reader.push(new TextEncoder().encode(gcode))
  const analysis = analysePath(
    reader.finish(),
    {
      filamentDiameter: recipe.diameter,
      density: recipe.density,
      nozzleDiameter: machine.nozzle.diameter,
      limits: machine.limits,
    },
    onStep && ((s) => onStep(0.62 + 0.2 * s)),
  )
  const reading = summarise(analysis)
  const { settings, plan } = laid
  const own = kept
    ? kept.view
    : scoped((keep) => {
        const { scaleX, scaleY, scaleZ, firstHeight } = settings
        const stood = keep(keep(turned(solid, layout)).scale([scaleX / 100, scaleY / 100, scaleZ / 100]))
        onStep?.(0.84)
        const judged = judgePlacing(stood, AS_IT_IS, { firstHeight, density: recipe.density })
        const copies = layout.order === 'together' ? Math.max(1, layout.copies) : 1
        return {
          judged,
          above: aboveOf(stood, judged, firstHeight),
          pieces: piecesOf(
            kernel,
            stood,
            { ...settings, scaleX: 100, scaleY: 100, scaleZ: 100 },
            onStep && ((s) => onStep(0.86 + 0.12 * s)),
          ),
          stiffness: stiffnessOf(plan, settings, stood.volume() * copies),
        }
      })
  onStep?.(0.99)
  return {
    key,
    laid,
    gcode,
    analysis,
    view: {
      reading,
      judged: own.judged,
      above: own.above,
      pieces: own.pieces,
      stiffness: own.stiffness,
      forecast: forecastOf(
        pair,
        reading,
        outlookOf({ reading, judged: own.judged, pieces: own.pieces }, today),
      ),
      roll: rollReach(reading, filament.weightLeft),
      left: plan.left,
      tabs: plan.tabs,
    },
  }
}

/** What a forecast of a planned part is made from. */
export function outlookOf(
  { reading, judged, pieces }: Pick<PartView, 'reading' | 'judged' | 'pieces'>,
  today: string,
): Outlook {
  const { x, y, z } = reading.build.size ?? { x: 0, y: 0, z: 0 }
  const longest = Math.max(x, y, z) || null
  return {
    today,
    longest,
    about: {
      gap: pieces.gaps[0]?.gap ?? null,
      hanging: judged.hanging60,
      longest: longest ?? Math.max(judged.width, judged.depth, judged.height),
      push: Number.isFinite(judged.push) ? judged.push * 1000 : null,
    },
  }
}

/** What lines hang on: every setting that moves one, the layout and the machine's bed. */
function planKey(recipe: PartSettings, layout: Layout, { machine }: PairOnBench): string {
  const moving = Object.entries(recipe).filter(([key]) => !WRITTEN.has(key))
  return JSON.stringify([moving, layout, machine.bed, machine.height, machine.nozzle.diameter])
}

/** mm that are bridged by a fan of a strength, at most and at least. Common practice, no source. */
const BRIDGED = { without: 8, most: 25 }

/** What of a pair a ranking of placings hangs on. */
export function placingPairOf({ machine, filament, recipe }: PairOnBench): PlacingPair {
  const air = machine.fan.present ? Math.min(1, machine.fan.strength * (recipe.fanBridge.value / 100)) : 0
  return {
    shrink: cardFor(filament).shrink,
    bridges: BRIDGED.without + (BRIDGED.most - BRIDGED.without) * air,
  }
}
