import {
  DESIGN_IDS,
  type DesignedSet,
  type FoundAt,
  type HeightMark,
  type NotedAttempt,
  type NotedMend,
  type PartFacts,
} from '@verimend/core/casework'
import type { LookResult } from '@verimend/core/diagnosis'
import { FAMILIES_OF_FAULT } from '@verimend/core/knowledge'
import { LAYER_QUANTITIES, type HeightRange, type QuantityId } from '@verimend/core/toolpath'
import { z } from 'zod'
import { page, idText, numberIn, oneOf, reason, revision, textUpTo, wholeIn } from './common'
import { lookId, placeId, procedureId, signId, signResult, signState, signStates, suspectId } from './ids'
import { settingKey, settingValue } from './pair'
import { casePhoto } from './photo'
import { pathReading } from './reading'

/** What a path file made anew brings back to the recipe’s values. */
const departures = z
  .array(z.object({ setting: settingKey, file: settingValue, recipe: settingValue }))
  .max(80)

/** Where a change was found that was not chosen among the case's fixes. */
const foundAt = z.discriminatedUnion('kind', [
  z.object({ kind: z.literal('trial'), id: idText }),
  z.object({ kind: z.literal('measurement'), id: idText }),
  z.object({ kind: z.literal('part'), id: idText }),
  z.object({ kind: z.literal('recipe') }),
]) satisfies z.ZodType<FoundAt>

/** What a part's mesh says of it as it is printed. */
export const partFacts = z.object({
  gap: z.number().nonnegative().max(1000).nullable(),
  wall: z.number().nonnegative().max(1000).nullable(),
  contact: z.number().nonnegative().max(1e9),
  islands: z.number().int().nonnegative().max(1e6),
  hanging: z.number().nonnegative().max(1e9),
  bridge: z.number().nonnegative().max(1e5),
  longest: z.number().nonnegative().max(1e5),
  height: z.number().nonnegative().max(1e5),
  push: z.number().nonnegative().nullable(),
}) satisfies z.ZodType<PartFacts>

/** The part a case is about; null: none. What its mesh says comes with it, or once it has been looked at. */
export const setCasePart = z.object({ partId: idText.nullable(), about: partFacts.nullable().default(null) })

/** A mend that was accepted. */
export const chosenMend = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('setting'),
    proposal: z.string().max(80),
    suspect: suspectId,
    key: settingKey,
    from: settingValue,
    to: settingValue,
    /** Where a turned-away seam faces, degrees. */
    seamDirection: z.number().optional(),
    found: foundAt.optional(),
  }),
  z.object({
    kind: z.literal('handling'),
    proposal: z.string().max(80),
    suspect: suspectId,
    procedure: procedureId,
    departs: departures.optional(),
    found: foundAt.optional(),
  }),
]) satisfies z.ZodType<NotedMend>
export type ChosenMend = z.infer<typeof chosenMend>

export const attempt = z.object({
  number: z.number(),
  mends: z.array(chosenMend),
  signsBefore: signStates,
  fromVersion: z.number(),
  toVersion: z.number(),
  results: z.partialRecord(signId, signResult).nullable(),
  newSigns: z.array(signId),
  note: z.string(),
  createdAt: z.string(),
  recordedAt: z.string().nullable(),
}) satisfies z.ZodType<NotedAttempt>
export type Attempt = z.infer<typeof attempt>

export const caseFile = z.object({
  id: idText,
  name: z.string(),
  bytes: z.number(),
  sha256: z.string(),
  /** The attempts made before the file was put in: it shows the print after that many changes. */
  afterAttempt: z.number(),
  reading: pathReading,
  /** The file itself is kept, not only its reading. */
  kept: z.boolean(),
  createdAt: z.string(),
})
export type CaseFile = z.infer<typeof caseFile>

/** A path file of a case as lists show it, without its reading. */
export const caseFileHead = caseFile.omit({ reading: true, bytes: true, sha256: true }).extend({
  caseId: idText,
  part: z.string(),
  grams: z.number(),
  seconds: z.number(),
})
export type CaseFileHead = z.infer<typeof caseFileHead>

