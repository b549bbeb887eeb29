import { say } from '@verimend/core/words'
import { z } from 'zod'
import {
  GRADES,
  RECIPE_FORMAT,
  RECIPE_FORMAT_VERSION,
  SETTING_KEYS,
  faultOf,
  isSettingKey,
  settingOf,
  type RecipeFile,
  type SettingKey,
} from '@verimend/core/recipe'
import { idText, reason, textUpTo } from './common'
import { filamentSchema } from './filament'
import { machineSchema } from './machine'
import { pinned, resolvedSetting, settingKey, settingValue } from './pair'

const words = z.string().max(2000)
/** Files of version 1 have sentences only; later ones the reason's code and values beside them. */
const worded = { words, reason: reason.optional() }
const filedSetting = resolvedSetting.extend({
  ...worded,
  unit: z.string().max(20),
  stack: z.array(resolvedSetting.shape.stack.element.extend(worded)).max(20),
})
const filedVariant = z.object({
  pins: z.record(z.string(), pinned.extend(worded)),
  settings: z.record(z.string(), filedSetting),
})
/** The recipe file. Members a reader does not know are passed over. */
export const recipeFileSchema = z.object({
  format: z.literal(RECIPE_FORMAT),
  version: z.int().min(1),
  reader: z.int().min(1),
  written: z.string().max(40),
  number: z.int().min(1),
  reason: textUpTo(500, 'The reason'),
  machine: machineSchema,
  filament: filamentSchema,
  settings: z.record(z.string(), filedSetting),
  variants: z.object({ fine: filedVariant, coarse: filedVariant }),
}) satisfies z.ZodType<RecipeFile>

/** JSON Schema of the recipe file (2020-12), as published at /api/schema/recipe-2.json. */
export function recipeFileJsonSchema(): object {
  return {
    $id: `recipe-${RECIPE_FORMAT_VERSION}.json`,
    title: `Verimend recipe, format ${RECIPE_FORMAT_VERSION}`,
    ...z.toJSONSchema(recipeFileSchema, { unrepresentable: 'any', io: 'input', reused: 'ref' }),
  }
}

export const MAX_RECIPE_FILE = 1_000_000
const MAX_DEPTH = 40

/** A recipe file that cannot be read; the message is one sentence for the person. */
export class RecipeFileError extends Error {
  constructor(
    message: string,
    /** Where in the file; empty for the whole. */
    readonly path = '',
  ) {
    super(message)
    this.name = 'RecipeFileError'
  }
}

export interface ReadRecipe {
  file: RecipeFile
  /** Settings the file holds that this reader does not know. */
  ignored: string[]
  /** Settings this reader knows that the file does not hold. */
  missing: SettingKey[]
}

const isKnown = <V>(entry: [string, V]): entry is [SettingKey, V] => isSettingKey(entry[0])

/** Deepest nesting of a JSON text; strings are passed over. */
function depthOf(text: string): number {
  let depth = 0
  let most = 0
  let quoted = false
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i)
    if (quoted) {
      if (c === 92) i++
      else if (c === 34) quoted = false
    } else if (c === 34) quoted = true
    else if (c === 123 || c === 91) most = Math.max(most, ++depth)
    else if (c === 125 || c === 93) depth--
  }
  return most
}

/**
 * Reads a recipe file from its text. Checks size, nesting, mark, version, units and every value; unknown
 * settings and members are left aside and named.
 * @throws RecipeFileError with one sentence
 */
