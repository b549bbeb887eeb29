import type { Reason, ReasonValue } from '@verimend/core/quantity'
import { z } from 'zod'

const KINDS: Record<string, string> = {
  number: 'This has to be a number.',
  int: 'This has to be a whole number.',
  string: 'This has to be text.',
  boolean: 'This has to be yes or no.',
  array: 'This has to be a list.',
  object: 'This has to be a set of fields.',
  record: 'This has to be a set of fields.',
}

/** One plain sentence for a fault whose field has none of its own. */
export function plainFault(issue: z.core.$ZodRawIssue): string {
  switch (issue.code) {
    case 'invalid_type':
      return issue.input === undefined
        ? 'This is missing.'
        : (KINDS[issue.expected] ?? 'This is of another kind.')
    case 'invalid_value':
      return issue.values.length > 8
        ? 'This is none of the choices.'
        : `This is one of ${issue.values.map(String).join(', ')}.`
    case 'too_big':
      if (issue.origin === 'string') return `This has at most ${issue.maximum} characters.`
      if (issue.origin === 'array') return `This list has at most ${issue.maximum} entries.`
      return `This is at most ${issue.maximum}.`
    case 'too_small':
      if (issue.origin === 'string') return `This has at least ${issue.minimum} characters.`
      if (issue.origin === 'array') return `This list has at least ${issue.minimum} entries.`
      return `This is at least ${issue.minimum}.`
    case 'invalid_format':
      return 'This is not written as it should be.'
    case 'unrecognized_keys':
      return `Nobody knows of ${issue.keys.slice(0, 4).join(', ').slice(0, 80)} here.`
    case 'invalid_key':
      return 'This is no name that belongs here.'
    default:
      return 'This is nothing that fits here.'
  }
}
z.config({ customError: plainFault })

/** A number with one sentence for everything that can be wrong with it. */
export const numberIn = (min: number, max: number, what: string, unit = '') => {
  const sentence = `${what} is a number from ${min} to ${max}${unit ? ' ' + unit : ''}.`
  return z.number({ error: sentence }).min(min, { error: sentence }).max(max, { error: sentence })
}
export const wholeIn = (min: number, max: number, what: string, unit = '') => {
  const sentence = `${what} is a whole number from ${min} to ${max}${unit ? ' ' + unit : ''}.`
  return z.int({ error: sentence }).min(min, { error: sentence }).max(max, { error: sentence })
}
/** A whole number in an address. */
const counted = (least: number, most: number, what: string) =>
  z.coerce.number({ error: `${what} is a whole number.` }).pipe(wholeIn(least, most, what))
/** Which piece of a long list: how many entries come before it, and how many it holds at most. */
export const page = (usual: number) => ({
  skip: counted(0, 1_000_000, 'What is skipped').default(0),
  limit: counted(1, 200, 'The length of a page').default(usual),
})
/** Text without control characters; markup in it is only ever shown as text. */
export const textUpTo = (most: number, what: string, least = 0) => {
  const sentence =
    least > 0 ? `${what} needs ${least} to ${most} characters.` : `${what} has at most ${most} characters.`
  return (
    z
      .string({ error: sentence })
      .trim()
      .min(least, { error: sentence })
      .max(most, { error: sentence })
      // eslint-disable-next-line no-control-regex
      .refine((t) => !/[\u0000-\u0008\u000b\u000c\u000e-\u001f\u007f]/.test(t), {
        error: `${what} holds characters that cannot be shown.`,
      })
  )
}
export const rangeIn = (min: number, max: number, what: string, unit: string) =>
  z
    .object({
      min: numberIn(min, max, `${what}, lower end,`, unit),
      max: numberIn(min, max, `${what}, upper end,`, unit),
    })
    .refine((r) => r.min <= r.max, { error: `${what}: the lower end is above the upper end.` })
export const dateText = (what: string) =>
  z
    .string({ error: `${what} is a day such as 2026-05-01.` })
    .regex(/^\d{4}-\d{2}-\d{2}$/, { error: `${what} is a day such as 2026-05-01.` })
    .refine((t) => Number.isFinite(Date.parse(t)), { error: `${what} is no day of the calendar.` })
export const idText = z.uuid({ error: 'That is no id.' })
export const revision = wholeIn(0, 1_000_000_000, 'The revision')

/** An enumeration of the ids of a room. */
export const oneOf = <Id extends string>(ids: readonly Id[], error?: string) =>
  z.enum(ids as readonly [Id, ...Id[]], error === undefined ? undefined : { error })

const scalar = z.union([z.number(), z.string().max(1000), z.boolean(), z.null()])
/** Reasons hold reasons, but not without end. */
const DEEPEST_REASON = 6
function reasonDown(depth: number): z.ZodType<Reason> {
  const inner: z.ZodType<ReasonValue> = depth ? z.union([scalar, reasonDown(depth - 1)]) : scalar
  return z.object({
    code: z.string().max(60),
    values: z.record(z.string().max(40), z.union([inner, z.array(inner).max(200)])),
  })
}
/** A reason: the code of a sentence and the values it is made of. */
export const reason = reasonDown(DEEPEST_REASON)

/** RFC 9457 problem document. */
export const problemSchema = z.object({
  type: z.string(),
  title: z.string(),
  status: z.number(),
  /** Stable word for programs. */
  code: z.string(),
  /** One sentence a person can act on. */
  detail: z.string(),
  fields: z.array(z.object({ path: z.string(), message: z.string() })).optional(),
  /** s after which it is worth asking again. */
  retryAfter: z.number().optional(),
  /** For conflicts: what stands now. */
  current: z.unknown().optional(),
})
export type Problem = z.infer<typeof problemSchema>
