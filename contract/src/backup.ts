import { z } from 'zod'

/** Name of a kept backup: the day and time it was made, and why. */
export const backupName = z
  .string()
  .regex(/^verimend-\d{4}-\d\d-\d\d-\d{6}-(daily|asked)\.tar\.gz$/, { error: 'There is no such backup.' })

export const keptBackup = z.object({ name: backupName, bytes: z.number(), madeAt: z.string() })
export type KeptBackup = z.infer<typeof keptBackup>

export const keptBackups = z.object({
  /** Whether one is made each day. */
  daily: z.boolean(),
  /** Why the last one of a day could not be made; null when it could. */
  failed: z.string().nullable(),
  list: z.array(keptBackup),
})
export type KeptBackups = z.infer<typeof keptBackups>

export const setDaily = z.object({ daily: z.boolean() })

/** What stands at the end of a backup: what it holds, and the fingerprints to check it by. */
export const manifest = z.object({
  format: z.literal('verimend-backup', { error: 'This is no backup of Verimend.' }),
  version: z.literal([1, 2], {
    error: 'This backup was made by a newer Verimend. Restore it with that one.',
  }),
  madeAt: z.string(),
  /** Changes of the tables that its database has seen, oldest first. */
  migrations: z.array(z.string().max(100)),
  database: z.object({ bytes: z.number(), sha256: z.string() }),
  files: z.array(z.object({ name: z.string(), bytes: z.number(), sha256: z.string() })),
  /** Kept files that lie in a folder beside it, which several backups share; from version 2 on. */
  beside: z.array(z.object({ name: z.string(), bytes: z.number(), sha256: z.string() })).default([]),
  /** Kept files that were not there any more when it was made. */
  missing: z.array(z.string()),
})
export type Manifest = z.infer<typeof manifest>