export function readRecipeFile(text: string): ReadRecipe {
  if (!text.trim()) throw new RecipeFileError('This file is empty.')
  if (text.length > MAX_RECIPE_FILE)
    throw new RecipeFileError('This file is larger than a recipe can be (1 MB).')
  if (depthOf(text) > MAX_DEPTH) throw new RecipeFileError('This file is nested deeper than a recipe can be.')
  let raw: unknown
  try {
    raw = JSON.parse(text, (key, value: unknown) => {
      if (key === '__proto__' || key === 'constructor' || key === 'prototype')
        throw new RecipeFileError(`This file holds a member named “${key}”, which a recipe never has.`)
      return value
    })
  } catch (error) {
    if (error instanceof RecipeFileError) throw error
    throw new RecipeFileError('This is not a recipe file: it is no readable JSON.')
  }
  const head = z.object({ format: z.string(), version: z.number(), reader: z.number() }).safeParse(raw)
  if (!head.success || head.data.format !== RECIPE_FORMAT)
    throw new RecipeFileError('This JSON was not written as a Verimend recipe.')
  if (head.data.reader > RECIPE_FORMAT_VERSION)
    throw new RecipeFileError(
      `This file needs a newer Verimend: it is of format ${head.data.version}, and this one reads up to ${RECIPE_FORMAT_VERSION}.`,
    )
  const ignored: string[] = []
  const known = raw as {
    settings?: unknown
    variants?: Record<string, { pins?: unknown; settings?: unknown }>
  }
  const strip = (record: unknown) => {
    if (!record || typeof record !== 'object' || Array.isArray(record)) return record
    return Object.fromEntries(
      Object.entries(record).filter(([key]) => {
        if (isSettingKey(key)) return true
        ignored.push(key.slice(0, 60))
        return false
      }),
    )
  }
  const parsed = recipeFileSchema.safeParse({
    ...(raw as object),
    settings: strip(known.settings),
    variants: Object.fromEntries(
      (['fine', 'coarse'] as const).map((v) => [
        v,
        {
          pins: strip(known.variants?.[v]?.pins ?? {}),
          settings: strip(known.variants?.[v]?.settings ?? {}),
        },
      ]),
    ),
  })
  if (!parsed.success) {
    const [issue] = parsed.error.issues
    const path = issue.path.join('.')
    throw new RecipeFileError(`This recipe file cannot be used, because of “${path}”: ${issue.message}`, path)
  }
  const file: RecipeFile = parsed.data
  for (const [where, settings] of [
    ['settings', file.settings],
    ['variants.fine.settings', file.variants.fine.settings],
    ['variants.coarse.settings', file.variants.coarse.settings],
  ] as const)
    for (const [key, s] of Object.entries(settings).filter(isKnown)) {
      const own = settingOf(key)
      const unit = own.kind === 'number' ? own.unit : ''
      if (s.unit !== unit)
        throw new RecipeFileError(
          `${own.label} is given in “${s.unit || 'no unit'}”; Verimend works in “${unit || 'no unit'}”.`,
          `${where}.${key}.unit`,
        )
      const fault = faultOf(key, s.value)
      if (fault) throw new RecipeFileError(say(fault), `${where}.${key}.value`)
      for (const o of s.stack)
        if (typeof o.value !== typeof s.value)
          throw new RecipeFileError(`${own.label}: one of its sources does not fit.`, `${where}.${key}.stack`)
    }
  for (const v of ['fine', 'coarse'] as const)
    for (const [key, p] of Object.entries(file.variants[v].pins).filter(isKnown)) {
      const fault = faultOf(key, p.value)
      if (fault) throw new RecipeFileError(say(fault), `variants.${v}.pins.${key}`)
    }
  return {
    file,
    ignored: [...new Set(ignored)],
    missing: SETTING_KEYS.filter((k) => !Object.hasOwn(file.settings, k)),
  }
}

const recipeText = z
  .string()
  .max(MAX_RECIPE_FILE, { error: 'This file is larger than a recipe can be (1 MB).' })
export const readRecipe = z.object({
  text: recipeText,
  /** Machine and roll it is to go to; those it was written for where they are left out. */
  machineId: idText.nullish(),
  filamentId: idText.nullish(),
})
const fileDifference = z.object({
  key: settingKey,
  grade: z.enum(GRADES),
  from: settingValue.optional(),
  to: settingValue,
  reason,
})
/** What taking a recipe file in would do; nothing is changed yet. */
export const recipePreview = z.object({
  number: z.number(),
  reason: z.string(),
  written: z.string(),
  machine: z.object({ name: z.string(), id: idText.nullable(), same: z.boolean() }),
  filament: z.object({
    name: z.string(),
    id: idText.nullable(),
    removed: z.boolean(),
    /** Of the family the file was written for. */
    sameFamily: z.boolean(),
  }),
  /** The pair it belongs to, where there is one, and its current version. */
  pair: z.object({ id: idText, current: z.number() }).nullable(),
  differences: z.array(fileDifference),
  ignored: z.array(z.string()),
  missing: z.array(settingKey),
})
export type RecipePreview = z.infer<typeof recipePreview>
export const importRecipe = z.object({
  text: recipeText,
  /** The machine to take it in on; null makes the file's machine anew. */
  machineId: idText.nullable(),
  /** The roll; null puts the file's roll on the shelf. */
  filamentId: idText.nullable(),
  /** Current version of the pair the preview was made against; null where there was none. */
  base: z.int().min(1).nullable(),
  /** Settings to take; left out for all. */
  take: z
    .array(z.object({ key: settingKey, grade: z.enum(GRADES) }))
    .max(400)
    .optional(),
})
export const importedRecipe = z.object({
  pairId: idText,
  version: z.number(),
  /** What has to be taken back to undo it. */
  before: z.number().nullable(),
  filamentId: idText,
  shelved: z.boolean(),
  machineId: idText,
  machineMade: z.boolean(),
})
export type ImportedRecipe = z.infer<typeof importedRecipe>
