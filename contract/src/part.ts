import { DRAWN_UNITS, type DrawnUnit, type Placement } from '@verimend/core/geometry'
import { MOST_COPIES, type Layout } from '@verimend/core/planner'
import { z } from 'zod'
import { sha256Text } from './blob'
import { idText, numberIn, oneOf, revision, textUpTo, wholeIn } from './common'
import { settingChanges } from './pair'

export const drawnUnit = oneOf(
  Object.keys(DRAWN_UNITS) as DrawnUnit[],
  'A unit is mm, inch, metre, centimetre or micrometre.',
)

/** A mesh of a part, as it was put in: the file by its content, and what was found in it. */
const partMesh = z.object({
  sha256: sha256Text,
  fileName: textUpTo(200, 'The file’s name', 1),
  bytes: wholeIn(1, 200_000_000, 'The file’s size', 'bytes'),
  /** What a number in the file means. */
  unit: oneOf(
    Object.keys(DRAWN_UNITS) as DrawnUnit[],
    'A unit is mm, inch, metre, centimetre or micrometre.',
  ),
  faces: wholeIn(1, 2_000_000, 'The number of faces'),
  /** mm */
  size: z.tuple([
    numberIn(0, 100_000, 'A side', 'mm'),
    numberIn(0, 100_000, 'A side', 'mm'),
    numberIn(0, 100_000, 'A side', 'mm'),
  ]),
  /** mm³ */
  volume: numberIn(0, 1e12, 'The volume', 'mm³'),
  /** Faces and edges that had to be put right. */
  mended: wholeIn(0, 100_000_000, 'What was put right'),
})
export const partVersion = partMesh.extend({ number: z.number(), createdAt: z.string() })
export type PartVersion = z.infer<typeof partVersion>

const coordinate = numberIn(-2000, 2000, 'A place', 'mm')
const place = z.object({ x: coordinate, y: coordinate })
const share = numberIn(-1.001, 1.001, 'A direction')
const shift = numberIn(-10_000, 10_000, 'A shift', 'mm')
const placement = z.tuple([
  share, share, share, shift,
  share, share, share, shift,
  share, share, share, shift,
]).readonly() satisfies z.ZodType<Placement> // prettier-ignore

/** How a part is put on the bed. */
export const partLayout = z.object({
  placement: placement.nullable(),
  turn: numberIn(-360, 360, 'The turn', '°'),
  scale: numberIn(0.1, 10_000, 'The scale', '%'),
  withShrink: z.boolean(),
  copies: wholeIn(1, MOST_COPIES, 'The number of copies'),
  order: z.enum(['together', 'one-by-one']),
  withoutTab: z.array(place).max(500, { error: 'Tabs are taken off 500 corners at most.' }),
  uncarried: z
    .array(place.extend({ radius: numberIn(0.1, 2000, 'A radius', 'mm') }))
    .max(500, { error: 'Supports are taken from 500 patches at most.' }),
  load: z.tuple([share, share, share]).readonly().nullable(),
}) satisfies z.ZodType<Layout>

/** A plan that was taken away as G-code. */
export const partPlan = z.object({
  id: idText,
  pairId: idText,
  /** Of the recipe, and of the part. */
  recipe: z.number(),
  version: z.number(),
  minutes: z.number(),
  grams: z.number(),
  createdAt: z.string(),
})
export type PartPlanRecord = z.infer<typeof partPlan>

export const partSummary = z.object({
  id: idText,
  rev: revision,
  name: z.string(),
  size: z.tuple([z.number(), z.number(), z.number()]),
  versions: z.number(),
  cases: z.number(),
  plans: z.number(),
  updatedAt: z.string(),
})
export type PartSummary = z.infer<typeof partSummary>

export const partRecord = z.object({
  id: idText,
  rev: revision,
  name: z.string(),
  note: z.string(),
  versions: z.array(partVersion),
  layout: partLayout,
  /** What of a recipe is otherwise for this part. */
  own: settingChanges,
  plans: z.array(partPlan),
  cases: z.array(
    z.object({ id: idText, pairId: idText, part: z.string(), status: z.enum(['open', 'closed']) }),
  ),
  createdAt: z.string(),
  updatedAt: z.string(),
})
export type PartRecord = z.infer<typeof partRecord>

export const createPart = z.object({
  id: idText.optional(),
  name: textUpTo(120, 'The part’s name', 1),
  mesh: partMesh,
})
export type CreatePart = z.infer<typeof createPart>
export const updatePart = z.object({
  rev: revision,
  name: textUpTo(120, 'The part’s name', 1),
  note: textUpTo(4000, 'The note'),
  layout: partLayout,
  own: settingChanges,
})
export const addPartVersion = z.object({ mesh: partMesh })
export const addPartPlan = z.object({
  id: idText.optional(),
  pairId: idText,
  recipe: wholeIn(1, 1_000_000, 'The recipe’s version'),
  version: wholeIn(1, 1_000_000, 'The part’s version'),
  minutes: numberIn(0, 1_000_000, 'The time', 'min'),
  grams: numberIn(0, 100_000, 'The weight', 'g'),
})
