import { z } from 'zod'

/** Signing in: with the passphrase, or with a word that somebody who is in has asked for. */
export const signIn = z
  .object({ passphrase: z.string().max(200).optional(), invitation: z.string().max(60).optional() })
  .refine((given) => given.passphrase || given.invitation, { message: 'Please type the passphrase.' })
export type SignIn = z.infer<typeof signIn>

/** Which sessions end. */
export const signOut = z.object({
  everywhere: z
    .enum(['0', '1'])
    .optional()
    .transform((v) => v === '1'),
})

export const session = z.object({
  /** Whether a passphrase is asked for. */
  needed: z.boolean(),
  signedIn: z.boolean(),
})
export type Session = z.infer<typeof session>

/** Somewhere the application is signed in to. */
export const signedInDevice = z.object({
  /** Says which, and opens nothing. */
  id: z.string(),
  kind: z.enum(['phone', 'tablet', 'computer', 'program']),
  /** The one that asks. */
  own: z.boolean(),
  /** ISO times; used is right to a day. */
  since: z.string(),
  used: z.string(),
})
export const signedInDevices = z.array(signedInDevice)
export type SignedInDevice = z.infer<typeof signedInDevice>

/** Where a phone in the same network finds the application. */
export const phoneAddresses = z.object({
  /** None where the application is not shared. */
  addresses: z.array(z.string()),
  /** Lets one phone in without the passphrase, for five minutes. */
  invitation: z.string().nullable(),
})
export type PhoneAddresses = z.infer<typeof phoneAddresses>
