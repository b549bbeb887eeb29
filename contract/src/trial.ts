import { SIZE_AXES } from '@verimend/core/measurement'
import { NUMBER_KEYS } from '@verimend/core/recipe'
import {
  CRITERION_IDS,
  DRAWN_KEYS,
  EXTENTS,
  JOINT_SHAPES,
  PIECE_IDS,
  TOP_GRADE,
  type Cell,
  type CellReading,
  type PiecePlan,
  type VariedKey,
} from '@verimend/core/trials'
import { z } from 'zod'
import { sha256Text } from './blob'
import { idText, numberIn, oneOf, revision, textUpTo, wholeIn } from './common'
import { settingChanges } from './pair'
import { drawnUnit, partLayout } from './part'

export const pieceId = z.enum(PIECE_IDS, { error: 'There is no such test piece.' })
const variedKey = oneOf<VariedKey>([...NUMBER_KEYS, ...DRAWN_KEYS])
const steps = z.object({
  key: variedKey,
  from: numberIn(-1000, 100_000, 'The first step'),
  to: numberIn(-1000, 100_000, 'The last step'),
  count: wholeIn(1, 20, 'The number of steps'),
})
export const piecePlan = z.object({
  piece: pieceId,
  steps,
  across: steps.optional(),
  extent: z.enum(EXTENTS).optional(),
  onPart: z
    .object({
      partId: idText,
      name: textUpTo(120, 'The part’s name', 1),
      version: wholeIn(1, 1_000_000, 'The part’s version'),
      sha256: sha256Text,
      unit: drawnUnit,
      layout: partLayout,
      own: settingChanges,
      from: numberIn(0, 3000, 'The lowest height', 'mm'),
      to: numberIn(0, 3000, 'The highest height', 'mm'),
    })
    .optional(),
  onFile: z
    .object({
      name: textUpTo(200, 'The file’s name', 1),
      sha256: sha256Text,
      from: numberIn(0, 3000, 'The lowest height', 'mm'),
      to: numberIn(0, 3000, 'The highest height', 'mm'),
    })
    .optional(),
  joints: z
    .array(z.enum(JOINT_SHAPES))
    .min(1, { error: 'Choose at least one kind of joint.' })
    .max(JOINT_SHAPES.length, { error: 'Each kind of joint once.' })
    .refine((a) => new Set(a).size === a.length, { error: 'Each kind of joint once.' })
    .optional(),
}) satisfies z.ZodType<PiecePlan>

const box = z.object({
  x0: z.number(),
  y0: z.number(),
  x1: z.number(),
  y1: z.number(),
  z0: z.number(),
  z1: z.number(),
})
const cell = z.object({
  id: z.string(),
  name: z.string(),
  values: z.partialRecord(variedKey, z.number()),
  box,
  marks: z.number(),
  nominal: z.number().optional(),
  measure: z.enum(['outside', 'inside', 'wall', 'grams']).optional(),
  axis: z.enum(SIZE_AXES).optional(),
  base: z.boolean().optional(),
  round: z.boolean().optional(),
  speed: z.number().optional(),
  joint: z.enum(JOINT_SHAPES).optional(),
}) satisfies z.ZodType<Cell>

export const criterionId = oneOf(CRITERION_IDS, 'There is no such thing to grade.')
/** What was noted of one cell; the whole of it, each time. */
export const cellReading = z.object({
  grades: z.partialRecord(criterionId, wholeIn(0, TOP_GRADE, 'A grade')),
  measures: z
    .array(
      z
        .number({ error: 'Enter a number above 0.' })
        .gt(0, { error: 'A measurement is above 0.' })
        .max(2000, { error: 'A measurement is below 2000.' }),
    )
    .max(20, { error: 'Twenty repeats are the most.' }),
  unsure: z.boolean(),
  skipped: z.boolean(),
  note: textUpTo(400, 'The note'),
}) satisfies z.ZodType<CellReading>

/** A reading that is put in; one that comes late tells what stood there when it was noted. */
export const putReading = cellReading.extend({ was: cellReading.nullable().optional() })

export const trialSummary = z.object({
  id: idText,
  rev: revision,
  pairId: idText,
  caseId: idText.nullable(),
  /** Counted per pair. */
  number: z.number(),
  plan: piecePlan,
  cells: z.array(cell),
  view: z.enum(['front', 'above']),
  /** Recipe version it was written from. */
  version: z.number(),
  readings: z.partialRecord(z.string(), cellReading),
  resolution: z.number(),
  note: z.string(),
  seconds: z.number(),
  grams: z.number(),
  adoptedVersion: z.number().nullable(),
  /** Its readings were taken from a simulated print. */
  simulated: z.boolean(),
  createdAt: z.string(),
  updatedAt: z.string(),
})
export type Trial = z.infer<typeof trialSummary>

export const createTrial = z.object({
  id: idText.optional(),
  pairId: idText,
  caseId: idText.nullable().default(null),
  plan: piecePlan,
})
export const updateTrial = z.object({
  resolution: numberIn(0.001, 1, 'The step of the display', 'mm or g'),
  note: textUpTo(2000, 'The note'),
})
export const adoptTrial = z.object({
  base: wholeIn(1, 1_000_000, 'The base version'),
  keys: z
    .array(oneOf(NUMBER_KEYS, 'There is no such setting.'))
    .min(1, { error: 'Choose at least one value to take over.' }),
})
