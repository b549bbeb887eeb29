import { z } from 'zod'
import { reason } from './common'
import { FEATURE_COUNT, type Feature, type PathReading } from '@verimend/core/toolpath'

/** Larger than anything that is measured on a print, in any unit. */
const MOST = 1e9
const n = z.number().min(-MOST).max(MOST)
const count = z.int().min(0).max(MOST)
const perhaps = n.nullable()
const pair = z.tuple([n, n])
const feature = z
  .int()
  .min(0)
  .max(FEATURE_COUNT - 1) as unknown as z.ZodType<Feature>
const column = z.array(n).max(20_000)
const perhapsColumn = z.array(perhaps).max(20_000)

/** A path reading as it is kept with a case. */
export const pathReading = z
  .object({
    bytes: count,
    lines: count,
    moves: count,
    style: z.object({
      inches: z.boolean(),
      arcs: z.boolean(),
      comments: z.boolean(),
      relativeFeed: z.boolean(),
      absoluteFeed: z.boolean(),
      firmwareRetraction: z.boolean(),
      firmwareRetractLength: perhaps,
      volumetric: z.boolean(),
      pauses: count,
      tools: count,
    }),
    faults: z.array(z.object({ line: count, reason })).max(20),
    faultCount: count,
    unknown: z.array(z.tuple([z.string().max(40), count])).max(40),
    layerCount: count,
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
        layer: count,
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
        islands: count,
        smallestIsland: n,
      })
      .nullable(),
    steadiness: z.object({ push: n, reach: n, height: n }).nullable(),
    primed: z.boolean(),
    base: z.object({ skirt: z.boolean(), brim: z.boolean(), raftLayers: count, support: z.boolean() }),
    build: z.object({
      size: z.object({ x: n, y: n, z: n }).nullable(),
      walls: perhaps,
      bottomLayers: perhaps,
      topLayers: perhaps,
      sparseDensity: perhaps,
      skirtLoops: count,
      brimLines: count,
      draughtWall: count.nullable(),
      wallOrder: z.enum(['inside-first', 'outside-first']).nullable(),
      heldLayerTime: perhaps,
      slowest: perhaps,
      firstAcceleration: perhaps,
      travelAcceleration: perhaps,
    }),
    rest: z.object({ nozzle: perhaps, bed: perhaps, fan: n, speed: perhaps, outerSpeed: perhaps }),
    fanFromLayer: perhaps,
    retraction: z.object({
      kind: z.enum(['none', 'feed', 'firmware']),
      count,
      length: perhaps,
      speed: perhaps,
      restartExtra: perhaps,
      zLift: perhaps,
      worstPasses: count,
    }),
    ledger: z.object({
      byPasses: z.array(n).max(40),
      worst: z.object({ at: n, length: n, passes: count, layer: count }).nullable(),
    }),
    travel: z.object({
      speed: perhaps,
      openCount: count,
      openUnretracted: count,
      openUnretractedLength: n,
      longestUnretracted: n,
      longestLayer: perhaps,
    }),
    stops: z.array(z.object({ layer: count, z: n, seconds: n, overPart: z.boolean() })).max(100),
    stopsOverPart: count,
    seam: z.object({
      starts: z
        .array(z.object({ layer: count, object: count, x: n, y: n, angle: n, turn: n, hole: z.boolean() }))
        .max(6100),
      count,
      objects: z.array(z.object({ object: count, count, resultantLength: n, direction: n, p: n })).max(300),
      stacked: perhaps,
      outwardCorner: n,
      inwardCorner: n,
      early: n,
      wipe: n,
    }),
    objects: z.array(z.object({ minX: n, minY: n, maxX: n, maxY: n, fromZ: n, toZ: n })).max(300),
    features: z
      .array(
        z.object({
          length: n,
          seconds: n,
          fed: n,
          asked: n,
          reached: n,
          usual: perhaps,
          fan: perhaps,
          acceleration: perhaps,
          width: n,
          meltPeak: n,
        }),
      )
      .length(FEATURE_COUNT),
    pressure: perhaps,
    meltPeak: n,
    meltPlace: z.object({ rate: n, layer: count, feature }).nullable(),
    filament: z.object({ length: n, mass: n }),
    seconds: n,
    box: z.object({ minX: n, minY: n, maxX: n, maxY: n }).nullable(),
    assumed: z.array(reason).max(10),
  })
  .superRefine(({ layers, layerCount, firstLayer, ledger, meltPlace }, context) => {
    const rows = layers.z.length
    if (layerCount !== rows)
      context.addIssue({
        code: 'custom',
        path: ['layerCount'],
        message: `There are ${rows} layers in the table, not ${layerCount}.`,
      })
    for (const [name, column] of Object.entries(layers))
      if (column.length !== rows)
        context.addIssue({
          code: 'custom',
          path: ['layers', name],
          message: `This column has not as many entries as there are layers: ${column.length} of ${rows}.`,
        })
    for (const [path, layer] of [
      [['firstLayer', 'layer'], firstLayer?.layer],
      [['ledger', 'worst', 'layer'], ledger.worst?.layer],
      [['meltPlace', 'layer'], meltPlace?.layer],
    ] as const)
      if (layer !== undefined && !(Number.isInteger(layer) && layer >= 0 && layer < rows))
        context.addIssue({ code: 'custom', path: [...path], message: 'There is no such layer.' })
  }) satisfies z.ZodType<PathReading>
