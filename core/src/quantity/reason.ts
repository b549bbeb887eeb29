/** What a reason may speak of. Numbers carry no unit here: the code says in which unit they are meant. */
export type ReasonValue = number | string | boolean | null | Reason | readonly ReasonValue[]

/**
 * Why something is so: the code of a sentence and the values it is made of. Plain data that is stored and sent as
 * it is; the sentence itself is made where it is shown.
 */
export interface Reason<Code extends string = string> {
  code: Code
  values: { readonly [name: string]: ReasonValue }
}

/** A list of codes, each with the values its sentence needs. */
export type ReasonCodes<Codes> = { [C in keyof Codes]: { [name: string]: ReasonValue } | object }

/** The values that go with a code; none have to be given where there are none. */
type Given<Values> = keyof Values extends never ? [] : [values: Values]

/** A code of a list with its values, as arguments to hand on. */
export type ReasonArguments<Codes> = {
  [C in keyof Codes & string]: [code: C, ...Given<Codes[C]>]
}[keyof Codes & string]

/**
 * Makes the function by which a room gives its reasons: codes and values are held against the room's list.
 * @example
 * interface TravelReasons { 'too-slow': { speed: number } }
 * const travelReason = reasonsOf<TravelReasons>()
 * travelReason('too-slow', { speed: 80 })
 */
export function reasonsOf<Codes extends ReasonCodes<Codes>>() {
  return (...[code, values]: ReasonArguments<Codes>): Reason<keyof Codes & string> => ({
    code,
    values: (values ?? {}) as Reason['values'],
  })
}

/** A sentence that somebody wrote, or that was kept from before there were codes. */
export const said = (text: string): Reason<'said'> => ({ code: 'said', values: { text } })

/** A kept reason in today's shape: a sentence from before there were codes is taken as it was said. */
export function upgradeReason(stored: unknown): Reason {
  if (typeof stored === 'string') return said(stored)
  const r = stored as Partial<Reason> | null
  return typeof r?.code === 'string' ? { code: r.code, values: r.values ?? {} } : said('')
}
