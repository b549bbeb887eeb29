import { ASPECT_IDS, READINESS_STATES, type ReadinessStep } from '@verimend/core/casework'
import { FAMILIES } from '@verimend/core/material'
import { lookId } from './ids'
import {
  GRADES,
  PINNED_SOURCES,
  SETTING_KEYS,
  SOURCES,
  faultOf,
  isSettingKey,
  settingOf,
  type Changes,
  type GradedRecipe,
  type Offer,
  type Pinned,
  type RankedRelative,
  type RecipeValues,
  type Resolved,
} from '@verimend/core/recipe'
import { say } from '@verimend/core/words'
import { z } from 'zod'
import { page, idText, oneOf, reason, textUpTo, wholeIn } from './common'
import { filamentRecord } from './filament'
import { machineRecord } from './machine'

export const settingValue = z.union([z.number(), z.boolean(), z.string().max(40)])
export const settingKey = oneOf(SETTING_KEYS, 'There is no such setting.')

const offer = z.object({
  source: z.enum(SOURCES),
  value: settingValue,
  reason,
}) satisfies z.ZodType<Offer>
const isoDate = z.string().max(30)
export const resolvedSetting = z.object({
  value: settingValue,
  source: z.enum(SOURCES),
  reason,
  plusMinus: z.number().optional(),
  at: isoDate.optional(),
  follows: z.array(settingKey).max(100).optional(),
  clippedFrom: z.number().optional(),
  filledIn: z.literal(true).optional(),
  stack: z.array(offer).max(20),
}) satisfies z.ZodType<Resolved>
export const pinned = z.object({
  value: settingValue,
  source: z.enum(PINNED_SOURCES),
  reason,
  plusMinus: z.number().optional(),
  at: isoDate.optional(),
}) satisfies z.ZodType<Pinned>
/** Every setting of the registry with value, source, reason and stack. */
export const recipeValues = z.record(z.string(), resolvedSetting) as unknown as z.ZodType<RecipeValues>
const variant = z.object({
  pins: z.record(z.string(), pinned),
  values: z.record(z.string(), resolvedSetting),
})
/** The fine and coarse variants: their own pins, and the values that differ from the base. */
export const recipeVariants = z.object({ fine: variant, coarse: variant }) as unknown as z.ZodType<
  GradedRecipe['variants']
>

export const versionChange = z.object({
  key: settingKey,
  from: settingValue.optional(),
  to: settingValue.optional(),
  /** Where the earlier value came from. */
  was: z.enum(SOURCES).optional(),
  /** Left out for the base. */
  grade: z.enum(GRADES).optional(),
})
export const versionSummary = z.object({
  number: z.number(),
  parent: z.number().nullable(),
  reason,
  changes: z.array(versionChange),
  caseId: z.string().nullable(),
  createdAt: z.string(),
})
export type VersionSummary = z.infer<typeof versionSummary>
export const recipeVersion = versionSummary.extend({ values: recipeValues, variants: recipeVariants })
export type RecipeVersion = z.infer<typeof recipeVersion>

export const pairSummary = z.object({
  id: idText,
  machineId: idText,
  filamentId: idText,
  nozzle: z.number(),
  current: z.number(),
  createdAt: z.string(),
  updatedAt: z.string(),
})
export type PairSummary = z.infer<typeof pairSummary>
export const pairDetail = pairSummary.extend({
  machine: machineRecord,
  filament: filamentRecord,
  version: recipeVersion,
  /** Warnings the person has acknowledged, by their fingerprint. */
  acknowledged: z.array(z.string()),
  /** The part printed last with a path file, for the fit on the roll. */
  lastPart: z.object({ name: z.string(), grams: z.number(), seconds: z.number() }).nullable(),
})
export type PairDetail = z.infer<typeof pairDetail>

export const createPair = z.object({
  machineId: idText,
  filamentId: idText,
  /** The pair whose tested values it starts from; null for none, left out for the nearest. */
  relative: idText.nullable().optional(),
})
/** A tested recipe that another could start from. */
export const relative = z.object({
  pairId: idText,
  name: z.string(),
  machineName: z.string(),
  nearness: z.number(),
  family: oneOf(FAMILIES),
  differs: z.array(z.object({ key: settingKey, theirs: settingValue, own: settingValue })),
  shared: z.array(z.enum(['family', 'finish', 'maker', 'machine', 'drive', 'label'])),
  brings: z.record(z.string(), z.object({ value: settingValue, reason })) as unknown as z.ZodType<
    RankedRelative['brings']
  >,
}) satisfies z.ZodType<RankedRelative>
/** New values by key; null takes a hand-set value away so that the derived one stands again. */
export const settingChanges = z.record(z.string(), settingValue.nullable()).superRefine((set, ctx) => {
  for (const [key, value] of Object.entries(set)) {
    if (!isSettingKey(key))
      ctx.addIssue({ code: 'custom', path: [key], message: 'There is no such setting.' })
    else if (value !== null) {
      const fault = faultOf(key, value)
      if (fault) ctx.addIssue({ code: 'custom', path: [key], message: say(fault) })
    }
  }
}) as unknown as z.ZodType<Changes>
export const createVersion = z.object({
  /** The version the change was made on; another current one is a conflict. */
  base: wholeIn(1, 1_000_000, 'The base version'),
  set: settingChanges,
  /** Changes of the variants; only settings that follow the layer height. */
  fine: settingChanges.optional(),
  coarse: settingChanges.optional(),
  /** Settings of `set` that were measured, each with its ± in the setting's unit. */
  measured: z
    .record(z.string(), z.number({ error: 'The ± is a number.' }).min(0, { error: 'The ± is not negative.' }))
    .superRefine((all, ctx) => {
      for (const [key, pm] of Object.entries(all)) {
        const s = isSettingKey(key) ? settingOf(key) : null
        if (!s) ctx.addIssue({ code: 'custom', path: [key], message: 'There is no such setting.' })
        else if (s.kind === 'number' && pm > s.max - s.min)
          ctx.addIssue({
            code: 'custom',
            path: [key],
            message: `${s.label}: a ± of ${pm} is wider than the setting.`,
          })
      }
    })
    .optional(),
  /** Start from this tested relative from now on; null: from none. */
  relative: idText.nullable().optional(),
  /** The path file that the values of `set` were read from. */
  file: textUpTo(200, 'The file’s name', 1).optional(),
  reason: textUpTo(300, 'The reason'),
})
export const acknowledgement = z.object({
  fingerprint: textUpTo(200, 'The warning', 3),
  acknowledged: z.boolean(),
})

const aspectId = oneOf(ASPECT_IDS)
const readinessStep = z.object({
  aspect: aspectId,
  by: lookId,
  minutes: z.number(),
  grams: z.number(),
  reason,
}) satisfies z.ZodType<ReadinessStep>
export const pairReadiness = z.object({
  pairId: idText,
  aspects: z.array(z.object({ id: aspectId, state: z.enum(READINESS_STATES), reason, risk: z.number() })),
  next: readinessStep.nullable(),
})
export type PairReadiness = z.infer<typeof pairReadiness>
/** Of which pairs it is asked how ready they are. */
export const listReadiness = z.object({ pairId: z.string().max(40).optional(), ...page(20) })
/** A page of pairs, the one changed last first, and how many there are in all. */
export const readinessPage = z.object({ pairs: z.array(pairReadiness), total: z.number() })
export type ReadinessPage = z.infer<typeof readinessPage>
export const restoreVersion = z.object({
  base: wholeIn(1, 1_000_000, 'The base version'),
  number: wholeIn(1, 1_000_000, 'The version'),
})
