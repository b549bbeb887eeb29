import { z } from 'zod'

/** How the server is. */
export const health = z.object({
  status: z.literal('ok'),
  /** Bytes that are left on the disk it writes to; null where the system does not say. */
  room: z.number().nullable(),
})
export type Health = z.infer<typeof health>
