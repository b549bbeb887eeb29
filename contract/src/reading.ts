import { z } from 'zod'
import { FEATURE_COUNT, type Feature, type PathReading } from '@verimend/core'

const n = z.number()
const perhaps = z.number().nullable()
const pair = z.tuple([z.number(), z.number()])
const feature = z
  .int()
  .min(0)
  .max(FEATURE_COUNT - 1) as unknown as z.ZodType<Feature>
const column = z.array(n).max(20_000)
const perhapsColumn = z.array(perhaps).max(20_000)

/** A path reading as it is kept with a case. */
export const pathReading = z.object({
  bytes: n,
  lines: n,
  moves: n,
  style: z.object({
    inches: z.boolean(),
    arcs: z.boolean(),
    comments: z.boolean(),
    relativeFeed: z.boolean(),
    absoluteFeed: z.boolean(),
    firmwareRetraction: z.boolean(),
    firmwareRetractLength: perhaps,
    volumetric: z.boolean(),
    pauses: n,
    tools: n,
  }),
  faults: z.array(z.object({ line: n, text: z.string().max(200) })).max(20),
  faultCount: n,
  unknown: z.array(z.tuple([z.string().max(40), n])).max(40),
  layerCount: n,
  spiral: z.boolean(),
  height: n,
  layerHeight: perhaps,
  layers: z.object({
    z: column,
    height: column,
    seconds: column,
    fan: column,
    nozzle: perhapsColumn,
    bed: perhapsColumn,
    outerSpeed: perhapsColumn,
    outerAsked: perhapsColumn,
    meltPeak: column,
    meltMean: column,
    width: perhapsColumn,
    fed: column,
    retractions: column,
    openAir: column,
    stop: column,
    supported: column,
    overhang: column,
    spans: z.array(z.array(pair).max(8)).max(20_000),
  }),
  firstLayer: z
    .object({
      layer: n,
      height: n,
      speed: n,
      spacing: perhaps,
      flow: perhaps,
      width: n,
      nozzle: perhaps,
      bed: perhaps,
      fan: n,
      contact: n,
      gaps: n,
      overlaps: n,
      islands: n,
      smallestIsland: n,
    })
    .nullable(),
  primed: z.boolean(),
  base: z.object({ skirt: z.boolean(), brim: z.boolean(), raftLayers: n, support: z.boolean() }),
  rest: z.object({ nozzle: perhaps, bed: perhaps, fan: n, speed: perhaps, outerSpeed: perhaps }),
  fanFromLayer: perhaps,
  retraction: z.object({
    kind: z.enum(['none', 'feed', 'firmware']),
    count: n,
    length: perhaps,
    speed: perhaps,
    restartExtra: perhaps,
    zLift: perhaps,
    worstPasses: n,
  }),
  ledger: z.object({
    byPasses: z.array(n).max(40),
    worst: z.object({ at: n, length: n, passes: n, layer: n }).nullable(),
  }),
  travel: z.object({
    speed: perhaps,
    openCount: n,
    openUnretracted: n,
    openUnretractedLength: n,
    longestUnretracted: n,
    longestLayer: perhaps,
  }),
  stops: z.array(z.object({ layer: n, z: n, seconds: n, overPart: z.boolean() })).max(100),
  seam: z.object({
    starts: z
      .array(z.object({ layer: n, object: n, x: n, y: n, angle: n, turn: n, hole: z.boolean() }))
      .max(6100),
    count: n,
    objects: z.array(z.object({ object: n, count: n, together: n, direction: n, p: n })).max(300),
    stacked: perhaps,
    outwardCorner: n,
    inwardCorner: n,
    early: n,
    wipe: n,
  }),
  objects: z.array(z.object({ minX: n, minY: n, maxX: n, maxY: n, fromZ: n, toZ: n })).max(300),
  features: z
    .array(z.object({ length: n, seconds: n, fed: n, asked: n, reached: n, width: n, meltPeak: n }))
    .length(FEATURE_COUNT),
  pressure: perhaps,
  meltPeak: n,
  meltPlace: z.object({ rate: n, layer: n, feature }).nullable(),
  filament: z.object({ length: n, mass: n }),
  seconds: n,
  box: z.object({ minX: n, minY: n, maxX: n, maxY: n }).nullable(),
  assumed: z.array(z.string().max(300)).max(10),
}) satisfies z.ZodType<PathReading>
