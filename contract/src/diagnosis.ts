import { z } from 'zod'
import { checkResult, signResult, signStates, suspectId } from './case'
import { idText } from './common'
import { filamentSchema } from './filament'
import { machineSchema } from './machine'
import { settingChanges, settingValue } from './pair'
import { pathReading } from './reading'

const weight = z
  .number({ error: 'A weight is a number.' })
  .min(0, { error: 'A weight is not negative.' })
  .max(1000)

/** A diagnosis asked for from outside: a pair by id, or a machine and a roll, and what was seen. */
export const askDiagnosis = z
  .object({
    pairId: idText.optional(),
    machine: machineSchema.optional(),
    filament: filamentSchema.optional(),
    /** Settings that differ from the derived or the pair's current recipe. */
    recipe: settingChanges.optional(),
    signs: signStates,
    attempts: z
      .array(z.object({ suspects: z.array(suspectId).min(1).max(3), outcome: signResult }))
      .max(30)
      .optional(),
    checks: z.array(checkResult).max(60).optional(),
    reading: pathReading.optional(),
    weights: z.object({ mine: weight, machine: weight, gram: weight, risk: weight }).partial().optional(),
    cannot: z.array(z.string().max(80)).max(100).optional(),
  })
  .refine((d) => d.pairId !== undefined || (d.machine !== undefined && d.filament !== undefined), {
    error: 'Name a pair, or give a machine and a filament.',
    path: ['pairId'],
  })

const reason = z.object({ db: z.number(), words: z.string(), kind: z.string() })
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
export const givenDiagnosis = z.object({
  /** Probability of the signs under the model against accident alone, decibans; under 4: nothing fits well. */
  fitDb: z.number(),
  suspects: z.array(
    z.object({ id: suspectId, name: z.string(), probability: z.number(), reasons: z.array(reason) }),
  ),
  next: step.nullable(),
  others: z.array(step),
  conflicts: z.array(z.string()),
  mends: z.array(
    z.object({
      id: z.string(),
      suspect: suspectId,
      kind: z.enum(['setting', 'handling']),
      key: z.string().optional(),
      from: settingValue.optional(),
      to: settingValue.optional(),
      procedure: z.string().optional(),
      why: z.string(),
      watch: z.array(z.string()),
      expectedMinutes: z.number(),
      caution: z.string().optional(),
    }),
  ),
})
