const isPlain = (v: unknown): v is Record<string, unknown> =>
  typeof v === 'object' && v !== null && !Array.isArray(v)

/**
 * A kept record with the fields it lacks taken from a template, at any depth: for records that are older than a field.
 * Lists, nulls and values of another kind are left as they are.
 */
export function fillMissing<T>(template: T, stored: unknown): T {
  if (!isPlain(template) || !isPlain(stored)) return (stored === undefined ? template : stored) as T
  const out: Record<string, unknown> = { ...stored }
  for (const [key, value] of Object.entries(template)) out[key] = fillMissing(value, stored[key])
  return out as T
}
