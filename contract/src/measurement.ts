import {
  FEELS,
  INSTRUMENTS,
  SIZE_AXES,
  SIZE_KINDS,
  type Measured,
  type SizesInUse,
} from '@verimend/core/measurement'
import { NUMBER_KEYS } from '@verimend/core/recipe'
import { z } from 'zod'
import { idText, numberIn, oneOf, revision, textUpTo, wholeIn } from './common'

const length = numberIn(0.001, 3000, 'A length', 'mm')
const repeats = z.array(length).max(20, { error: 'Twenty repeats are the most.' })
const sizes = z.object({
  kind: z.literal('sizes'),
  instrument: z.object({
    kind: z.enum(INSTRUMENTS, { error: 'A caliper, a micrometer or a ruler.' }),
    resolution: numberIn(0.0005, 2, 'The step of the display', 'mm'),
    zero: numberIn(-2, 2, 'What it shows when closed', 'mm').nullable().optional(),
  }),
  readings: z
    .array(
      z.object({
        id: textUpTo(40, 'A size’s id', 1),
        name: textUpTo(80, 'A size’s name', 1),
        axis: z.enum(SIZE_AXES, { error: 'A size lies along X, Y, Z or a diagonal.' }),
        kind: z.enum(SIZE_KINDS, { error: 'A size is outside, inside, a step, a depth or a wall.' }),
        place: z.enum(['base', 'above']),
        round: z.boolean(),
        nominal: length,
        measures: repeats,
        speed: numberIn(1, 2000, 'The speed', 'mm/s').optional(),
      }),
    )
    .max(80, { error: 'Eighty sizes are the most.' }),
  wanted: z
    .array(
      z.object({
        name: textUpTo(80, 'A size’s name', 1),
        nominal: length,
        kind: z.enum(['outside', 'inside']),
        axis: z.enum(['x', 'y', 'z']),
      }),
    )
    .max(20),
})
const place = { x: numberIn(-2000, 2000, 'X', 'mm'), y: numberIn(-2000, 2000, 'Y', 'mm') }
const grid = z.object({
  kind: z.literal('bed'),
  from: z.literal('grid'),
  points: z
    .array(
      z.object({
        ...place,
        z: numberIn(-10, 10, 'A height', 'mm'),
        u: numberIn(0, 5, 'An uncertainty', 'mm'),
      }),
    )
    .max(2500, { error: 'A grid has at most 2500 places.' }),
})
const felt = z.object({
  kind: z.literal('bed'),
  from: z.literal('felt'),
  sheet: numberIn(0.02, 1, 'The sheet', 'mm'),
  gaps: z
    .array(
      z.object({
        ...place,
        feel: z.enum(FEELS, { error: 'A gap is loose, drags or tight.' }).nullable(),
        gap: numberIn(-1, 5, 'A gap', 'mm').nullable(),
      }),
    )
    .max(25),
})
const grams = numberIn(0.01, 20_000, 'A weight', 'g')
const scaleStep = numberIn(0.001, 10, 'The step of the scale', 'g')
/** What was measured, by its kind. */
export const measured = z.union(
  [
    sizes,
    grid,
    felt,
    z.object({
      kind: z.literal('feed'),
      asked: numberIn(10, 1000, 'The length asked for', 'mm'),
      fed: z.array(numberIn(1, 1500, 'The length fed', 'mm')).max(20),
      steps: numberIn(1, 100_000, 'The steps', 'steps/mm').nullable(),
    }),
    z.object({
      kind: z.literal('purge'),
      fed: numberIn(10, 2000, 'The length fed', 'mm'),
      grams: z.array(grams).max(20),
      resolution: scaleStep,
    }),
    z.object({
      kind: z.literal('drying'),
      before: grams,
      after: grams,
      spool: grams.nullable(),
      resolution: scaleStep,
    }),
    z.object({ kind: z.literal('roll'), gross: grams, spool: numberIn(0, 5000, 'The spool', 'g') }),
    z.object({
      kind: z.literal('diameter'),
      places: z
        .array(
          z.object({
            a: numberIn(1, 3.2, 'A measured diameter', 'mm'),
            b: numberIn(1, 3.2, 'A measured diameter', 'mm').nullable(),
          }),
        )
        .max(40, { error: 'Forty places are the most.' }),
      resolution: numberIn(0.001, 1, 'The step of the display', 'mm'),
    }),
    z.object({
      kind: z.literal('thread'),
      diameters: z.array(numberIn(0.05, 4, 'A diameter', 'mm')).max(20),
      resolution: numberIn(0.001, 1, 'The step of the display', 'mm'),
    }),
    z.object({
      kind: z.literal('heater'),
      of: z.enum(['nozzle', 'bed']),
      temperatures: z
        .array(numberIn(-20, 600, 'A temperature', '°C'))
        .max(2000, { error: 'Two thousand temperatures are the most.' }),
      interval: numberIn(0.05, 600, 'The interval', 's'),
    }),
    z.object({
      kind: z.literal('bands'),
      heights: z.array(numberIn(0, 3000, 'A height', 'mm')).max(200),
      along: z.enum(['height', 'wall']).optional(),
      spacing: z.object({ value: length, u: numberIn(0, 100, 'An uncertainty', 'mm') }).nullable(),
    }),
    z.object({
      kind: z.literal('ripples'),
      readings: z
        .array(
          z.object({
            speed: numberIn(1, 2000, 'A speed', 'mm/s'),
            spacing: length,
            height: numberIn(0, 5, 'A height', 'mm').nullable(),
          }),
        )
        .max(40),
      allowed: numberIn(0.001, 1, 'The crest allowed', 'mm'),
    }),
  ],
  { error: 'Nobody knows this kind of measurement.' },
) satisfies z.ZodType<Measured>

/** What was done with a measurement. */
export const measurementAct = z.object({
  /** The recipe version it went into; null where machine or roll were changed. */
  version: z.number().nullable(),
  what: z.enum(['recipe', 'levelled', 'as-it-lies', 'steps', 'weight', 'diameter']),
})
export type MeasurementAct = z.infer<typeof measurementAct>

const inUse = z.object({
  contourOffset: z.number(),
  holeOffset: z.number(),
  scaleX: z.number(),
  scaleY: z.number(),
  scaleZ: z.number(),
  footTrim: z.number(),
}) satisfies z.ZodType<SizesInUse>

export const measurementRecord = z.object({
  id: idText,
  rev: revision,
  machineId: idText,
  pairId: idText.nullable(),
  caseId: idText.nullable(),
  /** The recipe version the part was printed with. */
  version: z.number().nullable(),
  inUse: inUse.nullable(),
  measured,
  note: z.string(),
  acted: measurementAct.nullable(),
  createdAt: z.string(),
  updatedAt: z.string(),
})
export type MeasurementRecord = z.infer<typeof measurementRecord>

export const createMeasurement = z.object({
  id: idText.optional(),
  machineId: idText,
  pairId: idText.nullable().default(null),
  caseId: idText.nullable().default(null),
  measured,
})
export const updateMeasurement = z.object({
  /** Which one it was read beside; over whatever stands there when left out. */
  rev: revision.optional(),
  measured,
  note: textUpTo(2000, 'The note'),
})
export const adoptMeasurement = z.object({
  base: wholeIn(1, 1_000_000, 'The base version'),
  keys: z
    .array(oneOf(NUMBER_KEYS, 'There is no such setting.'))
    .min(1, { error: 'Choose at least one value to take over.' })
    .max(10),
})
export const applyMeasurement = z.object({
  what: z.enum(['levelled', 'as-it-lies', 'steps', 'weight', 'diameter']),
})
