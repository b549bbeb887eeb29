import { filamentArea, filamentMass } from '../extrusion/bead'
import { GcodeError, type Program } from '../gcode/program'
import type { Reason } from '../quantity/reason'
import { median } from '../statistics/summary'
import { analysePath } from './analyse'
import { readBuild, type Build } from './build'
import type { Analysis, ReadingContext } from './analysis'
import { Feature, FEATURE_COUNT } from './features'
import { readFirstLayer, type FirstLayer } from './firstLayer'
import { feedLedger, pullBacks, type FeedLedger, type PullBacks } from './ledger'
import { readSeam, type SeamReading } from './seam'
import { readSteadiness, type Steadiness } from './steadiness'
import { tabulate, type FeatureTotals, type LayerTable } from './table'

/** A place where the most was asked of the hot end. */
export interface MeltPlace {
  rate: number
  layer: number
  feature: Feature
}

/** What a file really tells the machine. Plain data: it goes over HTTP and into the database as it is. */
export interface PathReading {
  bytes: number
  lines: number
  moves: number
  style: Program['style']
  faults: Program['faults']
  faultCount: number
  unknown: [string, number][]
  layerCount: number
  spiral: boolean
  height: number
  layerHeight: number | null
  layers: LayerTable
  firstLayer: FirstLayer | null
  /** How steadily it stands; null where it cannot be told. */
  steadiness: Steadiness | null
  /** Something is laid beside the part, or above the bed, before the part begins. */
  primed: boolean
  base: { skirt: boolean; brim: boolean; raftLayers: number; support: boolean }
  /** Walls, tops, brim and the like, as far as the paths show them. */
  build: Build
  rest: {
    nozzle: number | null
    bed: number | null
    fan: number
    speed: number | null
    outerSpeed: number | null
  }
  /** First layer on which the fan runs, counted from 1; null when it never does. */
  fanFromLayer: number | null
  retraction: PullBacks
  ledger: FeedLedger
  travel: {
    speed: number | null
    /** Travels through open air of at least 2 mm, and how many of them without a pull-back. */
    openCount: number
    openUnretracted: number
    openUnretractedLength: number
    longestUnretracted: number
    /** Layer of the longest one. */
    longestLayer: number | null
  }
  /** The longest {@link MOST_STOPS}; and how many there are over the part in all. */
  stops: { layer: number; z: number; seconds: number; overPart: boolean }[]
  stopsOverPart: number
  seam: SeamReading
  objects: { minX: number; minY: number; maxX: number; maxY: number; fromZ: number; toZ: number }[]
  /** Totals by feature; index is the feature's number. */
  features: FeatureTotals[]
  pressure: number | null
  meltPeak: number
  meltPlace: MeltPlace | null
  filament: { length: number; mass: number }
  seconds: number
  /** mm; outer bounds of everything that is laid. */
  box: { minX: number; minY: number; maxX: number; maxY: number } | null
  assumed: Reason[]
}

/**
 * Reads a program: motion, layers, features, open-air travel, first layer, seam and feed. The one entry point;
 * the same in a browser's worker, on the server and in tests.
 * @param onStep called between the stages with the share done, 0 to 1
 * @throws GcodeError when it lays nothing
 */
export function readPath(
  program: Program,
  context: ReadingContext,
  onStep?: (share: number) => void,
): PathReading {
  return summarise(analysePath(program, context, onStep && ((s) => onStep(s * 0.8))))
}