const heightRange = z.object({
  from: numberIn(0, 3000, 'The lower height', 'mm'),
  to: numberIn(0, 3000, 'The upper height', 'mm'),
}) satisfies z.ZodType<HeightRange>
const quantityId = oneOf(
  Object.keys(LAYER_QUANTITIES) as QuantityId[],
  'Nothing of that kind is known of a layer.',
)
/** Heights marked on the part that match a quantity of the path file. */
export const caseMark = z.object({
  id: idText,
  fileId: idText,
  heightRanges: z.array(heightRange),
  quantity: quantityId,
  reason,
  strength: z.number(),
  p: z.number(),
}) satisfies z.ZodType<HeightMark>
export type CaseMark = z.infer<typeof caseMark>
export const addMark = z.object({
  fileId: idText,
  heightRanges: z
    .array(heightRange)
    .min(1, { error: 'Mark at least one range of heights.' })
    .max(20, { error: 'At most twenty ranges of heights are marked.' }),
  quantity: quantityId,
})

/** What a check or trial found of a suspect. */
export const lookResult = z.object({
  by: lookId,
  suspect: suspectId,
  found: z.boolean(),
}) satisfies z.ZodType<LookResult>
export const recordChecks = z.object({
  /** null takes an answer back. */
  results: z
    .array(z.object({ suspect: suspectId, found: z.boolean().nullable() }))
    .min(1, { error: 'Say for at least one suspect what came of it.' })
    .max(70),
})
export const setCannot = z.object({
  /** Steps that cannot be done, by id. */
  cannot: z.array(z.string().max(80)).max(100),
})
export const setLearns = z.object({ learns: z.boolean() })
/** A closed case that teaches about a pair. */
export const lesson = z.object({
  caseId: idText,
  part: z.string(),
  causes: z.array(suspectId),
  samePair: z.boolean(),
  sameMachine: z.boolean(),
  sameFamily: z.boolean(),
  learns: z.boolean(),
})
export type CaseLesson = z.infer<typeof lesson>

/** A designed set: a few prints in which several settings change at once. */
export const designedSet = z.object({
  id: idText,
  design: oneOf(DESIGN_IDS, 'There is no such design.'),
  sign: signId,
  factors: z.array(
    z.object({
      proposal: z.string().max(80),
      suspect: suspectId,
      key: settingKey,
      levels: z.array(settingValue),
    }),
  ),
  grades: z.array(z.number().nullable()),
}) satisfies z.ZodType<DesignedSet>
export const createSet = z.object({
  design: designedSet.shape.design,
  sign: signId,
  factors: z
    .array(z.object({ proposal: z.string().max(80), levels: z.array(settingValue).min(2).max(3) }))
    .min(2, { error: 'A set needs two settings at least.' })
    .max(4, { error: 'Four settings are the most a set takes.' }),
})
/** null: not printed yet. */
export const gradeRun = z.object({ grade: wholeIn(0, 4, 'A grade').nullable() })

export const caseSummary = z.object({
  id: idText,
  rev: revision,
  pairId: idText,
  part: z.string(),
  status: z.enum(['open', 'closed']),
  seen: z.array(signId),
  attempts: z.number(),
  awaiting: z.boolean(),
  /** Minutes and grams printed in its attempts, as far as files tell. */
  grams: z.number(),
  /** Suspects whose mend made it go away. */
  causes: z.array(suspectId),
  partId: idText.nullable(),
  updatedAt: z.string(),
  createdAt: z.string(),
})
export type CaseSummary = z.infer<typeof caseSummary>
/** Which cases are listed. */
export const listCases = z.object({
  status: z.enum(['open', 'closed']).optional(),
  pairId: z.string().max(40).optional(),
  family: oneOf(
    FAMILIES_OF_FAULT.map((f) => f.id),
    'There is no such kind of fault.',
  ).optional(),
  /** Words, or pieces of them, of the part's name. */
  search: z.string().trim().max(100, { error: 'Search for at most 100 characters.' }).optional(),
  /** Only cases that are about a kept part. */
  withPart: z
    .enum(['0', '1'])
    .optional()
    .transform((v) => v === '1'),
  ...page(50),
})
export type ListCases = z.infer<typeof listCases>
/** A page of cases, open ones first, and how many there are in all. */
export const casePage = z.object({ cases: z.array(caseSummary), total: z.number() })
export type CasePage = z.infer<typeof casePage>
/** What closed cases cost, and what cured them. */
export const caseStatistics = z.array(
  z.object({
    family: listCases.shape.family.unwrap(),
    closed: z.number(),
    /** Of each, in the mean. */
    attempts: z.number(),
    /** Of all together. */
    grams: z.number(),
    worked: z.array(z.object({ suspect: suspectId, count: z.number() })),
  }),
)
export type CaseStatistics = z.infer<typeof caseStatistics>
export const caseDetail = z.object({
  id: idText,
  rev: revision,
  pairId: idText,
  part: z.string(),
  note: z.string(),
  status: z.enum(['open', 'closed']),
  signs: signStates,
  startVersion: z.number(),
  keptVersion: z.number().nullable(),
  learnt: z.array(reason).nullable(),
  attempts: z.array(attempt),
  files: z.array(caseFile),
  marks: z.array(caseMark),
  checks: z.array(lookResult),
  cannot: z.array(z.string()),
  sets: z.array(designedSet),
  /** Whether the closed case moves priors. */
  learns: z.boolean(),
  /** Where on the part it was said to be when the case began. */
  place: placeId.nullable(),
  /** mm, the part's longest side as the person said; null: not said. */
  longest: z.number().nullable(),
  /** The part it is about, where its mesh is kept, and what the mesh says of it. */
  partId: idText.nullable(),
  about: partFacts.nullable(),
  photos: z.array(casePhoto),
  createdAt: z.string(),
  updatedAt: z.string(),
})
export type CaseDetail = z.infer<typeof caseDetail>

