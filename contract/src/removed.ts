import { z } from 'zod'
import { idText } from './common'

/** Kinds of things that can be put away and brought back. */
export const REMOVABLE = ['case', 'machine', 'filament', 'trial', 'measurement', 'part', 'photo'] as const
export const removable = z.enum(REMOVABLE, { error: 'Nothing of that kind is put away.' })
export type Removable = z.infer<typeof removable>

/** Days that something put away can be brought back. */
export const REMOVED_DAYS = 30

export const removedThing = z.object({
  kind: removable,
  id: idText,
  /** What it is called, or what it belongs to. */
  name: z.string(),
  removedAt: z.string(),
  /** When it goes for good; null while something still needs it. */
  goesAt: z.string().nullable(),
  /** Bytes of kept files that go with it. */
  bytes: z.number(),
})
export type RemovedThing = z.infer<typeof removedThing>

/** What became of something that was deleted for good. */
export const freed = z.object({ bytes: z.number() })
export type Freed = z.infer<typeof freed>
