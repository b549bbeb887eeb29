import { z } from 'zod'
import { lookResult } from './case'
import { idText, reason } from './common'
import { procedureId, signId, signResult, signStates, suspectId } from './ids'
import { filamentSchema } from './filament'
import { machineSchema } from './machine'
import { settingChanges, settingKey, settingValue } from './pair'
import { pathReading } from './reading'

/** What a minute, a gram or a risk is worth. */
const weight = z
  .number({ error: 'A weight is a number.' })
  .min(0, { error: 'A weight is not negative.' })
  .max(1000)

/** A diagnosis asked for from outside: a case by id; or a pair by id, or a machine and a roll, and what was seen. */
export const askDiagnosis = z
  .object({
    caseId: idText.optional(),
    pairId: idText.optional(),
    machine: machineSchema.optional(),
    filament: filamentSchema.optional(),
    /** Settings that differ from the derived or the pair's current recipe. */
    recipe: settingChanges.optional(),
    signs: signStates.default({}),
    attempts: z
      .array(z.object({ suspects: z.array(suspectId).min(1).max(3), outcome: signResult }))
      .max(30)
      .optional(),
    checks: z.array(lookResult).max(60).optional(),
    reading: pathReading.optional(),
    weights: z.object({ mine: weight, machine: weight, gram: weight, risk: weight }).partial().optional(),
    cannot: z.array(z.string().max(80)).max(100).optional(),
  })
  .refine(
    (d) =>
      d.caseId !== undefined ||
      d.pairId !== undefined ||
      (d.machine !== undefined && d.filament !== undefined),
    {
      error: 'Name a case or a pair, or give a machine and a filament.',
      path: ['pairId'],
    },
  )

const weightOf = z.object({ decibans: z.number(), kind: z.string(), reason, words: z.string() })
const step = z.object({
  id: z.string(),
  kind: z.enum(['look', 'check', 'trial', 'mend']),
  name: z.string(),
  minutes: z.number(),
  machineMinutes: z.number(),
  grams: z.number(),
  expected: z.number(),
  saves: z.number(),
  words: z.array(z.string()),
})
/** Ids and figures for programs, sentences for people. */
export const givenDiagnosis = z.object({
  /** Probability of the signs under the model against accident alone; under 4: nothing fits well. */
  fitDecibans: z.number(),
  suspects: z.array(
    z.object({ id: suspectId, name: z.string(), probability: z.number(), weights: z.array(weightOf) }),
  ),
  next: step.nullable(),
  others: z.array(step),
  conflicts: z.array(z.string()),
  /** Suspects that are probably at work at once. */
  atOnce: z.array(suspectId),
  /** Mends that a limit or a rule cuts away, and which. */
  blocked: z.array(z.object({ suspect: suspectId, key: settingKey, why: z.string() })),
  mends: z.array(
    z.object({
      id: z.string(),
      suspect: suspectId,
      /** Other suspects the same change goes for. */
      also: z.array(suspectId),
      kind: z.enum(['setting', 'handling']),
      key: settingKey.optional(),
      from: settingValue.optional(),
      to: settingValue.optional(),
      procedure: procedureId.optional(),
      why: z.string(),
      watch: z.array(signId),
      expectedMinutes: z.number(),
      cautions: z.array(z.string()),
    }),
  ),
})
export type GivenDiagnosis = z.infer<typeof givenDiagnosis>
