import { z } from 'zod'
import { wholeIn } from './common'

/** Largest file that is kept, bytes; and the most one part may carry. */
export const MAX_BLOB = 250_000_000
export const MAX_BLOB_PART = 4_000_000

export const sha256Text = z
  .string()
  .regex(/^[0-9a-f]{64}$/, { error: 'A fingerprint is 64 hexadecimal digits (SHA-256).' })
export const beginBlob = z.object({
  sha256: sha256Text,
  bytes: wholeIn(1, MAX_BLOB, 'The file’s size', 'bytes'),
})
/** How much of a file is there. */
export const blobState = z.object({ sha256: sha256Text, have: z.number(), done: z.boolean() })
export type BlobState = z.infer<typeof blobState>
