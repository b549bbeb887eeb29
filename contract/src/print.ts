import { z } from 'zod'
import { idText, numberIn, page, textUpTo, wholeIn } from './common'
import { sha256Text } from './blob'
import { signId } from './ids'

/** What is printed: a trial’s piece, a file that is kept, or the practice piece of the pair. */
export const PRINT_KINDS = ['trial', 'file', 'practice'] as const
export const PRINT_STATES = [
  'sending',
  'waiting',
  'printing',
  'paused',
  'done',
  'cancelled',
  'failed',
  'handed-over',
] as const
export type PrintState = (typeof PRINT_STATES)[number]
/** States after which nothing moves any more. */
export const printEnded = (state: PrintState): boolean =>
  ['done', 'cancelled', 'failed', 'handed-over'].includes(state)

export const printRecord = z.object({
  id: idText,
  machineId: idText,
  pairId: idText,
  kind: z.enum(PRINT_KINDS),
  name: z.string(),
  trialId: idText.nullable(),
  caseId: idText.nullable(),
  /** Attempts of the case when it was sent. */
  afterAttempt: z.number().nullable(),
  /** Recipe version it was written from. */
  version: z.number(),
  /** How it goes to the machine: to a simulated one, or as a file for a person to carry. */
  link: z.enum(['standin', 'download']),
  simulated: z.boolean(),
  state: z.enum(PRINT_STATES),
  reason: z.string().nullable(),
  /** s of printing, done and in all. */
  done: z.number(),
  total: z.number(),
  /** s until it ends, as this machine runs; null where it does not run. */
  left: z.number().nullable(),
  layer: z.number(),
  layerCount: z.number(),
  nozzle: z.number(),
  bed: z.number(),
  waitsFor: z.number(),
  /** When its readings were taken over; null where they were not. */
  enteredAt: z.string().nullable(),
  createdAt: z.string(),
  endedAt: z.string().nullable(),
})
export type Print = z.infer<typeof printRecord>
/** Which prints are listed, the newest first. */
export const listPrints = z.object({
  trialId: z.string().max(40).optional(),
  caseId: z.string().max(40).optional(),
  machineId: z.string().max(40).optional(),
  ...page(30),
})
export type ListPrints = z.infer<typeof listPrints>
/** A page of prints, and how many there are in all. */
export const printPage = z.object({ prints: z.array(printRecord), total: z.number() })
export type PrintPage = z.infer<typeof printPage>

export const createPrint = z.object({
  id: idText.optional(),
  pairId: idText,
  caseId: idText.nullable().default(null),
  what: z.discriminatedUnion('kind', [
    z.object({ kind: z.literal('trial'), trialId: idText }),
    z.object({
      kind: z.literal('file'),
      name: textUpTo(200, 'The file’s name', 1),
      sha256: sha256Text,
    }),
    z.object({ kind: z.literal('practice') }),
  ]),
})
export type CreatePrint = z.infer<typeof createPrint>

/** How fast a simulated machine runs. */
export const PACES = ['real', 'tenfold', 'hundredfold', 'quick', 'quickest'] as const
export type PaceName = (typeof PACES)[number]

/** A simulated machine’s link. */
export const machineLink = z.object({
  machineId: idText,
  pace: z.enum(PACES),
  /** Whether the process of the simulated machines answers. */
  reachable: z.boolean(),
  /** Something is hidden in it, to be found. */
  practice: z
    .object({
      hidden: z.number(),
      startedAt: z.string(),
      /** The truth has been shown. */
      revealedAt: z.string().nullable(),
    })
    .nullable(),
})
export type MachineLink = z.infer<typeof machineLink>

export const changeLink = z.object({ pace: z.enum(PACES) })
export const startPractice = z.object({
  id: idText.optional(),
  hidden: wholeIn(1, 2, 'The number of hidden faults').default(1),
  kind: z.enum(['tube', 'direct', 'enclosed'], { error: 'Choose one of the three kinds of machine.' }),
})
export const practiceStarted = z.object({
  machineId: idText,
  filamentId: idText,
  pairId: idText,
  caseId: idText,
})

/** One property as it really is. */
export const truth = z.object({
  id: z.string(),
  label: z.string(),
  unit: z.string(),
  digits: z.number(),
  value: z.number(),
  broken: z.boolean(),
  /** As it was drawn, before anything was put right. */
  wasBroken: z.boolean(),
})
export const revealed = z.object({
  truths: z.array(truth),
  score: z.object({
    /** Of what was broken: whether a case named it and put it right. */
    found: z.number(),
    mended: z.number(),
    of: z.number(),
    prints: z.number(),
    grams: z.number(),
    minutes: z.number(),
  }),
})
export type Revealed = z.infer<typeof revealed>

const mm = numberIn(-100_000, 100_000, 'A place', 'mm')
export const placeOnPart = z.object({ x0: mm, x1: mm, y0: mm, y1: mm, z0: mm, z1: mm })
export const measurePrint = z.object({
  region: placeOnPart,
  what: z.enum(['outside', 'inside', 'wall', 'grams'], { error: 'Choose what to measure.' }),
  axis: z.enum(['x', 'y', 'z'], { error: 'Measure along X, Y or Z.' }).default('x'),
  repeats: wholeIn(1, 10, 'The number of readings').default(3),
})
/** What somebody sees who holds the part: 0 not there, 1 slight, 2 clear; what was not looked at is left out. */
export const printReport = z.object({
  signs: z.partialRecord(signId, z.union([z.literal(0), z.literal(1), z.literal(2)])),
  grams: z.number(),
  seconds: z.number(),
  layers: z.number(),
  brokeOff: z.boolean(),
  box: placeOnPart,
})
export type PrintReport = z.infer<typeof printReport>

export const observation = z.object({ text: z.string(), values: z.array(z.number()), unit: z.string() })
export type Observation = z.infer<typeof observation>