/** mm; null: not known */
const longestSide = numberIn(1, 2000, 'The longest side', 'mm').nullable()
export const setLongest = z.object({ longest: longestSide })

export const createCase = z.object({
  id: idText.optional(),
  pairId: idText,
  part: textUpTo(120, 'The part’s name', 1),
  place: placeId.nullable().default(null),
  longest: longestSide.default(null),
  partId: idText.nullable().default(null),
})
/** `was` is what the words were when they were changed: other words by now are a conflict. */
export const updateCase = z.object({
  was: z.object({ part: z.string().max(500), note: z.string().max(5000) }),
  part: textUpTo(120, 'The part’s name', 1),
  note: textUpTo(4000, 'The note'),
})
/** null: not looked at. */
export const setSign = z.object({ state: signState.nullable() })
export const addFile = z.object({
  name: textUpTo(200, 'The file’s name', 1),
  bytes: wholeIn(1, 1_000_000_000, 'The file’s size', 'bytes'),
  sha256: z.string().regex(/^[0-9a-f]{64}$/, { error: 'The file’s fingerprint is missing.' }),
  reading: pathReading,
  /** After which attempt it was printed; the last one where it is left out. */
  afterAttempt: wholeIn(0, 10_000, 'The attempt').optional(),
})
export const createAttempt = z.object({
  /** The recipe version the mends were proposed on. */
  base: wholeIn(1, 1_000_000, 'The base version'),
  mends: z
    .array(
      z.object({
        proposal: z.string().max(80),
        /** What it was printed with, where the path file shows another value than the recipe’s. */
        from: settingValue.optional(),
        to: settingValue.optional(),
        asHandling: procedureId.optional(),
        departs: departures.optional(),
        /** Where a turned-away seam is to face, degrees. */
        seamDirection: wholeIn(0, 359, 'The direction', 'degrees').optional(),
      }),
    )
    .min(1, { error: 'Choose at least one thing to change.' })
    .max(3, { error: 'Three changes at once are the most: more cannot be told apart.' }),
})
/** A change made outside the case that the case counts as its attempt. */
export const takeUpAttempt = z.discriminatedUnion('from', [
  /** The recipe as it stands now, against what the case last knew of it. */
  z.object({ from: z.literal('recipe'), base: wholeIn(1, 1_000_000, 'The base version') }),
  /** What a part is printed with otherwise than the recipe has it, and whether it was put down on another side. */
  z.object({
    from: z.literal('part'),
    partId: idText,
    changes: z.array(z.object({ key: settingKey, from: settingValue, to: settingValue })).max(40),
    turned: z.boolean().default(false),
  }),
])
export type TakeUpAttempt = z.infer<typeof takeUpAttempt>
/** A mend a person accepts: with another value, or done by hand instead. */
export type MendChoice = z.infer<typeof createAttempt>['mends'][number]
export const recordOutcome = z.object({
  results: z.partialRecord(signId, signResult),
  newSigns: z.array(signId).max(60),
  /** Side effects that were looked for and did not come. */
  notThere: z.array(signId).max(60).default([]),
  note: textUpTo(2000, 'The note'),
})
/** A closed case is taken up again, with what was found again on a later part. */
export const reopenCase = z.object({ back: z.array(signId).max(60).default([]) })
export const closeCase = z.object({ rev: revision, keep: wholeIn(1, 1_000_000, 'The version to keep') })
