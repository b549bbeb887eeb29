import { createZodDto as create } from 'nestjs-zod'
import type { ZodType } from 'zod'

/** What the library asks a class for, again and again, while it describes the API. */
type Properties = Record<string, Record<PropertyKey, unknown>>

/**
 * A class for the body, the query or the answer of a handler, checked by a schema.
 * Its description is worked out once: a recipe has a hundred settings, and each handler asks for all that it holds several times.
 */
export function createZodDto<T extends ZodType>(schema: T) {
  const Dto = create(schema)
  const describe = Dto as unknown as { _OPENAPI_METADATA_FACTORY: () => Properties }
  const worked = describe._OPENAPI_METADATA_FACTORY
  let known: Properties | null = null
  describe._OPENAPI_METADATA_FACTORY = function () {
    known ??= worked.call(this)
    // what is handed out is written into
    return Object.fromEntries(Object.entries(known).map(([name, property]) => [name, { ...property }]))
  }
  return Dto
}
