import { createHash } from 'node:crypto'
import { join } from 'node:path'
import { Writable } from 'node:stream'
import { QueryTypes, type Sequelize } from 'sequelize'
import type { Manifest } from '@verimend/contract'
import type { Config } from '../config'
import { dumpSql, loadSql } from '../database/dump'
import { MIGRATIONS } from '../database/migrations'
import { BackupError, checkBackup, standinFolder, unpackBackup } from './archive'

/** @throws BackupError for a backup whose tables this program does not know */
function refuseNewer({ migrations }: Manifest): void {
  const known = new Set(MIGRATIONS.map((m) => m.name))
  const newer = migrations.find((m) => !known.has(m))
  if (newer)
    throw new BackupError(
      `This backup was made by a newer Verimend (it knows ${newer}). Restore it with that one or a later.`,
    )
}

const tablesOf = async (sequelize: Sequelize): Promise<string[]> =>
  (await sequelize.query<object>('SHOW TABLES', { type: QueryTypes.SELECT })).map((t) =>
    String(Object.values(t)[0]),
  )

/**
 * Makes sure that a database holds nothing that somebody could miss.
 * @returns the tables that are there
 * @throws BackupError when there is a machine or a roll, or a table that is not ours
 */
export async function refuseFilled(sequelize: Sequelize): Promise<string[]> {
  const tables = await tablesOf(sequelize)
  const filled = tables.includes('machines')
    ? await sequelize.query('SELECT 1 FROM machines UNION ALL SELECT 1 FROM filaments LIMIT 1', {
        type: QueryTypes.SELECT,
      })
    : tables
  if (filled.length)
    throw new BackupError(
      'There are machines and rolls in this data folder already. Restore into an empty or a new folder.',
    )
  return tables
}

/**
 * Puts back what a backup holds: the whole backup is checked first, and after it the database is written out once more and
 * compared, byte by byte, with what was in the backup.
 * @param config of a database without anything in it, and a folder for kept files
 * @param over whether what is there is what a restore that was cut short has left
 * @throws BackupError that says what is wrong; where that is the backup, nothing was changed
 */
export async function restoreBackup(
  config: Pick<Config, 'database' | 'files'>,
  sequelize: Sequelize,
  path: string,
  over = false,
): Promise<Manifest> {
  const manifest = await checkBackup(path)
  refuseNewer(manifest)
  const tables = over ? await tablesOf(sequelize) : await refuseFilled(sequelize)
  await unpackBackup(
    path,
    manifest,
    (body) => loadSql(config.database, body, tables),
    (file) =>
      'kept' in file
        ? join(config.files, file.kept.slice(0, 2), file.kept)
        : join(standinFolder(config), file.simulated),
  )
  const hash = createHash('sha256')
  await dumpSql(
    config.database,
    new Writable({
      write(chunk: Buffer, _, done) {
        hash.update(chunk)
        done()
      },
    }),
  )
  if (hash.digest('hex') !== manifest.database.sha256)
    throw new BackupError('What was restored is not what the backup holds. Is it another kind of database?')
  return manifest
}