/** The reading of an analysis: everything that is kept once the moves are let go. */
export function summarise(a: Analysis): PathReading {
  const { program, context, timeline, index } = a
  if (!index.z.length) throw new GcodeError('nothing-fed')
  const area = filamentArea(context.filamentDiameter)
  const { table, totals, meltPlace, restSpeed, travelSpeed, firstAcceleration, travelAcceleration } =
    tabulate(a, area)
  const n = table.z.length
  const above = n > a.raftLayers + 1 ? table.z.map((_, i) => i).slice(a.raftLayers + 1) : []
  const late = above.length ? above[Math.floor(above.length / 2)] : 0
  const fanLayer = table.fan.findIndex((f) => f > 0.005)
  const length = filamentUsed(program)
  const outer = above.map((i) => table.outerSpeed[i]).filter((v): v is number => v !== null)
  const heights = above.map((i) => table.height[i])
  const open = a.travels.filter((t) => !t.retracted)
  const longest = open.reduce<(typeof open)[number] | null>(
    (m, t) => (!m || t.length > m.length ? t : m),
    null,
  )
  const used = (f: Feature) => totals[f].length > 0
  const first = readFirstLayer(a, area)
  return {
    bytes: program.bytes,
    lines: program.lines,
    moves: program.count,
    style: program.style,
    faults: program.faults,
    faultCount: program.faultCount,
    unknown: [...program.unknown].sort((p, q) => q[1] - p[1]).slice(0, 40),
    layerCount: n,
    spiral: index.spiral,
    height: table.z.at(-1) ?? 0,
    layerHeight: heights.length ? round(median(heights), 3) : null,
    layers: table,
    firstLayer: first,
    steadiness: readSteadiness(a, area),
    primed: index.purged || used(Feature.Skirt) || used(Feature.Brim) || a.raftLayers > 0,
    base: {
      skirt: used(Feature.Skirt),
      brim: used(Feature.Brim),
      raftLayers: a.raftLayers,
      support: used(Feature.Support),
    },
    build: readBuild(a, table, { firstAcceleration, travelAcceleration }),
    rest: {
      nozzle: table.nozzle[late] ?? null,
      bed: table.bed[late] ?? null,
      fan: above.length ? median(above.map((i) => table.fan[i])) : (table.fan[0] ?? 0),
      speed: restSpeed,
      outerSpeed: outer.length ? round(median(outer), 1) : null,
    },
    fanFromLayer: fanLayer < 0 ? null : fanLayer + 1,
    retraction: pullBacks(program, index),
    ledger: feedLedger(program, index),
    travel: {
      speed: travelSpeed,
      openCount: a.travels.length,
      openUnretracted: open.length,
      openUnretractedLength: round(
        open.reduce((sum, t) => sum + t.length, 0),
        1,
      ),
      longestUnretracted: longest ? round(longest.length, 1) : 0,
      longestLayer: longest ? longest.layer : null,
    },
    stops: [...a.stops]
      .sort((p, q) => q.seconds - p.seconds)
      .slice(0, MOST_STOPS)
      .map((s) => ({
        layer: s.layer,
        z: table.z[s.layer],
        seconds: round(s.seconds, 2),
        overPart: s.overPart,
      })),
    stopsOverPart: a.stops.filter((s) => s.overPart && s.seconds >= 0.5).length,
    seam: readSeam(a),
    objects: a.objects.map((o) => ({
      minX: round(o.minX, 2),
      minY: round(o.minY, 2),
      maxX: round(o.maxX, 2),
      maxY: round(o.maxY, 2),
      fromZ: table.z[o.firstLayer],
      toZ: table.z[o.lastLayer],
    })),
    features: totals.map((t) => ({
      length: round(t.length, 1),
      seconds: round(t.seconds, 1),
      fed: round(t.fed, 2),
      asked: round(t.asked, 1),
      reached: round(t.reached, 1),
      usual: t.usual,
      fan: t.fan,
      acceleration: t.acceleration,
      width: round(t.width, 3),
      meltPeak: round(t.meltPeak, 2),
    })),
    pressure: program.states.reduce<number | null>((p, s) => s.pressure ?? p, null),
    meltPeak: table.meltPeak.reduce((m, v) => Math.max(m, v), 0),
    meltPlace,
    filament: {
      length: round(length, 1),
      mass: round(filamentMass(length, context.filamentDiameter, context.density), 2),
    },
    seconds: round(timeline.total, 1),
    box: n
      ? {
          minX: round(a.box.minX, 2),
          minY: round(a.box.minY, 2),
          maxX: round(a.box.maxX, 2),
          maxY: round(a.box.maxY, 2),
        }
      : null,
    assumed: timeline.assumed,
  }
}

/** Stops that are kept one by one. */
const MOST_STOPS = 100

export const round = (v: number, digits: number) => Number(v.toFixed(digits))

/** mm of filament that has left the spool for good: the most fed at any time. */
function filamentUsed(program: Program): number {
  let sum = 0
  let most = 0
  for (let i = 0; i < program.count; i++) {
    sum += program.e[i]
    if (sum > most) most = sum
  }
  return most
}

export { FEATURE_COUNT }
