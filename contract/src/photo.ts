import { z } from 'zod'
import { idText, numberIn, textUpTo, wholeIn } from './common'

/** Largest photo that is taken in, bytes. */
export const MAX_PHOTO_BYTES = 25_000_000
/** Most photos of one case. */
export const MAX_PHOTOS = 60

const place = (what: string) => numberIn(0, 10_000, what, 'px')
/** A mark on a photo, in pixels of the kept picture. */
export const photoMark = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('ring'),
    x: place('The ring'),
    y: place('The ring'),
    r: numberIn(2, 10_000, 'The ring’s radius', 'px'),
  }),
  z.object({
    kind: z.literal('length'),
    x1: place('The line'),
    y1: place('The line'),
    x2: place('The line'),
    y2: place('The line'),
  }),
])
export type PhotoMark = z.infer<typeof photoMark>

export const casePhoto = z.object({
  id: idText,
  /** The attempts made before it was taken: 0 shows the fault, n the print after attempt n. */
  afterAttempt: z.number(),
  width: z.number(),
  height: z.number(),
  note: z.string(),
  marks: z.array(photoMark),
  /** mm per pixel, where a length in the picture is known. */
  scale: z.number().nullable(),
  createdAt: z.string(),
})
export type CasePhoto = z.infer<typeof casePhoto>

/** A photo of one place of a test piece. */
export const trialPhoto = z.object({ id: idText, cell: z.string() })
export type TrialPhoto = z.infer<typeof trialPhoto>

export const updatePhoto = z.object({
  note: textUpTo(400, 'The note'),
  marks: z.array(photoMark).max(40, { error: 'At most forty marks fit on a photo.' }),
  scale: numberIn(0.0001, 100, 'The scale', 'mm per pixel').nullable(),
  afterAttempt: wholeIn(0, 10_000, 'The attempt'),
})
export type UpdatePhoto = z.infer<typeof updatePhoto>
