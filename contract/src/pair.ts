import { z } from 'zod'
import {
  ASPECT_IDS,
  GRADES,
  SETTING_KEYS,
  SOURCES,
  faultOf,
  isSettingKey,
  settingOf,
  type AspectId,
  type GradedRecipe,
  type RecipeValues,
} from '@verimend/core'
import { idText, textUpTo, wholeIn } from './common'
import { filamentRecord } from './filament'
import { machineRecord } from './machine'

export const settingValue = z.union([z.number(), z.boolean(), z.string().max(40)])
export const settingKey = z.enum(SETTING_KEYS as [string, ...string[]], {
  error: 'There is no such setting.',
})

const words = z.string().max(600)
const offer = z.object({ source: z.enum(SOURCES), value: settingValue, words })
const isoDate = z.string().max(30)
export const resolvedSetting = z.object({
  value: settingValue,
  source: z.enum(SOURCES),
  words,
  plusMinus: z.number().optional(),
  at: isoDate.optional(),
  follows: z.array(z.string().max(40)).max(100).optional(),
  clippedFrom: z.number().optional(),
  stack: z.array(offer).max(20),
})
export const pinned = z.object({
  value: settingValue,
  source: z.enum(['measured', 'mend', 'hand']),
  words,
  plusMinus: z.number().optional(),
  at: isoDate.optional(),
})
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
  key: z.string(),
  from: settingValue.optional(),
  to: settingValue.optional(),
  /** Left out for the base. */
  grade: z.enum(GRADES).optional(),
})
export const versionSummary = z.object({
  number: z.number(),
  parent: z.number().nullable(),
  reason: z.string(),
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
  /** Warnings the person answered with "I mean it", by their print. */
  meant: z.array(z.string()),
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
  shared: z.array(z.string()),
  brings: z.record(z.string(), z.object({ value: settingValue, words })),
})
export type Relative = z.infer<typeof relative>
/** New values by key; null takes a hand-set value away so that the derived one stands again. */
export const settingChanges = z.record(z.string(), settingValue.nullable()).superRefine((set, ctx) => {
  for (const [key, value] of Object.entries(set)) {
    if (!isSettingKey(key))
      ctx.addIssue({ code: 'custom', path: [key], message: 'There is no such setting.' })
    else if (value !== null) {
      const fault = faultOf(key, value)
      if (fault) ctx.addIssue({ code: 'custom', path: [key], message: fault })
    }
  }
})
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
  reason: textUpTo(300, 'The reason'),
})
export const meantChange = z.object({ print: textUpTo(200, 'The warning', 3), meant: z.boolean() })

const aspect = z.object({
  id: z.enum(ASPECT_IDS as [AspectId, ...AspectId[]]),
  state: z.enum(['untested', 'from card', 'measured', 'verified', 'stale']),
  words: z.string(),
  risk: z.number(),
})
export const pairReadiness = z.object({
  pairId: idText,
  aspects: z.array(aspect),
  next: z
    .object({
      aspect: z.enum(ASPECT_IDS as [AspectId, ...AspectId[]]),
      by: z.string(),
      name: z.string(),
      minutes: z.number(),
      grams: z.number(),
      words: z.string(),
    })
    .nullable(),
})
export type PairReadiness = z.infer<typeof pairReadiness>
export const restoreVersion = z.object({
  base: wholeIn(1, 1_000_000, 'The base version'),
  number: wholeIn(1, 1_000_000, 'The version'),
})
